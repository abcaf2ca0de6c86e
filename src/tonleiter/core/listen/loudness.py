"""Loudness and true peak (ITU-R BS.1770-5), gathered block by block.

The filter is the recommendation's K weighting, its two analog prototypes brought to any rate by the
bilinear transform; at 48 kHz that gives the printed coefficients. One channel of one is a centre.
"""

from __future__ import annotations

import math

import numpy as np

from tonleiter.core.signal.arrays import Floats, Small
from tonleiter.core.signal.recursive import recursive

STEP_S, BLOCK_STEPS = 0.1, 4
OFFSET_LUFS, GATE_LUFS, GATE_DB = -0.691, -70.0, -10.0
# frequency, quality and gain of the shelf; of the high-pass behind it
SHELF, HIGH_PASS = (1681.974450955533, 0.7071752369554196, 3.999843853973347), (
    38.13547087602444,
    0.5003270373238773,
)  # fmt: skip
# the true peak is looked for at four times the rate, where a sample is as large as half the largest
UP, WORTH, BESIDE = 4, 0.5, 64
MOST_RATE_HZ = 192_000


def weighting(rate_hz: int) -> tuple[tuple[Floats, Floats], tuple[Floats, Floats]]:
    """K weighting as two filters of second order, numerator and denominator each."""
    f, q, gain_db = SHELF
    k, high = math.tan(math.pi * f / rate_hz), 10 ** (gain_db / 20)
    middle = high**0.4996667741545416
    a0 = 1 + k / q + k * k
    shelf = (
        np.array([high + middle * k / q + k * k, 2 * (k * k - high), high - middle * k / q + k * k])
        / a0,
        np.array([1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0]),
    )
    f, q = HIGH_PASS
    k = math.tan(math.pi * f / rate_hz)
    a0 = 1 + k / q + k * k
    lows = np.array([1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0])
    return shelf, (np.array([1.0, -2.0, 1.0]), lows)


class Loudness:
    """Mean squares of what is weighted, of each tenth of a second."""

    def __init__(self, rate_hz: int) -> None:
        self._filters = weighting(rate_hz)
        self._states = [np.zeros(2), np.zeros(2)]
        self._step = max(round(STEP_S * rate_hz), 1)
        self._left: Floats = np.zeros(0)
        self._made: list[Small] = []

    def take(self, part: Small) -> None:
        """Some more samples."""
        x = part.astype(float)
        for k, (b, a) in enumerate(self._filters):
            x, self._states[k] = recursive(b, a, x, self._states[k])
        x = np.concatenate([self._left, x])
        whole = x.size // self._step * self._step
        self._left = x[whole:]
        rows = x[:whole].reshape(-1, self._step)
        self._made.append((rows**2).mean(axis=1).astype(np.float32))

    def done(self) -> Small:
        """All of them; shape (tenths,)."""
        return np.concatenate(self._made) if self._made else np.zeros(0, np.float32)


def integrated_lufs(steps: Small) -> float | None:
    """Gated loudness of blocks of 0.4 s that overlap by three quarters; None where none is left."""
    if steps.size < BLOCK_STEPS:
        return None
    blocks = np.convolve(steps.astype(float), np.ones(BLOCK_STEPS) / BLOCK_STEPS, "valid")
    blocks = blocks[_lufs(blocks) > GATE_LUFS]
    if not blocks.size:
        return None
    line = float(_lufs(np.array([blocks.mean()]))[0]) + GATE_DB
    blocks = blocks[_lufs(blocks) > line]
    return float(_lufs(np.array([blocks.mean()]))[0]) if blocks.size else None


def _lufs(power: Floats) -> Floats:
    made: Floats = OFFSET_LUFS + 10 * np.log10(np.maximum(power, 1e-20))
    return made


class TruePeak:
    """The largest value between samples: what a converter makes of them."""

    def __init__(self, rate_hz: int) -> None:
        self._up = UP if rate_hz < MOST_RATE_HZ else 1
        self._left: Small = np.zeros(0, np.float32)
        self.peak = 0.0

    def take(self, part: Small) -> None:
        """Some more samples."""
        x = np.concatenate([self._left, part])
        self._left = x[-2 * BESIDE :]
        largest = float(np.abs(x).max(initial=0.0))
        if largest < WORTH * self.peak or self._up == 1:
            self.peak = max(self.peak, largest)
            return
        import soxr  # imported when wanted

        made = np.abs(soxr.resample(x, 1, self._up))
        # its own ends ring
        inside = made[BESIDE * self._up : made.size - BESIDE * self._up]
        self.peak = max(self.peak, largest, float(inside.max(initial=0.0)))
