"""Spectra and what is read off them: power between two frequencies, a line, a width, a delay."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tonleiter.core.signal.arrays import Complexes, Floats

# of a signal, so much of the power counts as its width
OCCUPIED = 0.99


@dataclass(frozen=True, eq=False)
class Spectrum:
    """Power in each bin against the set's full power, both of shape (bins,), ascending in hertz."""

    f_hz: Floats
    power: Floats

    def db(self) -> Floats:
        """In decibels."""
        made: Floats = 10 * np.log10(np.maximum(self.power, 1e-16))
        return made

    def within(self, low_hz: float, high_hz: float) -> float:
        """Power between two frequencies."""
        inside = (self.f_hz >= low_hz) & (self.f_hz < high_hz)
        return float(self.power[inside].sum())


def spectrum(z: Complexes, rate_hz: float, size: int = 1024) -> Spectrum:
    """The mean power in each bin, pieces of ``size`` overlapping by half (Welch, 1967; Hann).

    The powers of all bins add up to the mean power of the signal.
    """
    if z.size < size:
        z = np.concatenate([z, np.zeros(size - z.size, dtype=complex)])
    window = np.hanning(size + 1)[:-1]
    pieces = np.lib.stride_tricks.sliding_window_view(z, size)[:: size // 2]
    power = (np.abs(np.fft.fft(pieces * window, axis=1)) ** 2).mean(axis=0)
    power /= size * float(np.sum(window**2))
    f = np.fft.fftfreq(size, 1 / rate_hz)
    return Spectrum(np.fft.fftshift(f), np.fft.fftshift(power))


def line_db(z: Complexes, hertz: float, rate_hz: float) -> float:
    """A narrow-span analyser on one line, in dB against a carrier of magnitude 1.

    The signal should hold whole turns of what it carries.
    """
    t = np.arange(z.size) / rate_hz
    size = abs(complex(np.mean(z * np.exp(-2j * np.pi * hertz * t))))
    return 20 * math.log10(max(size, 1e-12))


def width_hz(bins: Spectrum) -> float:
    """The band that holds 99 % of the power, half a per cent left out at each side."""
    total = np.cumsum(bins.power)
    total = total / max(float(total[-1]), 1e-20)
    rest = (1 - OCCUPIED) / 2
    low, high = np.interp([rest, 1 - rest], total, bins.f_hz)
    return float(high - low)


def delay_of(one: Floats, other: Floats, most: int) -> int:
    """By how many samples, fewer than ``most``, ``other`` comes later, by cross-correlation."""
    n = 1 << (one.size + other.size).bit_length()
    both = np.fft.irfft(np.fft.rfft(other, n) * np.conj(np.fft.rfft(one, n)), n)
    return int(np.argmax(np.abs(both[:most])))
