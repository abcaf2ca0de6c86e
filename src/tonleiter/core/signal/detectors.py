"""What follows the size of a signal, and gains that follow what it reads.

One detector serves the radio's level control and compressors, outboard compressors on a voice, and
those of the ladder's envelope. It works in steps of about a millisecond, never sample by sample.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.signal.arrays import Floats


@dataclass(frozen=True)
class Times:
    """How a detector moves: the time constant of its rise, how long it holds, how it falls.

    It falls to a new value with a time constant of ``release_s``, or evenly, by so much a second.
    """

    attack_s: float
    hang_s: float = 0.0
    release_s: float | None = None
    falls_per_s: float | None = None


class Detector:
    """Reads step by step what it is given, in whatever unit: decibels, or volts.

    Quick upwards, a hang, a slow fall (Giannoulis, Massberg, Reiss, JAES 60, 2012). The state goes
    on from call to call.
    """

    def __init__(self, step_s: float, times: Times, begins: float = 0.0) -> None:
        self._up = _share(step_s, times.attack_s)
        self._down = 1.0 if times.release_s is None else _share(step_s, times.release_s)
        self._fall = math.inf if times.falls_per_s is None else times.falls_per_s * step_s
        self._hang = round(times.hang_s / step_s)
        self._last, self._since = begins, 0

    def __call__(self, wanted: Floats) -> Floats:
        """What it reads at the end of each step, for what each step has; shape (steps,)."""
        up, down, fall, hang = self._up, self._down, self._fall, self._hang
        last, since = self._last, self._since
        reads = []
        for now in wanted.tolist():
            if now >= last:
                last += up * (now - last)
                since = 0
            else:
                since += 1
                if since > hang:
                    last = max(last + down * (now - last), last - fall)
            reads.append(last)
        self._last, self._since = last, since
        return np.array(reads)


def _share(step_s: float, time_s: float) -> float:
    """What of a distance is gone in a step."""
    return 1 - math.exp(-step_s / time_s) if time_s > 0 else 1.0


class Glide:
    """A gain given step by step in decibels, spread over the samples between; state is the last."""

    def __init__(self, step: int) -> None:
        self._step, self._last = step, 0.0

    def __call__(self, gains_db: Floats) -> Floats:
        """A factor for each sample, shape (steps · step,)."""
        ends = np.concatenate([[self._last], gains_db])
        self._last = float(ends[-1]) if ends.size else self._last
        share = np.arange(1, self._step + 1) / self._step
        db = ends[:-1, None] + (ends[1:] - ends[:-1])[:, None] * share
        made: Floats = 10 ** (db.ravel() / 20)
        return made


def stepped(x: NDArray[np.generic], step: int, how: Literal["peak", "mean"] = "peak") -> Floats:
    """The size of each step of a signal of any length, shape (ceil(n / step),)."""
    size = np.abs(np.concatenate([x, np.zeros(-x.size % step)])).reshape(-1, step)
    made: Floats = size.max(axis=1) if how == "peak" else size.mean(axis=1)
    return made
