"""What plays: one of the places at a time, bounded, faded in, from the same word on."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QObject, Signal

from tonleiter.app.audio.missing import why_silent
from tonleiter.app.audio.output import Output, find_output
from tonleiter.app.spaces.listen.slots import Place, Slots
from tonleiter.core.sound.beside import audible
from tonleiter.core.sound.sound import Sound

FADE_S = 0.02


class Player(QObject):
    """``plays`` is a place, or what a blind trial calls it.

    ``late_s`` tells of a place how much later its words lie in its file than those of A.
    """

    changed = Signal()
    refused = Signal(str)

    def __init__(self, slots: Slots, late_s: Callable[[Place], float]) -> None:
        super().__init__()
        self._slots, self._late_s = slots, late_s
        self._output: Output | None = None
        self.plays = ""
        self.aligned = True

    def play(self, place: Place, from_s: float = 0.0, called: str = "") -> None:
        """From a place in it on; in a blind trial under another name."""
        taken = self._slots.at(place)
        if taken is None:
            self.refused.emit(f"there is nothing in {place} yet")
            return
        self._play(self.heard(taken.sound), from_s, called or place)

    def play_slate(self, place: Place) -> None:
        """What was said before one, of what is set."""
        taken = self._slots.at(place)
        if taken is not None and taken.slate is not None:
            self._play(self.heard(taken.slate), 0.0, f"slate of {place}")

    def _play(self, sound: Sound, from_s: float, called: str) -> None:
        self._output = self._output or find_output()
        if self._output is None:
            self.refused.emit(why_silent())
            return
        self._output.play(sound, min(max(from_s, 0.0), sound.seconds))
        self.plays = called
        self.changed.emit()

    def heard(self, sound: Sound) -> Sound:
        """Bounded and faded in; all alike loud where levels are aligned."""
        sound = audible(sound) if self.aligned else sound
        samples = np.clip(sound.samples, -1.0, 1.0).copy()
        n = min(round(FADE_S * sound.rate_hz), samples.size)
        samples[:n] *= np.linspace(0, 1, n)
        return Sound(samples, sound.rate_hz)

    def other(self) -> None:
        """The next one, at the same word; after the last the first."""
        there = self._slots.filled()
        now = next((p for p in there if p == self.plays), None)
        if now is None:
            self.play(there[0] if there else "A")
            return
        then = there[(there.index(now) + 1) % len(there)]
        self.play(then, (self.at_s() or 0.0) + self._late_s(then) - self._late_s(now))

    def at_s(self) -> float | None:
        """How far what plays has come."""
        return self._output.at_s() if self._output is not None else None

    def silence(self) -> None:
        """Nothing plays."""
        if self._output is not None:
            self._output.stop()
        self.plays = ""
