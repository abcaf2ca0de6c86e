"""What the Match space's views share: terms, the grid as far as it is solved, the chosen pair."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.reckoning import Reckoning, Reckons
from tonleiter.core.gear.base import Gear
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.match.grid import Grid, Key, inputs_of, ranked, rests_on, solve_grid, sources_of
from tonleiter.core.match.pair import Pair, as_judged
from tonleiter.core.match.terms import Terms, lead_for, usual_terms
from tonleiter.core.plan.candidate import Candidate
from tonleiter.core.plan.search import Progress, search
from tonleiter.core.plan.styles import StyleId
from tonleiter.core.report.why.at_end import why_bass, why_hum, why_knob, why_noise
from tonleiter.core.report.why.level import why_level
from tonleiter.core.report.why.model import Why
from tonleiter.core.station.adopt import adopt_path
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PurposeId

REST_MS = 120
# what can be asked of a pair
WHYS: dict[str, Callable[[Assessment], Why | None]] = {
    "level": why_level,
    "gain": why_knob,
    "noise": why_noise,
    "hum": why_hum,
    "bass": why_bass,
}


class MatchModel(Reckons):
    """Solves in a thread; what an edit did not touch is not solved again."""

    changed = Signal()
    selection_changed = Signal()
    plan_changed = Signal()

    def __init__(self, document: Document, jobs: Jobs, reckoning: Reckoning) -> None:
        super().__init__(document)
        self.reckoning = reckoning
        self.terms = usual_terms(document.station)
        self.selected: Key = ("", "")
        self._chosen = False
        self.style: StyleId = "simple"
        self._solved: dict[Key, tuple[object, Pair]] = {}
        self._rest_on: dict[Key, object] = {}
        # every cell asks for it whenever it is painted
        self._shown: tuple[Station, Grid] | None = None
        self._grid: Derived[Grid] = self.derive(jobs, Wait.PAGE, self._take_grid)
        self._plan: Derived[Progress] = self.derive(jobs, Wait.PAGE, self.plan_changed.emit, False)
        self._resting = self.when_resting(REST_MS, self._solve)
        document.changed.connect(self._follow)
        reckoning.changed.connect(self._follow)
        self._follow()

    @property
    def grid(self) -> Grid:
        """The pairs that are known of the station as it is."""
        if self._shown is None or self._shown[0] is not self.station:
            self._shown = (self.station, self._known())
        return self._shown[1]

    def _known(self) -> Grid:
        station = self.station
        known = {k: p for k, (rests, p) in self._solved.items() if self._rest_on.get(k) == rests}
        return Grid(sources_of(station), inputs_of(station), known)

    @property
    def finished(self) -> bool:
        """Whether every pair is known."""
        return all(k in self._solved and self._solved[k][0] == r for k, r in self._rest_on.items())

    @property
    def progress(self) -> Progress | None:
        """The plan for the chosen pair, as far as it is."""
        return self._plan.value or (Progress(0, ()) if self._plan.busy else None)

    @property
    def planning(self) -> bool:
        """Whether paths are still being tried."""
        return self._plan.busy

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
        self._rest_on = {
            (s.id, i.id): rests_on(station, s, i, self.terms)
            for s in sources_of(station)
            for i in inputs_of(station)
        }
        self._shown = None
        if self.selected not in self._rest_on:
            self.selected = next(iter(self._rest_on), ("", ""))
            self.selection_changed.emit()
        if not self._plan.rests_on(self._plan_basis()):
            # it was made for the station before
            self.leave_plan()
        self._resting.start()
        self.changed.emit()

    def _solve(self) -> None:
        if self.finished:
            return
        station, terms, known = self.station, self.terms, dict(self.grid.pairs)

        def job(task: Task) -> Grid:
            whole = task.tell_along(solve_grid(station, terms, known))
            assert isinstance(whole, Grid)
            return whole

        self._grid.want(tuple(self._rest_on.items()), job)

    def _take_grid(self) -> None:
        """Pairs that were solved; only what rests on the station as it is counts."""
        if self._grid.value is None or self._grid.stale:
            return
        for key, pair in self._grid.value.pairs.items():
            if key in self._rest_on:
                self._solved[key] = self._rest_on[key], pair
        self._shown = None
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
        if key in self._rest_on and key != self.selected:
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

    def _plan_basis(self) -> object:
        """What a plan rests on: its pair's own basis, and the house style."""
        return (self._rest_on.get(self.selected), self.style, self.terms)

    def start_plan(self, style: StyleId | None = None) -> None:
        """Search for the chosen pair; results arrive as they are found."""
        self.style = style or self.style
        source, socket = self.selected
        if self.gear(source) is None or self.gear(socket) is None:
            return
        station, terms, wanted = self.station, self.terms, self.style

        def job(task: Task) -> Progress:
            last = task.tell_along(search(station, source, socket, terms, wanted))
            assert isinstance(last, Progress)
            return last

        self._plan.want(self._plan_basis(), job)
        self.plan_changed.emit()

    def stop_plan(self) -> None:
        """Keep what was found so far."""
        self._plan.stop_here()

    def leave_plan(self) -> None:
        """Back to the grid."""
        self._plan.nothing()
        self.plan_changed.emit()

    # --- why -------------------------------------------------------------------------------------

    def why(self, what: str) -> Callable[[], Why | None] | None:
        """What answers why the chosen pair has its level, noise, gain, hum or bass."""
        source, socket = (self.gear(i) for i in self.selected)
        if source is None or socket is None:
            return None
        station, terms, ask = self.station, self.terms, WHYS[what]

        def answer() -> Why | None:
            now = as_judged(station, source, socket, terms)
            return None if now is None else ask(now)

        return answer

    # --- taking over -----------------------------------------------------------------------------

    def show_ladder(self) -> bool:
        """Make the chosen pair, as plugged in, a chain or a variant of one, and open it."""
        source, socket = (self.gear(i) for i in self.selected)
        if source is None or socket is None:
            return False
        return self._adopt((source, lead_for(source), socket), "plugged in")

    def adopt(self, candidate: Candidate) -> bool:
        """Make a plan a variant of the chain of its pair, and open it."""
        adopted = self._adopt(candidate.pieces, candidate.title()[:80])
        if adopted:
            self.leave_plan()
        return adopted

    def _adopt(self, pieces: tuple[Gear, ...], name: str) -> bool:
        terms = self.terms

        def change(station: Station) -> Station:
            return adopt_path(
                station, pieces, name, terms.purpose, terms.operator, terms.distance_mm
            )

        return self.attempt(lambda: self.edit(name, change))
