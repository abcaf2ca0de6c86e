"""Speech and room noise as sound pressures at a microphone.

Reference voice: ITU-T P.64 / P.51, −4.7 dBPa active speech level at 25 mm from the lip plane; level
falls as 1/r from a point 10 mm behind the lips. Spectrum: ITU-T P.50 long-term average. Room noise
falls 5 dB per octave, after the room-noise spectrum of Hoth (JASA 12, 1941), scaled to its dBA.
"""

from __future__ import annotations

from functools import cache, lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.elements import PowerLaw, Spectrum
from tonleiter.core.circuit.noise import band_power

Floats = NDArray[np.float64]
Effort = Literal["soft", "normal", "raised", "loud"]

REFERENCE_DBPA = -4.7
REFERENCE_MM = 25.0
ORIGIN_BEHIND_LIPS_MM = 10.0
EFFORT_DB: dict[Effort, float] = {"soft": -6.0, "normal": 0.0, "raised": 6.0, "loud": 12.0}
# where an active speech level is taken: P.56 leaves what lies higher to its filter
SPEECH_BAND_HZ = (100.0, 5500.0)
# PSD falls 5 dB per octave: exponent of f is 5 / (10 log10 2)
ROOM_EXPONENT = 5.0 / (10.0 * np.log10(2.0))


def speech_pressure_pa(distance_mm: float, effort: Effort = "normal") -> float:
    """Active speech level in pascals RMS at ``distance_mm`` from the lips."""
    reference = 10 ** ((REFERENCE_DBPA + EFFORT_DB[effort]) / 20)
    spread = (REFERENCE_MM + ORIGIN_BEHIND_LIPS_MM) / (distance_mm + ORIGIN_BEHIND_LIPS_MM)
    return float(reference * spread)


def nearer_db(from_mm: float, to_mm: float) -> float:
    """What speech gains from ``from_mm`` to ``to_mm`` from the lips, by the same 1/r law."""
    behind = ORIGIN_BEHIND_LIPS_MM
    return float(20 * np.log10((from_mm + behind) / (to_mm + behind)))


def distance_for_mm(from_mm: float, up_db: float) -> float:
    """The distance from the lips at which speech is ``up_db`` stronger than at ``from_mm``."""
    behind = ORIGIN_BEHIND_LIPS_MM
    return (from_mm + behind) / 10 ** (up_db / 20) - behind


def speech_density_db(f_hz: Floats) -> Floats:
    """Long-term speech spectrum density in dB re 1 pW/m² per Hz, 100 Hz to 8 kHz (ITU-T P.50)."""
    x = np.log10(f_hz)
    density: Floats = -376.44 + 465.439 * x - 157.745 * x**2 + 16.7124 * x**3
    return density


def speech_weights(f_hz: Floats) -> Floats:
    """Share of speech power that each grid frequency stands for; sums to 1, zero outside P.50."""
    return _weights_on(f_hz.tobytes())


def flat_weights(f_hz: Floats, band_hz: tuple[float, float]) -> Floats:
    """The same for power spread evenly over a band, as of tones that may stand anywhere in it."""
    low, high = band_hz
    power = np.gradient(f_hz) * ((f_hz >= low) & (f_hz <= high))
    weights: Floats = power / power.sum()
    return weights


@lru_cache(maxsize=32)
def _weights_on(grid: bytes) -> Floats:
    """Weights on a grid of frequencies; few grids are in use, and each is used all the time."""
    f_hz = np.frombuffer(grid)
    low, high = SPEECH_BAND_HZ
    inside = (f_hz >= low) & (f_hz <= high)
    density = np.zeros_like(f_hz)
    density[inside] = 10 ** (speech_density_db(f_hz[inside]) / 10)
    power: Floats = density * np.gradient(f_hz)
    weights: Floats = power / power.sum()
    return weights


def a_weighting_db(f_hz: Floats) -> Floats:
    """A-weighting, IEC 61672-1 annex E; 0 dB at 1 kHz."""
    f2 = np.asarray(f_hz, dtype=float) ** 2
    f1, fb, fc, f4 = 20.598997, 107.65265, 737.86223, 12194.217
    response = (f4**2 * f2**2) / (
        (f2 + f1**2) * np.sqrt((f2 + fb**2) * (f2 + fc**2)) * (f2 + f4**2)
    )
    weighted: Floats = 20 * np.log10(response) + 2.0
    return weighted


@cache
def _a_weighted_unit_room() -> float:
    f_hz = np.logspace(np.log10(20.0), np.log10(20000.0), 1000)
    psd = (f_hz / 1000.0) ** -ROOM_EXPONENT * 10 ** (a_weighting_db(f_hz) / 10)
    return float(band_power(psd, f_hz))


def room_spectrum(noise_dba: float) -> Spectrum:
    """Pressure density in Pa²/Hz of a room whose noise measures ``noise_dba``."""
    total_pa2 = (20e-6) ** 2 * 10 ** (noise_dba / 10)
    return (PowerLaw(total_pa2 / _a_weighted_unit_room(), float(ROOM_EXPONENT)),)


def white_self_noise_pa2_per_hz(noise_dba: float) -> float:
    """Pressure density in Pa²/Hz of white noise that measures ``noise_dba``."""
    f_hz = np.logspace(np.log10(20.0), np.log10(20000.0), 1000)
    weighted = float(band_power(10 ** (a_weighting_db(f_hz) / 10), f_hz))
    return float((20e-6) ** 2 * 10 ** (noise_dba / 10) / weighted)
