"""Which readings to leave out so that the rest agree."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np
from scipy.special import chdtrc

from tonleiter.core.learn.reading import Reading
from tonleiter.core.learn.smoother import surprise
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.stop import checkpoint

# readings together are as strange as this once in so many times before one is doubted; what is left
# must then be usual again
STRANGE, USUAL, MOST_ODD = 0.005, 0.05, 2


def left_out(told: Floats, readings: Sequence[Reading]) -> tuple[int, ...]:
    """The fewest, the strangest first. ``told`` is what draws read, shape (draws, readings)."""
    count = len(readings)
    values, sds = np.array([r.value for r in readings]), np.array([r.sd for r in readings])
    if not count or _likely(told, values, sds) > STRANGE:
        return ()
    for size in range(1, min(MOST_ODD, count) + 1):
        best: tuple[float, tuple[int, ...]] | None = None
        for out in combinations(range(count), size):
            checkpoint()
            left = [k for k in range(count) if k not in out]
            # one that the figures themselves do not allow fits nothing
            share = _likely(told[:, left], values[left], sds[left]) if left else 1.0
            if best is None or share > best[0]:
                best = share, out
        if best is not None and best[0] >= USUAL:
            return best[1]
    return ()


def _likely(told: Floats, read: Floats, sd: Floats) -> float:
    """How often readings lie as far from what draws read, or further."""
    return float(chdtrc(read.size, surprise(told, read, sd)))
