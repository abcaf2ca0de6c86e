"""The unit of a fault, or a right one, that comes closest to what was read.

Far from its middle a unit is not what a straight line makes of it: a transistor whose current is
at the end of its range may be full on. Before a build is accused, the right unit that reads most
alike is looked for (least squares, each part held by where its kind usually lies), and the
spread is taken around that one.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# rounds, the step that a share is tried with, and by how little of itself the distance may shrink
ROUNDS, STEP, NEAR = 8, 0.02, 3e-3
# variance of what lies evenly between 0 and 1; between −1 and 1
SHARE_VARIANCE, OFF_VARIANCE = 1 / 12, 1 / 3


@dataclass(frozen=True)
class Closest:
    """How near it comes: the squared distance of its readings and of its parts, in variances.

    ``log`` is the logarithm of the density of the readings, as the spread around it gives it
    (Laplace's approximation).
    """

    chi2: float
    log: float


def closest(
    reads: Callable[[Floats], Floats], count: int, read: Floats, off: Floats, own: Floats
) -> Closest:
    """Look for the unit that reads most alike.

    ``reads`` gives the readings, shape (readings,), of the unit at ``count`` shares. ``read`` is
    what was read, ``off`` what a meter at the end of its class adds on each of its ranges, shape
    (ranges, readings), ``own`` the variance of what each reading has by itself.
    """
    # imported when it is wanted: it costs as much as a tenth of the start
    from scipy.optimize import least_squares

    middle = np.concatenate([np.full(count, 0.5), np.zeros(len(off))])
    prior = np.concatenate([np.full(count, SHARE_VARIANCE), np.full(len(off), OFF_VARIANCE)])

    def away(at: Floats) -> Floats:
        left = read - reads(at[:count]) - at[count:] @ off
        left = np.where(np.isfinite(left), left, 0.0) / np.sqrt(own)
        return np.concatenate([left, (at - middle) / np.sqrt(prior)])

    ends = [0.0] * count + [-1.0] * len(off), [1.0] * (count + len(off))
    steps = [STEP] * middle.size
    found = least_squares(away, middle, bounds=ends, diff_step=steps, ftol=NEAR, max_nfev=ROUNDS)
    chi2 = 2 * float(found.cost)
    by = -np.asarray(found.jac)[: read.size] * np.sqrt(own)[:, None]
    _, log_det = np.linalg.slogdet((by * prior) @ by.T + np.diag(own))
    return Closest(chi2, -0.5 * (chi2 + float(log_det) + read.size * math.log(2 * math.pi)))
