"""How well faults explain readings that hang together.

The readings of one unit are one draw of one multivariate normal distribution: its mean is what the
fault shows at nominal parts, its covariance what whole units and meters do to all readings at once.
A reading may also be a slip of the hand, whatever the others say: then it is left out, at a price.

With P the inverse of the covariance and r what is left over the mean, a reading lies from what all
others make of it by (P r)ᵢ/Pᵢᵢ with variance 1/Pᵢᵢ; without it the determinant grows by Pᵢᵢ and the
squared distance loses (P r)ᵢ²/Pᵢᵢ (block inverse; e.g. Rasmussen and Williams 2006, A.3 and 5.4.2).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# how often a reading is simply wrong, and over how much of the scale it may then lie
SLIP, SLIP_RANGE = 5e-4, 20.0
MOST_SLIPS = 2
# nearer than this, in standard deviations, nothing is taken for a slip
SLIP_FROM_Z = 2.5
# what a fault leaves without an answer says nothing for it and nothing against it
SAYS_NOTHING = 10.0


@dataclass(frozen=True)
class Fits:
    """How readings lie to each of several faults; arrays have faults first.

    ``log`` is the logarithm of their density, slips allowed for, shape (faults,); ``z`` how far
    each lies from what all others make of it, in standard deviations, shape (faults, readings);
    ``slip`` whether it was taken as a slip, of the same shape; ``chi2`` the squared distance of
    those that were not, shape (faults,).
    """

    log: Floats
    z: Floats
    slip: NDArray[np.bool_]
    chi2: Floats

    def among(self, places: list[int], count: int, other: Floats) -> Fits:
        """These, at their places among more faults, which have only a logarithm; they miss all."""
        log = np.array(other, dtype=float)
        log[places] = self.log
        shape = (count, self.z.shape[1])
        z, slip, chi2 = np.full(shape, math.inf), np.zeros(shape, dtype=bool), -2 * log
        z[places], slip[places], chi2[places] = self.z, self.slip, self.chi2
        return Fits(log, z, slip, chi2)

    def with_first(self, log: float, chi2: float) -> Fits:
        """These, the first one better known."""
        return replace(
            self,
            log=np.concatenate([[log], self.log[1:]]),
            chi2=np.concatenate([[chi2], self.chi2[1:]]),
        )


def fits(mean: Floats, covariance: Floats, read: Floats) -> Fits:
    """Hold readings, shape (readings,), against means and covariances of faults.

    Shapes (faults, readings) and (faults, readings, readings).
    """
    count, n = mean.shape
    away = read - mean
    strange = ~np.isfinite(away)
    if strange.any():
        away = np.where(strange, 0.0, away)
        covariance = covariance.copy()
        covariance[:, range(n), range(n)] += strange * SAYS_NOTHING**2
    lower = np.linalg.cholesky(covariance)
    inverse = np.linalg.inv(lower)
    precision = np.swapaxes(inverse, 1, 2) @ inverse
    log_det = 2 * np.log(np.diagonal(lower, axis1=1, axis2=2)).sum(axis=1)
    pulled = np.einsum("fij,fj->fi", precision, away)
    chi2 = np.einsum("fi,fi->f", away, pulled)
    z = pulled / np.sqrt(np.diagonal(precision, axis1=1, axis2=2))
    out = np.zeros((count, n), dtype=bool)
    best_out, best_chi2 = out.copy(), chi2.copy()
    best = -0.5 * (chi2 + log_det + n * math.log(2 * math.pi))
    price = math.log(SLIP / SLIP_RANGE)
    every = np.arange(count)
    for slips in range(1, min(MOST_SLIPS, n - 1) + 1):
        own = np.diagonal(precision, axis1=1, axis2=2)
        alone = np.where(out, 0.0, pulled / np.sqrt(np.where(out, 1.0, own)))
        worst = np.argmax(np.abs(alone), axis=1)
        far = alone[every, worst]
        p = np.where(out[every, worst], 1.0, own[every, worst])
        row = precision[every, worst]
        chi2 = chi2 - far**2
        log_det = log_det + np.log(p)
        pulled = pulled - row * (pulled[every, worst] / p)[:, None]
        precision = precision - row[:, :, None] * row[:, None, :] / p[:, None, None]
        out = out.copy()
        out[every, worst] = True
        log = -0.5 * (chi2 + log_det + (n - slips) * math.log(2 * math.pi)) + slips * price
        better = (log > best) & (np.abs(far) > SLIP_FROM_Z)
        best = np.where(better, log, best)
        best_out = np.where(better[:, None], out, best_out)
        best_chi2 = np.where(better, chi2, best_chi2)
    return Fits(best, z, best_out, best_chi2)
