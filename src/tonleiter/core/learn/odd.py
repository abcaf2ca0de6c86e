"""Which readings to leave out so that the rest agree.

Each reading is held against what all the others, with the figures, make of it: how far it lies from
that, in units of how far it may. Draws of what a chain reads give both (a conditional normal: with
P the inverse of their covariance and of the errors', reading k lies (P r)k / √Pkk off).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.special import ndtr

from tonleiter.core.learn.reading import Reading
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.stop import checkpoint

# readings that are right have one as far off as the farthest once in so many times; of one alone,
# held against figures that may be wrong themselves, more is wanted
STRANGE, STRANGE_ALONE, MOST_ODD = 0.03, 0.005, 2


def left_out(told: Floats, readings: Sequence[Reading]) -> tuple[int, ...]:
    """The strangest first, until the rest agree; none where leaving two out is not enough.

    ``told`` is what draws read, shape (draws, readings).
    """
    left = list(range(len(readings)))
    out: list[int] = []
    values, sds = np.array([r.value for r in readings]), np.array([r.sd for r in readings])
    while left:
        checkpoint()
        off = np.abs(_off(told[:, left], values[left], sds[left]))
        worst = int(np.argmax(off))
        chance = 2 * len(left) * float(ndtr(-off[worst]))
        # one that the figures themselves do not allow fits nothing
        if chance > (STRANGE if len(left) > 1 else STRANGE_ALONE):
            return tuple(out)
        if len(out) == MOST_ODD:
            return ()
        out.append(left.pop(worst))
    return tuple(out)


def _off(told: Floats, read: Floats, sd: Floats) -> Floats:
    """How far each reading lies from what the others make of it, in standard deviations."""
    among = np.atleast_2d(np.cov(told, rowvar=False)) + np.diag(sd**2)
    inverse = np.linalg.inv(among)
    made: Floats = (inverse @ (read - told.mean(axis=0))) / np.sqrt(np.diag(inverse))
    return made
