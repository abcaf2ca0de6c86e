"""Filters that carry their state from block to block, and their taps.

Whatever the blocks, the samples that come out are the same: live use and file use agree.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy.fft import fft, ifft

from tonleiter.core.signal.arrays import Complexes, Floats, quick_size
from tonleiter.core.signal.recursive import recursive

# points at which a wanted response is sampled
SAMPLED = 2048
# rows that are transformed together
AT_ONCE = 64


class Fir:
    """A filter with taps of shape (n,), real or complex, that turns input at ``up`` times its rate.

    Overlap-save on blocks of any size: what does not fill a block yet is kept. ``up`` zeros are
    stuffed between samples and made up for, so that the output has that many times the rate.
    """

    def __init__(self, taps: NDArray[np.generic], block: int = 480, up: int = 1) -> None:
        self._up, self._block = up, block * up
        self._taps = np.asarray(taps)
        self._spectra: dict[int, Complexes] = {}
        self._past = np.zeros(len(taps) - 1, dtype=complex)
        # much at once: transforms so long that what overlaps is a small part of each
        self._size = quick_size(self._block + self._past.size)
        self._long = max(self._size, quick_size(4 * self._past.size))

    def turned(self, taps: NDArray[np.generic]) -> None:
        """Other taps of the same number, as when a band's edge is turned."""
        self._taps = np.asarray(taps)
        self._spectra = {}

    def __call__(self, x: NDArray[np.generic]) -> Complexes:
        """A block of any length in, ``up`` times as many samples out; shape (n · up,)."""
        if self._up > 1:
            stuffed = np.zeros(x.size * self._up, dtype=complex)
            stuffed[:: self._up] = x
        else:
            stuffed = np.asarray(x, dtype=complex)
        keep = self._past.size
        size = self._long if stuffed.size > 4 * self._size else self._size
        block = size - keep
        joined = np.concatenate([self._past, stuffed])
        self._past = joined[joined.size - keep :]
        # whole blocks many at a time, and what is left of one behind them
        whole = stuffed.size // block
        rows = sliding_window_view(joined, size)[::block][:whole] if whole else joined[:0]
        made = [self._turned_over(rows[k : k + AT_ONCE], size) for k in range(0, whole, AT_ONCE)]
        if rest := stuffed.size - whole * block:
            made.append(self._turned_over(joined[whole * block :], size)[:rest])
        return np.concatenate(made) if made else np.zeros(0, dtype=complex)

    def _turned_over(self, joined: Complexes, size: int) -> Complexes:
        """What the taps make of rows that begin with what was before, one row after the other."""
        if size not in self._spectra:
            self._spectra[size] = fft(self._taps * self._up, size)
        made: Complexes = ifft(fft(joined, size) * self._spectra[size])
        return made[..., self._past.size :].ravel()


@lru_cache(maxsize=64)
def band_taps(low_hz: float, high_hz: float, rate_hz: float, count: int) -> Complexes:
    """Taps of a complex filter that lets one sideband through, from ``low_hz`` to ``high_hz``.

    A windowed sinc (Kaiser, β 7: some 70 dB), moved to the middle of the band. Negative frequencies
    are the lower side.
    """
    half = (high_hz - low_hz) / 2
    middle = (high_hz + low_hz) / 2
    n = np.arange(count) - (count - 1) / 2
    shape = 2 * half / rate_hz * np.sinc(2 * half / rate_hz * n) * np.kaiser(count, 7.0)
    made: Complexes = shape * np.exp(2j * np.pi * middle / rate_hz * n)
    # the same band is asked for again with each knob that is tried
    made.setflags(write=False)
    return made


def low_taps(edge_hz: float, rate_hz: float, count: int) -> Floats:
    """Taps of a real low-pass with its −6 dB point at ``edge_hz``."""
    n = np.arange(count) - (count - 1) / 2
    taps: Floats = 2 * edge_hz / rate_hz * np.sinc(2 * edge_hz / rate_hz * n)
    return np.asarray(taps * np.kaiser(count, 7.0))


def sampled_taps(wanted: Callable[[Floats], Floats], rate_hz: float, count: int) -> Floats:
    """Taps of linear phase whose magnitude at each frequency is what ``wanted`` says of it."""
    f = np.asarray(np.fft.rfftfreq(SAMPLED, 1 / rate_hz), float)
    taps = np.roll(np.fft.irfft(wanted(f), SAMPLED), count // 2)[:count]
    made: Floats = taps * np.hamming(count)
    return made


class Biquad:
    """A second-order filter with its state. Raises nothing: coefficients are made by us."""

    def __init__(self, b: Floats, a: Floats) -> None:
        self._b, self._a = b, a
        self._state = np.zeros(2)

    def turned(self, b: Floats, a: Floats) -> None:
        """Other coefficients; the state goes on."""
        self._b, self._a = b, a

    def __call__(self, x: Floats) -> Floats:
        """Shape (n,) in and out."""
        made, self._state = recursive(self._b, self._a, x, self._state)
        return made


def shelf(gain_db: float, corner_hz: float, rate_hz: float, high: bool) -> tuple[Floats, Floats]:
    """Coefficients of a shelf, low or high, of slope 1 (Zölzer, DAFX, 2nd ed., ch. 2)."""
    k = math.tan(math.pi * corner_hz / rate_hz)
    root = math.sqrt(2)
    v = 10 ** (abs(gain_db) / 20)
    plain = np.array([1 + root * k + k * k, 2 * (k * k - 1), 1 - root * k + k * k])
    s = math.sqrt(2 * v)
    if high:
        turned = np.array([v + s * k + k * k, 2 * (k * k - v), v - s * k + k * k])
        # the same denominator, whether it lifts or, turned over, takes away
    else:
        turned = np.array([1 + s * k + v * k * k, 2 * (v * k * k - 1), 1 - s * k + v * k * k])
    b, a = (turned, plain) if gain_db >= 0 else (plain, turned)
    return b / a[0], a / a[0]
