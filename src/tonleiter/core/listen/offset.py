"""How far a single sideband is off: harmonics of a voice are no multiples of its pitch any more.

In each piece of a voiced sound every pitch and every offset is tried: where lines stand at ``k``
pitches plus the offset, and none half a pitch beside. The offset is what all pieces have in common.
An offset by a whole pitch looks alike: what is told is the least of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from scipy.sparse import csr_array

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
    stands = _lines(round(step, 6), rows.shape[1]) @ np.ascontiguousarray(rows.T, dtype=np.float32)
    by_pitch = stands.reshape(PITCHES_HZ.size, OFFSETS_HZ.size, len(rows))
    best = by_pitch.max(axis=0)
    strong = best.max(axis=0) >= np.quantile(best.max(axis=0), DECIDE)
    together = best[:, strong].mean(axis=1)
    k = int(np.argmax(together))
    if together[k] < LEAST_STANDS:
        return None
    at = float(OFFSETS_HZ[k])
    if 0 < k < together.size - 1:
        a, b, c = together[k - 1 : k + 2]
        at += STEP_HZ * 0.5 * float((a - c) / (a - 2 * b + c)) if a - 2 * b + c else 0.0
    usual = float(np.median(PITCHES_HZ[by_pitch[:, k, strong].argmax(axis=0)]))
    return at - usual * round(at / usual)


def _frames(pieces: Sequence[Small], rate_hz: int) -> Floats:
    size = round(FRAME_S * rate_hz)
    rows = [p[: p.size // size * size].reshape(-1, size).astype(float) for p in pieces]
    made = np.concatenate(rows) if rows else np.zeros((0, size))
    return made[:MOST_FRAMES]


@lru_cache(maxsize=4)
def _lines(step: float, bins: int) -> csr_array:
    """How far lines stand out over what lies between, out of bins; shape (pitches × offsets, bins).

    Nearly all of it is nothing, and one product takes the place of some hundreds.
    """
    from scipy.sparse import csr_array  # imported when wanted: it costs a part of the start

    starts, columns, values = [0], [], []
    for number in range(PITCHES_HZ.size):
        on, between = _places(number, step)
        offsets, lines = on.shape
        columns.append(np.concatenate([on, between], axis=1).ravel())
        values.append(np.tile(np.repeat([1.0, -1.0], lines) / np.sqrt(lines), offsets))
        starts.extend(starts[-1] + 2 * lines * np.arange(1, offsets + 1))
    shape = (PITCHES_HZ.size * OFFSETS_HZ.size, bins)
    kept = np.concatenate(values).astype(np.float32)
    return csr_array((kept, np.concatenate(columns), np.array(starts)), shape=shape)


def _places(number: int, step: float) -> tuple[np.ndarray, np.ndarray]:
    """Bins of the lines of a pitch, and of what lies between; shape (offsets, lines) each."""
    hertz = PITCHES_HZ[number]
    k = np.arange(np.ceil((LOW_HZ + MOST_HZ) / hertz), (HIGH_HZ - MOST_HZ) / hertz)
    on = (k[None, :] * hertz + OFFSETS_HZ[:, None]) / step
    between = ((k[None, :] + 0.5) * hertz + OFFSETS_HZ[:, None]) / step
    return np.rint(on).astype(int), np.rint(between).astype(int)
