"""Places for recordings, two and more beside them: read and measured behind the window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np
from PySide6.QtCore import QObject, Signal

from tonleiter.app.derived import Derived
from tonleiter.app.jobs import Task
from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import Survey, survey_file, survey_sound
from tonleiter.core.listen.words import heard
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.listen_report import figures_of
from tonleiter.core.sound.opened import opened
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.recording import Recording
from tonleiter.core.station.settings import PanelState

# what is kept to be played; a picture of the wave has so many points
MOST_HEARD_S, POINTS = 600.0, 1_600
# two are held against each other; what is put beside them is held against the first
Place = Literal["A", "B", "C", "D", "E", "F"]
PLACES: tuple[Place, ...] = ("A", "B", "C", "D", "E", "F")
MORE = PLACES[2:]


@dataclass(frozen=True, eq=False)
class Taken:
    """A recording in its place: its name, what it measures, what is played of it.

    ``basis`` is of the chain that a simulated or a kept one is of; empty where nobody said.
    ``by_air``: a band's noise is in it; ``panel``: what the radio's knobs stood at, if it is known.
    ``slate``: what was said before it, of what is set; it is no part of ``sound`` and not measured.
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
    slate: Sound | None = None

    @property
    def slate_s(self) -> float:
        """How long what was said before it is."""
        return self.slate.seconds if self.slate is not None else 0.0

    def whole(self) -> Sound:
        """Slate and all, as it is kept."""
        if self.slate is None:
            return self.sound
        samples = np.concatenate([self.slate.samples, self.sound.samples])
        return Sound(samples, self.sound.rate_hz)

    def sounds(self) -> str:
        """What it sounds like, in a sentence; or why nothing can be told."""
        words = ", ".join(h.says for h in heard(self.measures))
        why = self.measures.silent or self.measures.level.why
        return f"It sounds {words}." if words else f"Nothing can be told: {why}."

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


def take_file(
    path: Path,
    tell: Callable[[float], object] | None = None,
    slate_s: float = 0.0,
    heard_s: float = MOST_HEARD_S,
) -> Taken:
    """Read and measure a file from after its slate on; ``tell`` hears how far it is.

    ``heard_s``: so much of it is kept to be played. Raises SoundError, StoppedError.
    """
    survey = survey_file(path, tell, slate_s)
    slate, sound = _parted(_read(path, survey.channel, heard_s), slate_s)
    return Taken(path.name, _measured(survey), sound, path, slate=slate)


def take_sound(
    name: str,
    sound: Sound,
    simulated_of: str = "",
    path: Path | None = None,
    slate_s: float = 0.0,
) -> Taken:
    """A recording that is in memory: what was just recorded, or a simulated receiver hears.

    ``simulated_of`` is the fingerprint of the chain that was simulated; the first ``slate_s`` say
    what is set.
    """
    slate, after = _parted(sound, slate_s)
    measures = _measured(survey_sound(after))
    return Taken(
        name, measures, after, path, simulated=bool(simulated_of), basis=simulated_of, slate=slate
    )


def with_slate(taken: Taken, slate_s: float) -> Taken:
    """The same with another end of its slate; measured anew. Raises SoundError, StoppedError."""
    if taken.path is not None:
        made = take_file(taken.path, None, slate_s, taken.whole().seconds)
    else:
        made = take_sound(taken.name, taken.whole(), slate_s=slate_s)
    return replace(taken, measures=made.measures, sound=made.sound, slate=made.slate)


def to_keep(taken: Taken) -> Sound:
    """All of it, which may be longer than what is held to be played.

    Raises SoundError, and RefusedError where it is too long to be kept.
    """
    long_s = taken.slate_s + taken.measures.survey.seconds
    held = taken.whole()
    if taken.path is None or long_s <= held.seconds + 0.5:
        return held
    if long_s > MOST_HEARD_S + 0.5:
        raise RefusedError(
            f"{taken.path.name} lasts {long_s / 60:.0f} minutes: up to {MOST_HEARD_S / 60:.0f} are"
            " kept with a station; cut out what matters"
        )
    return _read(taken.path, taken.measures.survey.channel, MOST_HEARD_S)


def _read(path: Path, channel: int, most_s: float) -> Sound:
    with opened(path) as file:
        most = min(file.frames, round(most_s * file.rate_hz))
        parts = [b[:, channel] for b in file.blocks(0, most)]
        samples = np.concatenate(parts).astype(float) if parts else np.zeros(1)
        return Sound(samples, file.rate_hz)


def _parted(sound: Sound, slate_s: float) -> tuple[Sound | None, Sound]:
    """What is said before, if anything is, and what is measured; that one is never empty."""
    n = min(round(slate_s * sound.rate_hz), sound.samples.size - 1)
    if n <= 0:
        return None, sound
    rate = sound.rate_hz
    return Sound(sound.samples[:n], rate), Sound(sound.samples[n:], rate)


class Slots(QObject):
    """``changed`` tells of any; ``refused`` says why one was not taken."""

    changed = Signal()
    refused = Signal(str)

    def __init__(self, derive: Callable[[Callable[[], object]], Derived[Taken]]) -> None:
        super().__init__()
        self._derived = [derive(self._teller(k)) for k in range(len(PLACES))]
        self._places: dict[Place, int] = {place: k for k, place in enumerate(PLACES)}
        self._shares = [0.0] * len(PLACES)
        self._count = 0

    def _of(self, side: Place) -> Derived[Taken]:
        return self._derived[self._places[side]]

    def at(self, side: Place) -> Taken | None:
        """What lies there."""
        return self._of(side).current

    def busy(self, side: Place) -> bool:
        """Whether something is being read for it."""
        return self._of(side).busy

    def put(self, side: Place, make: Callable[[Task], Taken]) -> None:
        """Another recording, read behind the window."""
        self._count += 1
        self._of(side).want(self._count, make)

    def put_file(self, side: Place, take: Callable[[Callable[[float], object]], Taken]) -> None:
        """A file, which tells how far it is."""
        at = self._places[side]
        self._shares[at] = 0.0

        def tell(share: float) -> None:
            # from the worker's thread: a figure is put there whole
            self._shares[at] = share

        self.put(side, lambda _: take(tell))

    def share(self, side: Place) -> float:
        """How far what is being read for it has come, 0 to 1."""
        return self._shares[self._places[side]]

    def clear(self, side: Place) -> None:
        """Nothing lies there any more."""
        self._of(side).nothing()

    def filled(self) -> tuple[Place, ...]:
        """Where something lies, in order."""
        return tuple(p for p in PLACES if self.at(p) is not None)

    def free(self) -> tuple[Place, ...]:
        """Where nothing lies and nothing is read for, in order."""
        return tuple(p for p in PLACES if self.at(p) is None and not self.busy(p))

    def swap(self, one: Place, other: Place) -> None:
        """Two change places."""
        a, b = self._places[one], self._places[other]
        self._places = {**self._places, one: b, other: a}
        self.changed.emit()

    def _teller(self, place: int) -> Callable[[], None]:
        return lambda: self._told(place)

    def _told(self, place: int) -> None:
        if why := self._derived[place].trouble:
            self.refused.emit(why)
        self.changed.emit()
