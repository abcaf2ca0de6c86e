"""What the Ladder's views share: the document, its solution, the selection, tried remedies."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QTimer, Signal

from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.editing import Editing
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.safety.trouble import trouble
from tonleiter.app.spaces.ladder.grasp import VOICE_INDEX, Move
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.assess import Assessment, assess, remedies
from tonleiter.core.judge.certainty import Doubts, weigh
from tonleiter.core.judge.findings.model import SEVERITIES, Finding, Remedy
from tonleiter.core.judge.wired import (
    Wired,
    concern_the_chain,
    is_of_wiring,
    wired,
    wiring_remedies,
)
from tonleiter.core.solve.solution import DRAFT_POINTS, POINTS
from tonleiter.core.solve.spread import solve_spread
from tonleiter.core.station import edits
from tonleiter.core.station.model import Chain, Station
from tonleiter.core.station.wiring import AS_DERIVED

# what follows an edit in the background begins when the hand rests
REST_MS = 150
# longer chains are solved behind the window: it must not stand still meanwhile
MOST_AT_ONCE = 30

Band = tuple[float, float]


@dataclass(frozen=True)
class Weighed:
    """How far each stage's speech level may lie below and above, by stage id; how sure findings."""

    bands: dict[str, Band]
    doubts: Doubts | None


def weighed(assessment: Assessment) -> Weighed:
    """Draws of the uncertain figures: bands of levels and certainty of findings."""
    spread = solve_spread(assessment.solution, assessment.rows)
    if spread is None:
        return Weighed({}, None)
    bands = {}
    for k, row in enumerate(assessment.rows):
        low, high = spread.band_dbu(k)
        bands[row.id] = (row.speech_dbu - low, high - row.speech_dbu)
    return Weighed(bands, weigh(assessment, spread))


@dataclass(frozen=True)
class Tried:
    """Remedies of one finding that were tried and work."""

    key: tuple[str, str]
    remedies: tuple[Remedy, ...]


def _tried(of: Assessment, at_contacts: Wired | None, finding: Finding) -> tuple[Remedy, ...]:
    """Remedies of a finding of the chain, or of its wiring."""
    if at_contacts is not None and is_of_wiring(finding):
        return wiring_remedies(at_contacts, finding)
    return remedies(of, finding)


