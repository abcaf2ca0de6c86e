"""What the Ladder's views share: the document, its verdict, the selection, tried remedies."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.reckoning import Reckoning, Reckons
from tonleiter.app.spaces.ladder.grasp import VOICE_INDEX, Move
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.gear.base import Gear
from tonleiter.core.judge.assess import Assessment, assess
from tonleiter.core.judge.certainty import Doubts, weigh
from tonleiter.core.judge.findings.model import Finding, Remedies, Remedy, counting
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.why.at_end import why_bass, why_hum, why_knob, why_noise, why_room
from tonleiter.core.report.why.level import why_level
from tonleiter.core.report.why.model import Why
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.solve.solution import DRAFT_POINTS, POINTS
from tonleiter.core.solve.spread import solve_spread
from tonleiter.core.station import edits
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.model import Chain, Station

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


# the number of the stage that is chosen in a chain; None leaves it as it was
Choose = Callable[[Assessment], int | None]


class LadderModel(Reckons):
    """Derived from the document; holds no figures of its own.

    While the hand moves the chain is solved on a coarse grid; when it rests comes the verdict, with
    the build, then its remedies, then how sure it all is.
    """

    changed = Signal()
    badge_changed = Signal()
    selection_changed = Signal()
    remedies_changed = Signal()
    doubts_changed = Signal()
    grounds_wanted = Signal()
    readings_wanted = Signal()
    no_remedy = "No single edit mends this: “Search for a path” in Match (2) builds one."

    def __init__(
        self, document: Document, jobs: Jobs, verdicts: Verdicts, reckoning: Reckoning
    ) -> None:
        super().__init__(document)
        self.reckoning = reckoning
        self._verdicts = verdicts
        self.selected = 0
        # the stage that an edit chooses: told with what it changed, not after it
        self._chooses: Choose | None = None
        self._moving = False
        self._solved: Derived[Assessment] = self.derive(jobs, Wait.HAND, self._solved_anew, False)
        self._ghost: Derived[Assessment] = self.derive(jobs, Wait.HAND, self._news)
        self._verdict: Derived[Verdict] = self.derive(jobs, Wait.HAND, self._judged, False)
        self._tried: Derived[Remedies] = self.derive(jobs, Wait.HAND, self._tried_some, False)
        self._weighed: Derived[Weighed] = self.derive(jobs, Wait.LATER, self.doubts_changed.emit)
        self._resting = self.when_resting(REST_MS, self._after_rest)
        self.seen = self._gathers = False
        self._behind = True
        document.changed.connect(self._follow)
        reckoning.changed.connect(self._follow)
        self._resting.start()

    @property
    def chain(self) -> Chain | None:
        """The open chain, if the station has one."""
        return self.station.chain() if self.station.chains else None

    @property
    def solving(self) -> bool:
        """Whether a long chain is being solved behind the window."""
        return self._solved.busy

    # --- what is derived -------------------------------------------------------------------------

    @property
    def assessment(self) -> Assessment | None:
        """The chain, solved: as the hand moves, or with the verdict."""
        verdict = self.verdict
        return verdict.assessment if verdict is not None else self._solved.current

    @property
    def verdict(self) -> Verdict | None:
        """The verdict on what stands there now; None while the hand moves."""
        return self._verdict.current

    @property
    def ghost(self) -> Assessment | None:
        """The variant that is shown beside."""
        return self._ghost.current

    @property
    def trouble(self) -> str:
        """Why there are no levels."""
        if self.solving:
            return "This chain is long; it is being solved …"
        why = self._solved.trouble or self._verdict.trouble
        return f"This chain has no solution: {why}." if why else ""

    @property
    def bands(self) -> dict[str, Band]:
        """How far levels may lie off; they stay beside a moving level until they are known anew."""
        return self._weighed.value.bands if self._weighed.value else {}

    @property
    def doubts(self) -> Doubts | None:
        """How sure the findings are, once it is known of these."""
        current = self._weighed.current
        return current.doubts if current is not None and self.verdict is not None else None

    def _follow(self) -> None:
        """An edit: solved at once where somebody looks, else judged behind the window."""
        if self.seen:
            self.refresh()
            return
        self.rest()
        if self.chain is None or not self._verdict.rests_on(basis_of(self.station)):
            for derived in (self._solved, self._ghost, self._verdict, self._tried):
                derived.nothing()
        self._resting.start()
        self._news()

    def look(self, seen: bool) -> None:
        """Whether anybody looks at the Ladder; what was left undone is done first."""
        self.seen = seen
        if seen:
            self.catch_up()
            self._resting.start()

    def catch_up(self) -> None:
        """Solve and show what was edited while nobody looked."""
        if self._behind:
            self.refresh()

    def refresh(self) -> None:
        """Look at the document again and tell the views, once."""
        self._behind, self._gathers = False, True
        try:
            self._look_again()
        finally:
            self._gathers = False
        self._news()

    def _look_again(self) -> None:
        chain = self.chain
        if chain is None:
            for derived in (self._solved, self._ghost, self._verdict, self._tried, self._weighed):
                derived.nothing()
            return
        basis, station = basis_of(self.station), self.station
        if not self._verdict.rests_on(basis):
            self._verdict.nothing()
            self._tried.nothing()
        self._forget_bands(basis)
        # another space may have it already
        known = None if self._moving else self._verdicts.known(basis)
        if known is not None:
            self._verdict.want_now(basis, lambda: known)
        elif len(chain.variant().stages) > MOST_AT_ONCE:
            self._solved.want(basis, lambda _: assess(station))
        elif self.verdict is None:
            points = DRAFT_POINTS if self._moving else POINTS
            self._solved.want_now((basis, points), lambda: assess(station, points=points))
        self._look_at_ghost(chain)
        if not self._moving or self.verdict is None:
            self._resting.start()

    def _news(self) -> None:
        """Tell the views; the selection stays within the chain. Out of sight only the badge."""
        if self._gathers:
            return
        if not self.seen:
            self._behind = True
            self.badge_changed.emit()
            return
        if self.assessment is not None:
            self._choose(self.assessment)
            self.selected = min(max(self.selected, VOICE_INDEX), len(self.assessment.rows) - 1)
        self.changed.emit()

    def _choose(self, now: Assessment) -> None:
        chosen = self._chooses(now) if self._chooses is not None else None
        self.selected = self.selected if chosen is None else chosen

    def _solved_anew(self) -> None:
        """A long chain was solved behind the window: what follows is due."""
        if not self._solved.busy:
            self._resting.start()
            self._news()

    def _judged(self) -> None:
        if self.verdict is not None:
            self._news()
            if self.seen:
                self._try()

    def _forget_bands(self, basis: Basis) -> None:
        """Other chains and variants have other bands."""
        was = self._weighed.basis
        if isinstance(was, Basis) and (was.chain, was.variant) != (basis.chain, basis.variant):
            self._weighed.nothing()

    def _look_at_ghost(self, chain: Chain) -> None:
        ghost = chain.ghost
        if ghost is None or ghost == chain.shown:
            self._ghost.nothing()
            return
        if len(chain.variant(ghost).stages) > MOST_AT_ONCE:
            self._ghost.nothing()
            return
        station = self.station
        self._ghost.want_now(
            basis_of(station, chain.id, ghost), lambda: assess(station, chain.id, ghost)
        )

    def found(self) -> tuple[Finding, ...]:
        """What counts for the chain's sound, gravest first."""
        if self.verdict is not None:
            return self.verdict.found("chain")
        return counting(self.assessment.findings, "chain") if self.assessment else ()

    def stops(self) -> tuple[Finding, ...]:
        """What must be mended first."""
        return tuple(f for f in self.found() if f.severity == "stop")

    def place_of(self, finding: Finding) -> str:
        """The name of the stage that a finding is said of."""
        rows = self.assessment.rows if self.assessment else ()
        return next((r.name for r in rows if r.id == finding.stage), finding.stage)

    def _after_rest(self) -> None:
        """The hand rests: the verdict on the full grid, then remedies, then doubts."""
        chain = self.chain
        if chain is None or self._solved.busy or self._solved.trouble:
            return
        station, basis, verdicts = self.station, basis_of(self.station), self._verdicts
        if not self._verdict.want(basis, lambda _: verdicts.of(station, basis)) and self.seen:
            self._try()

    def _try(self) -> None:
        """Try the remedies of everything that was found; say how sure it is.

        Out of sight nobody asks for either: the badge counts what the verdict found.
        """
        verdict = self.verdict
        if verdict is None:
            return

        def job(task: Task) -> Remedies:
            known: Remedies = {}
            for finding in verdict.found("chain"):
                known = {**known, finding.key: verdict.remedies(finding)}
                task.tell(known)
            return known

        self._tried.want(self._verdict.basis, job)

    def _tried_some(self) -> None:
        self.remedies_changed.emit()
        verdict = self.verdict
        if verdict is not None and self._tried.whole:
            self._weighed.want(self._verdict.basis, lambda _: weighed(verdict.assessment))

    def judged_on(self) -> Assessment | None:
        """The chain that is shown."""
        return self.assessment

    def why(self, what: str) -> Callable[[], Why | None] | None:
        """What answers why the chosen stage has its level, room, noise, hum or gain."""
        now, index = self.assessment, max(self.selected, 0)
        if now is None:
            return None
        answers: dict[str, Callable[[], Why | None]] = {
            "level": lambda: why_level(now, index),
            "room": lambda: why_room(now, index),
            "noise": lambda: why_noise(now),
            "hum": lambda: why_hum(now),
            "bass": lambda: why_bass(now),
            "gain": lambda: why_knob(now),
        }
        return answers[what]

    def why_at_radio(self) -> Callable[[], Why | None] | None:
        """What answers how the level of the headline comes about."""
        now = self.assessment
        return None if now is None else lambda: why_level(now)

    def whys(self) -> tuple[str, ...]:
        """What can be asked of the chosen stage."""
        now, index = self.assessment, self.selected
        if now is None or index == VOICE_INDEX:
            return ()
        row, last = now.rows[index], index == len(now.rows) - 1
        holds = {
            "level": True,
            "room": row.headroom_db is not None and row.speech_dbu > SILENT_DBU,
            "noise": last and row.speech_dbu > SILENT_DBU,
            "hum": last and row.hum_dbu is not None and row.speech_dbu > SILENT_DBU,
            "bass": last and now.corners_hz[0] is not None,
            "gain": last and row.knob is not None and row.speech_dbu > SILENT_DBU,
        }
        return tuple(what for what, is_there in holds.items() if is_there)

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """Remedies that were tried and work; None while they are still being tried."""
        return (self._tried.current or {}).get(finding.key)

    def finish(self, upto: Wait = Wait.PAGE) -> None:
        """Everything that is due comes, also what nobody looks at."""
        seen, self.seen = self.seen, True
        try:
            self.catch_up()
            super().finish(upto)
            self._try()
            super().finish(upto)
        finally:
            self.seen = seen

    def as_typed(self, gear: Gear) -> Gear:
        """A piece of the chain as it is written, whatever was learned of it."""
        stages = self.typed.chain().variant().stages if self.typed.chains else ()
        stage = next((s for s in stages if s.gear == gear.id), None)
        return gear if stage is None else self.typed.placed(stage)

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

    def _edit_and_choose(
        self, label: str, change: Callable[[Station], Station], chooses: Choose
    ) -> None:
        """One edit and what it chooses, seen at once: views are built once."""
        self._chooses = chooses
        try:
            self.edit(label, change)
        finally:
            # of another edit it would be the wrong one
            self._chooses = None

    def _open(self) -> Chain:
        chain = self.chain
        if chain is None:
            raise EditRefusedError("there is no chain yet to change")
        return chain

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply a tried remedy as one undo step."""
        self._edit_and_choose(
            remedy.title,
            remedy.change,
            lambda now: next((k for k, r in enumerate(now.rows) if r.id == finding.stage), None),
        )

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
        self._edit_and_choose(
            f"put in {gear.name}",
            lambda station: edits.insert_stage(station, chain.id, chain.shown, place, gear),
            lambda _: place,
        )

    def shift(self, stage: int, places: int) -> None:
        """Move a stage towards the radio, or back."""
        chain = self._open()
        count = len(chain.variant().stages)
        wanted = min(max(stage + places, 1), count - 2)
        if not 0 < stage < count - 1 or wanted == stage:
            return
        self._edit_and_choose(
            "move",
            lambda station: edits.move_stage(station, chain.id, chain.shown, stage, places),
            lambda _: wanted,
        )

    def remove(self, stage: int) -> None:
        """Take a stage out of the variant."""
        chain = self._open()
        self.edit(
            "leave out",
            lambda station: edits.remove_stages(station, chain.id, chain.shown, {stage}),
        )
