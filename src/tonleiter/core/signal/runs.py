"""Runs of neighbours for which something holds."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def runs_of(where: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """First places of runs, and the places just behind them; both of shape (runs,).

    ``where`` of shape (n,). A byte a place: hours of milliseconds go through here.
    """
    edges = np.diff(where.astype(np.int8), prepend=np.int8(0), append=np.int8(0))
    return np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
