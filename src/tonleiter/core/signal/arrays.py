"""The arrays of samples that all signal blocks work on, and decibels of them."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]


def decibels(x: Floats) -> Floats:
    """20 log10, nothing below −200 dB."""
    made: Floats = 20 * np.log10(np.maximum(x, 1e-10))
    return made


@lru_cache(maxsize=256)
def quick_size(n: int) -> int:
    """The next number from ``n`` on whose only factors are 2, 3 and 5: quick to transform."""
    best = 1 << max(n - 1, 0).bit_length()
    five = 1
    while five < best:
        three = five
        while three < best:
            made = three
            while made < n:
                made *= 2
            best = min(best, made)
            three *= 3
        five *= 5
    return best


# the same at half the size, where hours of them are kept
Small = NDArray[np.float32]
