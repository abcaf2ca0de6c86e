"""A recording of one tone, or of a whistle: its frequency, its harmonics, all that is not it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tonleiter.core.signal.arrays import Floats, Small

# a tone holds so much of a piece's power, and its frequency from piece to piece
PURE, HOLDS = 0.7, 0.02
LEAST_PIECES, LEAST_HZ = 3, 40.0
# a line of this window is nine bins wide; a whistle wanders by so much of its frequency
LINE_BINS, WANDERS = 4, 0.01
# four terms after Blackman and Harris: side lobes 92 dB down (Harris, Proc. IEEE 66, 1978)
TERMS = (0.35875, -0.48829, 0.14128, -0.01168)


@dataclass(frozen=True)
class Tone:
    """A tone: its frequency; harmonics, and everything else, against it; in dB."""

    hertz: float
    thd_db: float
    thd_noise_db: float

    @property
    def thd_percent(self) -> float:
        """Harmonics as a share of the fundamental's size."""
        return float(100 * 10 ** (self.thd_db / 20))


def tone_of(pieces: Sequence[Small], rate_hz: int) -> Tone | None:
    """What the loudest pieces of a recording are, where they are one tone; else None."""
    made = [t for piece in pieces if (t := _of_piece(piece, rate_hz)) is not None]
    if len(made) < LEAST_PIECES or len(made) < 0.8 * len(pieces):
        return None
    hertz = np.array([t.hertz for t in made])
    middle = float(np.median(hertz))
    if np.abs(hertz - middle).max() > HOLDS * middle:
        return None
    return Tone(
        middle,
        float(np.median([t.thd_db for t in made])),
        float(np.median([t.thd_noise_db for t in made])),
    )


def _of_piece(piece: Small, rate_hz: int) -> Tone | None:
    n = piece.size
    turns = 2 * np.pi * np.arange(n) / n
    window = sum(c * np.cos(k * turns) for k, c in enumerate(TERMS))
    x = piece.astype(float)
    power: Floats = np.abs(np.fft.rfft((x - x.mean()) * window)) ** 2
    step = rate_hz / n
    power[: max(round(20.0 / step), LINE_BINS)] = 0.0
    top = int(np.argmax(power))
    hertz = top * step
    total = float(power.sum())
    if hertz < LEAST_HZ or total <= 0:
        return None
    line = _line(power, hertz / step)
    if line < PURE * total:
        return None
    at = np.arange(max(top - LINE_BINS, 0), min(top + LINE_BINS + 1, power.size))
    hertz = float((at * power[at]).sum() / power[at].sum()) * step
    count = int(0.98 * rate_hz / 2 / hertz)
    harmonics = sum(_line(power, k * hertz / step) for k in range(2, count + 1))
    return Tone(
        hertz,
        10 * math.log10(max(harmonics, 1e-30) / line),
        10 * math.log10(max(total - line, 1e-30) / line),
    )


def _line(power: Floats, at: float) -> float:
    """Power of a line, less what lies beside it on as many bins."""
    wide = max(LINE_BINS, round(WANDERS * at))
    low, high = max(round(at) - wide, 0), round(at) + wide + 1
    beside = np.concatenate([power[max(low - 2 * wide, 0) : low], power[high : high + 2 * wide]])
    floor = float(beside.mean()) if beside.size else 0.0
    return max(float((power[low:high] - floor).sum()), 0.0)
