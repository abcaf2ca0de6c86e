"""What the open chain would sound like in a recording: simulated behind the window, held ready."""

from __future__ import annotations

from collections.abc import Iterable

from tonleiter.app.derived import Derived
from tonleiter.app.jobs import Task
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.listen.measures import Measures
from tonleiter.core.report.promised import expected
from tonleiter.core.station.basis import Basis
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import PanelState

# of a chain with its knobs, and by air or not
Way = tuple[Basis, PanelState, bool]
Made = tuple[tuple[Way, Measures | None], ...]
MOST = 12


class Expected:
    """What is wanted is asked for once; of a chain that cannot be sent with there is none."""

    def __init__(self, derived: Derived[Made], verdicts: Verdicts) -> None:
        self._derived, self._verdicts = derived, verdicts
        self._known: Made = ()

    def want(self, station: Station, basis: Basis, ways: Iterable[tuple[PanelState, bool]]) -> None:
        """Simulate what is not known yet of these."""
        self._take()
        known = [way for way, _ in self._known]
        wanted: list[Way] = []
        for panel, by_air in ways:
            way = (basis, panel, by_air)
            if way not in known and way not in wanted:
                wanted.append(way)
        if not wanted:
            return
        verdicts = self._verdicts

        def simulate(_: Task) -> Made:
            found = verdicts.of(station, basis)
            return tuple((w, expected(station, found, w[1], w[2])) for w in wanted)

        self._derived.want(tuple(wanted), simulate)

    def of(self, basis: Basis, panel: PanelState, by_air: bool) -> Measures | None:
        """The measures of it; None where nobody has simulated it yet, or nothing can be sent."""
        self._take()
        way = (basis, panel, by_air)
        return next((made for known, made in self._known if known == way), None)

    def _take(self) -> None:
        fresh = self._derived.current
        if self._derived.whole and fresh:
            old = [x for x in self._known if x[0] not in [way for way, _ in fresh]]
            self._known = (*old, *fresh)[-MOST:]
