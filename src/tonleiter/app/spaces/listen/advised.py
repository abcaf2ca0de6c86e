"""Tone advised for the open chain: searched behind the window, put to the panel or listened to."""

from __future__ import annotations

from dataclasses import replace
from typing import cast

from tonleiter.app.derived import Derived
from tonleiter.app.jobs import Task
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.guide.onair import NoSetError, on_air
from tonleiter.core.setup.advice import Advice, advise
from tonleiter.core.setup.distance import advise_distance
from tonleiter.core.setup.modes import SCENES
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import PanelState, ToneSchool


class Advised:
    """Of the chain and the panel that were asked about: of others there is none."""

    def __init__(self, derived: Derived[Advice], verdicts: Verdicts) -> None:
        self._derived, self._verdicts = derived, verdicts
        self._asked: tuple[Basis, PanelState] | None = None

    def ask(self, station: Station, school: ToneSchool) -> None:
        """Search for one school."""
        basis, verdicts = basis_of(station), self._verdicts
        panel = station.chain().panel

        def search(task: Task) -> Advice:
            case = on_air(station, verdict=verdicts.of(station, basis))
            if case.mode != "ssb":
                raise NoSetError("tone is advised for a voice on single sideband")
            if stops := SCENES[case.mode](case, panel).stops:
                raise NoSetError(f"mend first: {stops[0].says}")
            made = cast(Advice, task.tell_along(advise(case, panel, school)))
            return replace(made, distance=advise_distance(station, school))

        self._asked = (basis, panel)
        self._derived.want((basis, panel, school), search)

    def follow(self, station: Station) -> None:
        """What was asked of another chain, or of knobs that have been turned since, is put away."""
        here = (basis_of(station), station.chain().panel) if station.chains else None
        if self._asked is not None and self._asked != here:
            self._asked = None
            self._derived.nothing()

    @property
    def so_far(self) -> Advice | None:
        """The best, so far."""
        return self._derived.value

    @property
    def busy(self) -> bool:
        """Whether it is being searched."""
        return self._derived.busy

    @property
    def trouble(self) -> str:
        """Why there is none."""
        return self._derived.trouble

    def panels(self) -> tuple[PanelState, PanelState] | None:
        """What stands, and what is advised, once it is whole."""
        made = None if self.busy else self.so_far
        return None if made is None else (made.before.panel, made.best.panel)

    def distance_mm(self) -> float | None:
        """Where to stand instead, if that is worth a step."""
        stand = None if self.busy or self.so_far is None else self.so_far.distance
        return stand.best.distance_mm if stand is not None and stand.moves else None
