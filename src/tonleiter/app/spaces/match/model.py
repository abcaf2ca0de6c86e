"""What the Match space's views share: terms, the grid as far as it is solved, the chosen pair."""

from __future__ import annotations

from PySide6.QtCore import QTimer, Signal

from tonleiter.app.document import Document
from tonleiter.app.editing import Editing
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.core.gear.base import Gear
from tonleiter.core.match.grid import Grid, Key, inputs_of, ranked, solve_grid, sources_of
from tonleiter.core.match.pair import Pair
from tonleiter.core.match.terms import Terms, lead_for, usual_terms
from tonleiter.core.plan.candidate import Candidate
from tonleiter.core.plan.search import Progress, search
from tonleiter.core.plan.styles import StyleId
from tonleiter.core.station.adopt import adopt_path
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PurposeId

REST_MS = 120


class MatchModel(Editing):
    """Solves in a thread; what an edit did not touch is not solved again."""

    changed = Signal()
    selection_changed = Signal()
    plan_changed = Signal()

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__(document)
        self.terms = usual_terms(document.station)
        self.grid = Grid((), (), {})
        self.finished = False
        self.selected: Key = ("", "")
        self._chosen = False
        self.style: StyleId = "simple"
        self.progress: Progress | None = None
        self.planning = False
        self._solved: dict[Key, tuple[object, Pair]] = {}
        self._basis: dict[Key, object] = {}
        self._grids, self._plans = jobs.desk(Wait.PAGE), jobs.desk(Wait.PAGE)
        self._grids.told.connect(self._take_grid)
        self._grids.done.connect(self._take_whole)
        self._grids.failed.connect(self.refused)
        self._plans.told.connect(self._take_plan)
        self._plans.done.connect(self._take_plan)
        self._plans.failed.connect(self.refused)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._solve)
        document.changed.connect(self._follow)
        self._follow()

    @property
    def pair(self) -> Pair | None:
        """The chosen pair, once it is solved."""
        return self.grid.pairs.get(self.selected)

    def gear(self, gear_id: str) -> Gear | None:
        """A piece by id."""
        return self.station.gear_by_id.get(gear_id)

    # --- the grid --------------------------------------------------------------------------------

    def _follow(self) -> None:
        """After an edit: drop what it touched, keep the rest, solve when the hand rests."""
        station = self.station
        if self.terms.operator not in {o.id for o in station.operators}:
            self.terms = usual_terms(station, self.terms.purpose)
        self._basis = {
            (s.id, i.id): self._rests_on(s, i)
            for s in sources_of(station) for i in inputs_of(station)
        }  # fmt: skip
        known = {k: p for k, (basis, p) in self._solved.items() if self._basis.get(k) == basis}
        self.grid = Grid(sources_of(station), inputs_of(station), known)
        self.finished = len(known) == len(self._basis)
        if self.selected not in self._basis:
            self.selected = next(iter(self._basis), ("", ""))
            self.selection_changed.emit()
        self._grids.stop()
        if self.progress is not None:
            # it was made for the station before
            self.leave_plan()
        self._rest.start(REST_MS)
        self.changed.emit()

    def _rests_on(self, source: Gear, socket: Gear) -> object:
        """Everything that a pair's solution depends on."""
        station = self.station
        operator = station.operator(self.terms.operator)
        return source, socket, self.terms, operator, station.room_noise_dba, station.mains_hz

    def _solve(self) -> None:
        if self.finished:
            return
        station, terms, known = self.station, self.terms, dict(self.grid.pairs)

        def job(task: Task) -> object:
            return task.tell_along(solve_grid(station, terms, known))

        self._grids.start(job)

    def rest(self) -> None:
        """Stop what runs behind the window."""
        self._rest.stop()
        self._grids.stop()
        self._plans.stop()

    def solve_now(self) -> None:
        """The whole grid at once, for tests and screenshots."""
        self._rest.stop()
        self._grids.stop()
        *_, whole = solve_grid(self.station, self.terms, dict(self.grid.pairs))
        self._take_whole(whole)

    def _keep(self, grid: object) -> None:
        assert isinstance(grid, Grid)
        new = {k: p for k, p in grid.pairs.items() if k not in self.grid.pairs}
        self.grid = grid
        self._solved |= {k: (self._basis[k], p) for k, p in new.items() if k in self._basis}

    def _take_grid(self, grid: object) -> None:
        self._keep(grid)
        self.changed.emit()

    def _take_whole(self, grid: object) -> None:
        self._keep(grid)
        self.finished = len(self.grid.pairs) == len(self._basis)
        if not self._chosen and self.finished:
            self.choose_best()
        self.changed.emit()

    def choose_best(self) -> None:
        """Choose the pair that suits best of all."""
        best = ranked(self.grid.pairs.values(), self.terms.facts.spoken)
        if best:
            self.select((best[0].source, best[0].input))

    def select(self, key: Key) -> None:
        """Choose a pair."""
        self._chosen = True
        if key in self._basis and key != self.selected:
            self.selected = key
            self.selection_changed.emit()

    def set_terms(
        self,
        purpose: PurposeId | None = None,
        operator: str | None = None,
        distance_mm: float | None = None,
    ) -> None:
        """Judge for another purpose, another voice, from elsewhere."""
        who = operator or self.terms.operator
        usual = self.station.operator(who).distance_mm.value
        distance = distance_mm or (usual if operator else self.terms.distance_mm)
        terms = Terms(purpose or self.terms.purpose, who, distance)
        if terms != self.terms:
            self.terms = terms
            planned = self.progress is not None
            self._follow()
            if planned:
                self.start_plan()

    # --- plans -----------------------------------------------------------------------------------

    def start_plan(self, style: StyleId | None = None) -> None:
        """Search for the chosen pair; results arrive as they are found."""
        self.style = style or self.style
        source, socket = self.selected
        if self.gear(source) is None or self.gear(socket) is None:
            return
        self.progress, self.planning = Progress(0, ()), True
        station, terms, wanted = self.station, self.terms, self.style

        def job(task: Task) -> object:
            steps = search(station, source, socket, terms, wanted)
            return task.tell_along(steps)

        self._plans.start(job)
        self.plan_changed.emit()

    def plan_now(self, style: StyleId | None = None) -> None:
        """A whole search at once, for tests and screenshots."""
        self.style = style or self.style
        source, socket = self.selected
        self._plans.stop()
        *_, last = search(self.station, source, socket, self.terms, self.style)
        self.planning = True
        self._take_plan(last)

    def stop_plan(self) -> None:
        """Keep what was found so far."""
        self._plans.stop()
        self.planning = False
        self.plan_changed.emit()

    def leave_plan(self) -> None:
        """Back to the grid."""
        self._plans.stop()
        self.progress, self.planning = None, False
        self.plan_changed.emit()

    def _take_plan(self, progress: object) -> None:
        assert isinstance(progress, Progress)
        self.progress = progress
        self.planning = not progress.finished
        self.plan_changed.emit()

    # --- taking over -----------------------------------------------------------------------------

    def show_ladder(self) -> bool:
        """Make the chosen pair, as plugged in, a chain or a variant of one, and open it."""
        source, socket = (self.gear(i) for i in self.selected)
        if source is None or socket is None:
            return False
        return self._adopt((source, lead_for(source), socket), "plugged in")

    def adopt(self, candidate: Candidate) -> bool:
        """Make a plan a variant of the chain of its pair, and open it."""
        return self._adopt(candidate.pieces, candidate.title()[:80])

    def _adopt(self, pieces: tuple[Gear, ...], name: str) -> bool:
        terms = self.terms

        def change(station: Station) -> Station:
            return adopt_path(
                station, pieces, name, terms.purpose, terms.operator, terms.distance_mm
            )

        return self.attempt(lambda: self.edit(name, change))
