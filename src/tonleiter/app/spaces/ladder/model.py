"""What the Ladder's views share: the document, its solution, the selection, tried remedies."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, QTimer, Signal

from tonleiter.app.background import Background
from tonleiter.app.document import Document, EditRefusedError
from tonleiter.core.chain.assess import Assessment, assess, remedies
from tonleiter.core.chain.certainty import Doubts, weigh
from tonleiter.core.chain.findings.model import Finding, Remedy
from tonleiter.core.chain.grasp import VOICE_INDEX, Move
from tonleiter.core.chain.solution import DRAFT_POINTS, POINTS
from tonleiter.core.chain.spread import solve_spread
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.station import edits
from tonleiter.core.station.model import Chain

# Remedies are tried when the hand rests, one in each turn of the event loop.
REST_MS = 150


Band = tuple[float, float]


@dataclass(frozen=True)
class Weighed:
    """How far each stage's speech level may lie below and above, by stage id; how sure findings."""

    bands: dict[str, Band]
    doubts: Doubts | None


def weighed(assessment: Assessment, stopped: Callable[[], bool]) -> Weighed:
    """Draws of the uncertain figures: bands of levels and certainty of findings."""
    spread = solve_spread(assessment.solution, assessment.rows)
    if spread is None:
        return Weighed({}, None)
    bands = {}
    for k, row in enumerate(assessment.rows):
        low, high = spread.band_dbu(k)
        bands[row.id] = (row.speech_dbu - low, high - row.speech_dbu)
    return Weighed(bands, weigh(assessment, spread, stopped))


