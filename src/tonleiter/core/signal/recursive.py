"""Recursive filters as triangular systems: the difference equation solved, row by row, in BLAS.

``a0 y[n] + a1 y[n-1] + … = b0 x[n] + b1 x[n-1] + …`` is a banded triangular system for y. It is
exact, and its import costs a second less than the library that has this under its usual name.
"""

from __future__ import annotations

import numpy as np

from tonleiter.core.signal.arrays import Floats


def recursive(b: Floats, a: Floats, x: Floats, state: Floats) -> tuple[Floats, Floats]:
    """Output and new state of a filter of order m; ``a`` and ``b`` of shape (m + 1,).

    ``state`` of shape (m,) is that of the transposed direct form II (Oppenheim and Schafer, 3rd
    ed., ch. 6): what past samples add to the next m outputs.
    """
    from scipy.linalg.blas import dtbsv  # imported when wanted

    order = len(a) - 1
    if not x.size:
        return x.astype(float), state
    b, a = b / a[0], a / a[0]
    long = np.concatenate([x, np.zeros(order)])
    driven = b[0] * long
    for k in range(1, order + 1):
        driven[k:] += b[k] * long[:-k]
    driven[:order] += state
    band = np.empty((order + 1, x.size), order="F")
    band[:] = a[:, None]
    made = np.asarray(dtbsv(order, band, driven[: x.size], lower=1, diag=1))
    # what comes of it after the last sample: the tail of the drive less that of the outputs
    after = driven[x.size :].copy()
    for k in range(1, order + 1):
        tail = made[max(made.size - k, 0) :]
        after[k - tail.size : k] -= a[k] * tail
    return made, after


def one_pole(x: Floats, keeps: float) -> Floats:
    """A first-order low-pass at rest that keeps so much of what it had from sample to sample."""
    made, _ = recursive(
        np.array([1 - keeps, 0.0]), np.array([1.0, -keeps]), np.asarray(x, float), np.zeros(1)
    )
    return made
