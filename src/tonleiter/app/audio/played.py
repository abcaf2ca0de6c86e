"""What a sink of the real computer pulls: samples as they are made, and when each was pulled."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QIODevice

from tonleiter.app.safety.events import guarded
from tonleiter.core.desk.probe import Clocked
from tonleiter.core.signal.arrays import Floats

FADE_S = 0.2


class Samples(QIODevice):
    """What a sink pulls: samples of one channel, on all of its channels; silence behind them."""

    def __init__(self, next_: Callable[[int], Floats], channels: int) -> None:
        super().__init__()
        self._next, self._channels = next_, channels
        self._frames, self._at_s = [0], [time.monotonic()]
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    @guarded
    def readData(self, most: int) -> bytes:
        """As many whole frames as are wanted."""
        frames = most // (2 * self._channels)
        made = np.rint(np.clip(self._next(frames), -1.0, 1.0) * 32767)
        self._frames.append(self._frames[-1] + frames)
        self._at_s.append(time.monotonic())
        return np.repeat(made.astype("<i2"), self._channels).tobytes()

    @property
    def clock(self) -> Clocked:
        """When each frame was pulled: with the block that begins with it."""
        return Clocked(tuple(self._frames[:-1]), tuple(self._at_s[1:]))

    @guarded
    def writeData(self, data: Any, most: int) -> int:  # noqa: ANN401 - Qt's own
        """Nobody writes here."""
        return -1

    @guarded
    def isSequential(self) -> bool:
        """It has no end."""
        return True

    @guarded
    def bytesAvailable(self) -> int:
        """Always more."""
        return 1 << 20


def tone(rate_hz: int, peak: float, hertz: float) -> Callable[[int], Floats]:
    """Blocks of a tone that rises from nothing."""
    at = 0

    def next_(frames: int) -> Floats:
        nonlocal at
        t = (at + np.arange(frames)) / rate_hz
        at += frames
        made: Floats = peak * np.minimum(t / FADE_S, 1.0) * np.sin(2 * np.pi * hertz * t)
        return made

    return next_


def once(samples: Floats) -> Callable[[int], Floats]:
    """Blocks of something that is played once, and silence behind it."""
    at = 0

    def next_(frames: int) -> Floats:
        nonlocal at
        part = samples[at : at + frames]
        at += frames
        return np.concatenate([part, np.zeros(frames - part.size)])

    return next_