class LadderModel(QObject):
    """Derived from the document at every change; holds no figures of its own."""

    changed = Signal()
    selection_changed = Signal()
    remedies_changed = Signal()
    doubts_changed = Signal()
    refused = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.assessment: Assessment | None = None
        self.ghost: Assessment | None = None
        self.trouble = ""
        self.selected = 0
        self._ghost_key: object = None
        self._moving = False
        self._draft = False
        self._remedies: dict[tuple[str, str], tuple[Remedy, ...]] = {}
        self._untried: list[Finding] = []
        self.bands: dict[str, Band] = {}
        self.doubts: Doubts | None = None
        self._bands_of: object = None
        self._background = Background()
        self._background.done.connect(self._take_doubts)
        self._background.failed.connect(self.refused)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._try_next)
        document.changed.connect(self.refresh)
        self.refresh()

    @property
    def chain(self) -> Chain | None:
        """The open chain, if the station has one."""
        station = self.document.station
        return station.chain() if station.chains else None

    def refresh(self) -> None:
        """Solve again and tell the views."""
        self.assessment, self.trouble = None, ""
        self._draft = self._moving
        if self.chain is not None:
            try:
                points = DRAFT_POINTS if self._draft else POINTS
                self.assessment = assess(self.document.station, points=points)
            except CircuitError as error:
                self.trouble = f"This chain has no solution: {error}."
        self._refresh_ghost()
        rows = len(self.assessment.rows) if self.assessment else 0
        self.selected = min(max(self.selected, VOICE_INDEX), rows - 1)
        self._remedies = {}
        self._untried = list(self.assessment.findings) if self.assessment else []
        self._forget_doubts()
        self._rest.start(REST_MS)
        self.changed.emit()

    def _forget_doubts(self) -> None:
        """Bands stay beside a moving level until they are known anew; other chains have others."""
        self.doubts = None
        self._background.stop()
        chain = self.chain
        shown = (chain.id, chain.shown) if chain else None
        if shown != self._bands_of:
            self.bands, self._bands_of = {}, shown

    def _refresh_ghost(self) -> None:
        chain = self.chain
        if chain is None or chain.ghost is None or chain.ghost == chain.shown:
            self.ghost, self._ghost_key = None, None
            return
        station = self.document.station
        placed = tuple(station.placed(s) for s in chain.variant(chain.ghost).stages)
        key = (placed, chain.distance_mm, chain.operator, chain.band_hz, station.room_noise_dba)
        if key == self._ghost_key:
            return
        try:
            self.ghost = assess(station, chain.id, chain.ghost)
        except CircuitError:
            self.ghost = None
        self._ghost_key = key

    def _refine(self) -> None:
        """Once the hand rests: the full grid of frequencies."""
        if self._draft:
            self.refresh()

    def _try_next(self) -> None:
        if self._draft:
            self._refine()
            return
        if not self._untried or self.assessment is None:
            return
        finding = self._untried.pop(0)
        self._remedies[finding.key] = remedies(self.assessment, finding)
        if self._untried:
            self._rest.start(0)
        else:
            self.remedies_changed.emit()
            assessment = self.assessment
            self._background.start(lambda task: weighed(assessment, task.stopped))

    def try_remedies_now(self) -> None:
        """Try all remedies at once, for tests and screenshots."""
        self._refine()
        self._rest.stop()
        while self._untried and self.assessment:
            finding = self._untried.pop(0)
            self._remedies[finding.key] = remedies(self.assessment, finding)
        self.remedies_changed.emit()

    def rest(self) -> None:
        """Stop what runs behind the window."""
        self._rest.stop()
        self._background.stop()

    def weigh_now(self) -> None:
        """Bands and doubts at once, for tests and screenshots."""
        if self.assessment is not None:
            self._background.stop()
            self._take_doubts(weighed(self.assessment, lambda: False))

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

    # --- edits -----------------------------------------------------------------------------------

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply a tried remedy as one undo step."""
        self._edit(remedy.title, lambda _station: remedy.station)
        for k, row in enumerate(self.assessment.rows if self.assessment else ()):
            if row.id == finding.stage:
                self.select(k)

    def move(self, move: Move, gesture: str | None = None) -> None:
        """Set what a drag or an arrow key moved."""
        if move.stage == VOICE_INDEX:
            self.set_chain("Distance", gesture, distance_mm=move.value)
        else:
            self.set_value(move.stage, move.field, move.value, gesture)

    def set_value(self, stage: int, field: str, value: object, gesture: str | None = None) -> str:
        """Set a field of a stage; returns the refusal, empty if it was taken."""
        chain = self.chain
        assert chain is not None
        return self._edit(
            field,
            lambda station: edits.set_value(station, chain.id, chain.shown, stage, field, value),
            gesture,
        )

    def set_chain(self, label: str, gesture: str | None = None, **changes: object) -> str:
        """Change fields of the open chain; returns the refusal, empty if it was taken."""
        chain = self.chain
        assert chain is not None
        return self._edit(
            label, lambda station: edits.change_chain(station, chain.id, **changes), gesture
        )

    def swap(self, stage: int, gear_id: str) -> str:
        """Use another piece at a stage."""
        chain = self.chain
        assert chain is not None
        return self._edit(
            "other gear",
            lambda station: edits.swap_gear(station, chain.id, chain.shown, stage, gear_id),
        )

    def insertable(self) -> list[tuple[str, str]]:
        """Name and id of the pieces on the shelf that could stand between and do not yet."""
        chain = self.chain
        used = {s.gear for s in chain.variant().stages} if chain else set()
        gear = self.document.station.gear
        return [(g.name, g.id) for g in gear if g.role == "between" and g.id not in used]

    def insert(self, behind: int, gear_id: str) -> str:
        """Put a piece from the shelf behind a stage, and choose it."""
        chain = self.chain
        assert chain is not None
        gear = self.document.station.gear_by_id[gear_id]
        place = min(behind + 1, len(chain.variant().stages) - 1)
        refusal = self._edit(
            f"put in {gear.name}",
            lambda station: edits.insert_stage(station, chain.id, chain.shown, place, gear),
        )
        if not refusal:
            self.select(place)
        return refusal

    def shift(self, stage: int, places: int) -> str:
        """Move a stage towards the radio, or back."""
        chain = self.chain
        assert chain is not None
        count = len(chain.variant().stages)
        wanted = min(max(stage + places, 1), count - 2)
        if not 0 < stage < count - 1 or wanted == stage:
            return ""
        refusal = self._edit(
            "move",
            lambda station: edits.move_stage(station, chain.id, chain.shown, stage, places),
        )
        if not refusal:
            self.select(wanted)
        return refusal

    def remove(self, stage: int) -> str:
        """Take a stage out of the variant."""
        chain = self.chain
        assert chain is not None
        return self._edit(
            "leave out",
            lambda station: edits.remove_stages(station, chain.id, chain.shown, {stage}),
        )

    def edit(self, label: str, change: object) -> str:
        """Any other edit: ``change`` is a function from station to station."""
        return self._edit(label, change)

    def _edit(self, label: str, change: object, gesture: str | None = None) -> str:
        self._moving = gesture is not None
        try:
            self.document.edit(label, change, gesture)  # type: ignore[arg-type]
        except EditRefusedError as error:
            self.refused.emit(str(error))
            return str(error)
        finally:
            self._moving = False
        return ""
