"""How far a single sideband is off: harmonics of a voice are no multiples of its pitch any more.

In each piece of a voiced sound every pitch and every offset is tried: where lines stand at ``k``
pitches plus the offset, and none half a pitch beside. The offset is what all pieces have in common.
An offset by a whole pitch looks alike: what is told is the least of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from tonleiter.core.signal.arrays import Floats, Small

FRAME_S, LEAST_FRAMES, MOST_FRAMES = 0.06, 8, 96
LOW_HZ, HIGH_HZ, MOST_HZ, STEP_HZ = 300.0, 2200.0, 120.0, 4.0
PITCHES_HZ = np.exp(np.arange(np.log(70.0), np.log(330.0), 0.005))
OFFSETS_HZ = np.arange(-MOST_HZ, MOST_HZ + 1, STEP_HZ)
# lines stand out so far over what lies between them, in nepers by the root of their number: few
# lines stand out by chance
LEAST_STANDS = 3.0
# pieces whose lines stand out most decide
DECIDE = 0.7
# how sure a figure is, over voices of both kinds at known offsets
SURE_HZ = 5.0


def offset_hz(pieces: Sequence[Small], rate_hz: int) -> float | None:
    """How far the voice in the loudest pieces is off; None where no pitch is to be seen."""
    frames = _frames(pieces, rate_hz)
    if len(frames) < LEAST_FRAMES or rate_hz < 2.2 * HIGH_HZ:
        return None
    size = 1 << int(np.ceil(np.log2(frames.shape[1] * 4)))
    step = rate_hz / size
    rows = np.abs(np.fft.rfft(frames * np.hanning(frames.shape[1]), size, axis=1))
    rows = rows[:, : round((HIGH_HZ + 400) / step)]
    rows = rows[rows.max(axis=1) > 0]
    if len(rows) < LEAST_FRAMES:
        return None
    rows = np.log(rows + 0.01 * rows.max(axis=1, keepdims=True))
    best = np.full((len(rows), OFFSETS_HZ.size), -np.inf)
    pitch = np.zeros((len(rows), OFFSETS_HZ.size))
    for number, hertz in enumerate(PITCHES_HZ):
        on, between = _places(number, round(step, 6))
        score = (rows[:, on].mean(axis=2) - rows[:, between].mean(axis=2)) * np.sqrt(on.shape[1])
        better = score > best
        best[better], pitch[better] = score[better], hertz
    strong = best.max(axis=1) >= np.quantile(best.max(axis=1), DECIDE)
    together = best[strong].mean(axis=0)
    k = int(np.argmax(together))
    if together[k] < LEAST_STANDS:
        return None
    at = float(OFFSETS_HZ[k])
    if 0 < k < together.size - 1:
        a, b, c = together[k - 1 : k + 2]
        at += STEP_HZ * 0.5 * float((a - c) / (a - 2 * b + c)) if a - 2 * b + c else 0.0
    usual = float(np.median(pitch[strong, k]))
    return at - usual * round(at / usual)


def _frames(pieces: Sequence[Small], rate_hz: int) -> Floats:
    size = round(FRAME_S * rate_hz)
    rows = [p[: p.size // size * size].reshape(-1, size).astype(float) for p in pieces]
    made = np.concatenate(rows) if rows else np.zeros((0, size))
    return made[:MOST_FRAMES]


@lru_cache(maxsize=2048)
def _places(number: int, step: float) -> tuple[np.ndarray, np.ndarray]:
    """Bins of the lines of a pitch, and of what lies between; shape (offsets, lines) each."""
    hertz = PITCHES_HZ[number]
    k = np.arange(np.ceil((LOW_HZ + MOST_HZ) / hertz), (HIGH_HZ - MOST_HZ) / hertz)
    on = (k[None, :] * hertz + OFFSETS_HZ[:, None]) / step
    between = ((k[None, :] + 0.5) * hertz + OFFSETS_HZ[:, None]) / step
    return np.rint(on).astype(int), np.rint(between).astype(int)
