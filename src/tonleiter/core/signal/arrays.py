"""The arrays of samples that all signal blocks work on, and decibels of them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]


def decibels(x: Floats) -> Floats:
    """20 log10, nothing below −200 dB."""
    made: Floats = 20 * np.log10(np.maximum(x, 1e-10))
    return made
