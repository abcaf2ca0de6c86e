"""Two places for recordings: read and measured behind the window, ready to be played."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal

from tonleiter.app.derived import Derived
from tonleiter.app.jobs import Task
from tonleiter.core.listen.blind import Side
from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import Survey, survey_file, survey_sound
from tonleiter.core.listen.words import heard
from tonleiter.core.report.listen_report import figures_of
from tonleiter.core.sound.opened import opened
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.recording import Recording
from tonleiter.core.station.settings import PanelState

# what is kept to be played; a picture of the wave has so many points
MOST_HEARD_S, POINTS = 600.0, 1_600


@dataclass(frozen=True, eq=False)
class Taken:
    """A recording in its place: its name, what it measures, what is played of it.

    ``basis`` is of the chain that a simulated or a kept one is of; empty where nobody said.
    ``by_air``: a band's noise is in it; ``panel``: what the radio's knobs stood at, if it is known.
    """

    name: str
    measures: Measures
    sound: Sound
    path: Path | None = None
    kept: Recording | None = None
    simulated: bool = False
    basis: str = ""
    by_air: bool = False
    panel: PanelState | None = None

    def outline(self) -> tuple[np.ndarray, float]:
        """Largest sizes over time for a picture, shape (points,), and the seconds they span."""
        peaks = self.measures.survey.peaks
        width = max(int(np.ceil(peaks.size / POINTS)), 1)
        rows = peaks[: peaks.size // width * width].reshape(-1, width)
        return rows.max(axis=1), rows.size * self.measures.survey.step_s


def _measured(survey: Survey) -> Measures:
    """What the page shows is computed here, and not while it is painted."""
    made = Measures(survey)
    _ = heard(made), figures_of(made)
    return made


def take_file(path: Path, tell: Callable[[float], object] | None = None) -> Taken:
    """Read and measure a file; ``tell`` hears how far it is. Raises SoundError, StoppedError."""
    survey = survey_file(path, tell)
    with opened(path) as file:
        most = min(file.frames, round(MOST_HEARD_S * file.rate_hz))
        parts = [b[:, survey.channel] for b in file.blocks(0, most)]
    samples = np.concatenate(parts).astype(float) if parts else np.zeros(1)
    return Taken(path.name, _measured(survey), Sound(samples, survey.rate_hz), path)


def take_sound(name: str, sound: Sound, simulated_of: str = "", path: Path | None = None) -> Taken:
    """A recording that is in memory: what was just recorded, or a simulated receiver hears.

    ``simulated_of`` is the fingerprint of the chain that was simulated.
    """
    measures = _measured(survey_sound(sound))
    return Taken(name, measures, sound, path, simulated=bool(simulated_of), basis=simulated_of)


class Slots(QObject):
    """``changed`` tells of either; ``refused`` says why one was not taken."""

    changed = Signal()
    refused = Signal(str)

    def __init__(self, derive: Callable[[Callable[[], object]], Derived[Taken]]) -> None:
        super().__init__()
        places = [derive(self._teller(k)) for k in range(2)]
        self._places: dict[Side, int] = {"A": 0, "B": 1}
        self._derived = places
        self._shares = [0.0, 0.0]
        self._count = 0

    def _of(self, side: Side) -> Derived[Taken]:
        return self._derived[self._places[side]]

    def at(self, side: Side) -> Taken | None:
        """What lies there."""
        return self._of(side).current

    def busy(self, side: Side) -> bool:
        """Whether something is being read for it."""
        return self._of(side).busy

    def put(self, side: Side, make: Callable[[Task], Taken]) -> None:
        """Another recording, read behind the window."""
        self._count += 1
        self._of(side).want(self._count, make)

    def put_file(self, side: Side, take: Callable[[Callable[[float], object]], Taken]) -> None:
        """A file, which tells how far it is."""
        place = self._places[side]
        self._shares[place] = 0.0

        def tell(share: float) -> None:
            # from the worker's thread: a figure is put there whole
            self._shares[place] = share

        self.put(side, lambda _: take(tell))

    def share(self, side: Side) -> float:
        """How far what is being read for it has come, 0 to 1."""
        return self._shares[self._places[side]]

    def clear(self, side: Side) -> None:
        """Nothing lies there any more."""
        self._of(side).nothing()

    def swap(self) -> None:
        """A and B change places."""
        a, b = self._places["A"], self._places["B"]
        self._places = {"A": b, "B": a}
        self.changed.emit()

    def _teller(self, place: int) -> Callable[[], None]:
        return lambda: self._told(place)

    def _told(self, place: int) -> None:
        if why := self._derived[place].trouble:
            self.refused.emit(why)
        self.changed.emit()