class LadderModel(Editing):
    """Derived from the document at every change; holds no figures of its own."""

    changed = Signal()
    selection_changed = Signal()
    remedies_changed = Signal()
    doubts_changed = Signal()
    grounds_wanted = Signal()
    no_remedy = "No simple edit mends this; look at the figures of the stage."

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__(document)
        self.assessment: Assessment | None = None
        self.ghost: Assessment | None = None
        self.wired: Wired | None = None
        self.trouble = ""
        self.selected = 0
        self._ghost_key: object = None
        self._moving = False
        self._draft = False
        self._remedies: dict[tuple[str, str], tuple[Remedy, ...]] = {}
        self.bands: dict[str, Band] = {}
        self.doubts: Doubts | None = None
        self._bands_of: object = None
        self._solves, self._tries = jobs.desk(Wait.HAND), jobs.desk(Wait.HAND)
        self._weighs = jobs.desk(Wait.LATER)
        self._solves.done.connect(self._take_solved)
        self._solves.failed.connect(self._take_unsolved)
        self._tries.told.connect(self._take_tried)
        self._tries.done.connect(self._all_tried)
        self._tries.failed.connect(self.refused)
        self._weighs.done.connect(self._take_doubts)
        self._weighs.failed.connect(self.refused)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._after_rest)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self.catch_up)
        self.seen = True
        self._stale = False
        document.changed.connect(self._follow)
        self.refresh()

    @property
    def chain(self) -> Chain | None:
        """The open chain, if the station has one."""
        return self.station.chain() if self.station.chains else None

    @property
    def solving(self) -> bool:
        """Whether a long chain is being solved behind the window."""
        return self._solves.busy

    def _follow(self) -> None:
        """An edit: solved at once where somebody looks, else after what they look at."""
        if self.seen:
            self.refresh()
        else:
            self._stale = True
            self.rest()
            self._later.start()

    def look(self, seen: bool) -> None:
        """Whether anybody looks at the Ladder; what was left undone is done first."""
        self.seen = seen
        if seen:
            self.catch_up()

    def catch_up(self) -> None:
        """Solve what was edited while nobody looked."""
        if self._stale:
            self.refresh()

    def refresh(self) -> None:
        """Solve again and tell the views; a long chain is solved behind the window."""
        self._stale = False
        self.rest()
        self._draft = self._moving
        chain = self.chain
        if chain is not None and len(chain.variant().stages) > MOST_AT_ONCE:
            station = self.station
            self._solves.start(lambda _: assess(station))
            self._show(None, "This chain is long; it is being solved …")
            return
        assessment, why = None, ""
        if chain is not None:
            try:
                assessment = assess(self.station, points=DRAFT_POINTS if self._draft else POINTS)
            except CircuitError as error:
                why = f"This chain has no solution: {error}."
            except Exception as error:  # a slip in a rule must not leave a dead window
                trouble().report(error, "judging the chain")
                why = "This chain has no solution: something went wrong while it was computed."
        self._show(assessment, why)

    def _show(self, assessment: Assessment | None, why: str) -> None:
        self.assessment, self.trouble = assessment, why
        self._look_at_wiring()
        self._refresh_ghost()
        rows = len(assessment.rows) if assessment else 0
        if assessment is not None:
            self.selected = min(max(self.selected, VOICE_INDEX), rows - 1)
        self._remedies = {}
        self._forget_doubts()
        self._rest.start(REST_MS)
        self.changed.emit()

    def _look_at_wiring(self) -> None:
        """What hands changed in the wiring has findings of its own; else there is nothing new."""
        self.wired = None
        chain = self.chain
        if self.assessment is None or chain is None or self._draft:
            return
        if chain.variant().wiring == AS_DERIVED or len(chain.variant().stages) > MOST_AT_ONCE:
            return
        try:
            self.wired = wired(self.station)
        except CircuitError as error:
            trouble().report(error, "judging the wiring")

    def found(self) -> tuple[Finding, ...]:
        """The chain's findings and those of its wiring that concern its sound, gravest first."""
        chain = self.assessment.findings if self.assessment else ()
        more = concern_the_chain(self.wired) if self.wired else ()
        return tuple(sorted((*more, *chain), key=lambda f: SEVERITIES.index(f.severity)))

    def place_of(self, finding: Finding) -> str:
        """The name of the stage that a finding is said of."""
        rows = self.assessment.rows if self.assessment else ()
        return next((r.name for r in rows if r.id == finding.stage), finding.stage)

    def _take_solved(self, assessment: object) -> None:
        assert isinstance(assessment, Assessment)
        self._show(assessment, "")

    def _take_unsolved(self, why: str) -> None:
        self._show(None, f"This chain has no solution: {why}.")

    def _forget_doubts(self) -> None:
        """Bands stay beside a moving level until they are known anew; other chains have others."""
        self.doubts = None
        chain = self.chain
        shown = (chain.id, chain.shown) if chain else None
        if shown != self._bands_of:
            self.bands, self._bands_of = {}, shown

    def _refresh_ghost(self) -> None:
        chain = self.chain
        if chain is None or chain.ghost is None or chain.ghost == chain.shown:
            self.ghost, self._ghost_key = None, None
            return
        stages = chain.variant(chain.ghost).stages
        if len(stages) > MOST_AT_ONCE:
            self.ghost, self._ghost_key = None, None
            return
        station = self.station
        placed = tuple(station.placed(s) for s in stages)
        key = (
            placed,
            chain.distance_mm,
            chain.operator,
            chain.speaks,
            chain.band,
            chain.variant(chain.ghost).wiring,
            station.devices,
            station.links,
            station.room_noise_dba,
        )
        if key == self._ghost_key:
            return
        try:
            self.ghost = assess(station, chain.id, chain.ghost)
        except CircuitError:
            self.ghost = None
        self._ghost_key = key

    def _after_rest(self) -> None:
        """The hand rests: the full grid of frequencies, then remedies, then doubts."""
        if self._draft:
            self.refresh()
            return
        assessment = self.assessment
        if assessment is None:
            return

        found, at_contacts = self.found(), self.wired

        def job(task: Task) -> None:
            for finding in found:
                task.tell(Tried(finding.key, _tried(assessment, at_contacts, finding)))

        self._tries.start(job)

    def _take_tried(self, tried: object) -> None:
        assert isinstance(tried, Tried)
        self._remedies[tried.key] = tried.remedies
        self.remedies_changed.emit()

    def _all_tried(self, _: object) -> None:
        assessment = self.assessment
        if assessment is not None:
            self._weighs.start(lambda _: weighed(assessment))

    def try_remedies_now(self) -> None:
        """Try all remedies at once, for tests and screenshots."""
        self.catch_up()
        if self._draft:
            self.refresh()
        self._rest.stop()
        self._tries.stop()
        if self.assessment is not None:
            for finding in self.found():
                self._remedies[finding.key] = _tried(self.assessment, self.wired, finding)
        self.remedies_changed.emit()

    def rest(self) -> None:
        """Stop what runs behind the window."""
        self._rest.stop()
        for desk in (self._solves, self._tries, self._weighs):
            desk.stop()

    def weigh_now(self) -> None:
        """Bands and doubts at once, for tests and screenshots."""
        if self.assessment is not None:
            self._weighs.stop()
            self._take_doubts(weighed(self.assessment))

    def _take_doubts(self, found: object) -> None:
        assert isinstance(found, Weighed)
        self.bands, self.doubts = found.bands, found.doubts
        self.doubts_changed.emit()

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """Remedies that were tried and work; None while they are still being tried."""
        return self._remedies.get(finding.key)

    def select(self, index: int) -> None:
        """Select a stage; −1 is the voice."""
        rows = len(self.assessment.rows) if self.assessment else 0
        if VOICE_INDEX <= index < rows and index != self.selected:
            self.selected = index
            self.selection_changed.emit()

    # --- edits: all raise EditRefusedError -------------------------------------------------------

    def edit(
        self, label: str, change: Callable[[Station], Station], gesture: str | None = None
    ) -> None:
        """Apply an edit; while a gesture lasts the chain is solved on a coarser grid."""
        self._moving = gesture is not None
        try:
            super().edit(label, change, gesture)
        finally:
            self._moving = False

    def _open(self) -> Chain:
        chain = self.chain
        if chain is None:
            raise EditRefusedError("there is no chain yet to change")
        return chain

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply a tried remedy as one undo step."""
        self.edit(remedy.title, lambda _station: remedy.station)
        for k, row in enumerate(self.assessment.rows if self.assessment else ()):
            if row.id == finding.stage:
                self.select(k)

    def move(self, move: Move, gesture: str | None = None) -> None:
        """Set what a drag or an arrow key moved."""
        if move.stage == VOICE_INDEX:
            self.set_chain("Distance", gesture, distance_mm=move.value)
        else:
            self.set_value(move.stage, move.field, move.value, gesture)

    def set_value(self, stage: int, field: str, value: object, gesture: str | None = None) -> None:
        """Set a field of a stage."""
        chain = self._open()
        self.edit(
            field,
            lambda station: edits.set_value(station, chain.id, chain.shown, stage, field, value),
            gesture,
        )

    def set_value_of(
        self, gear_id: str, field: str, value: object, gesture: str | None = None
    ) -> None:
        """Set a field of the stage where a piece stands, wherever that is by now."""
        stages = [s.gear for s in self._open().variant().stages]
        if gear_id not in stages:
            raise EditRefusedError("this piece does not stand in the chain any more")
        self.set_value(stages.index(gear_id), field, value, gesture)

    def set_chain(self, label: str, gesture: str | None = None, **changes: object) -> None:
        """Change fields of the open chain."""
        chain = self._open()
        self.edit(label, lambda station: edits.change_chain(station, chain.id, **changes), gesture)

    def swap(self, stage: int, gear_id: str) -> None:
        """Use another piece at a stage."""
        chain = self._open()
        self.edit(
            "other gear",
            lambda station: edits.swap_gear(station, chain.id, chain.shown, stage, gear_id),
        )

    def insertable(self) -> list[tuple[str, str]]:
        """Name and id of the pieces on the shelf that could stand between and do not yet."""
        chain = self.chain
        used = {s.gear for s in chain.variant().stages} if chain else set()
        gear = self.station.gear
        return [(g.name, g.id) for g in gear if g.role == "between" and g.id not in used]

    def insert(self, behind: int, gear_id: str) -> None:
        """Put a piece from the shelf behind a stage, and choose it."""
        chain = self._open()
        gear = self.station.gear_by_id[gear_id]
        place = min(behind + 1, len(chain.variant().stages) - 1)
        self.edit(
            f"put in {gear.name}",
            lambda station: edits.insert_stage(station, chain.id, chain.shown, place, gear),
        )
        self.select(place)

    def shift(self, stage: int, places: int) -> None:
        """Move a stage towards the radio, or back."""
        chain = self._open()
        count = len(chain.variant().stages)
        wanted = min(max(stage + places, 1), count - 2)
        if not 0 < stage < count - 1 or wanted == stage:
            return
        self.edit(
            "move",
            lambda station: edits.move_stage(station, chain.id, chain.shown, stage, places),
        )
        self.select(wanted)

    def remove(self, stage: int) -> None:
        """Take a stage out of the variant."""
        chain = self._open()
        self.edit(
            "leave out",
            lambda station: edits.remove_stages(station, chain.id, chain.shown, {stage}),
        )
