"""Deviation of frequency modulation from its lines: carrier nulls, sidebands, corrections.

With modulation index β = deviation / tone the carrier is J0(β) and the n-th pair of sidebands
Jn(β) (Carson, Proc. IRE 10, 1922). The carrier vanishes at the zeros of J0.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

# the first five zeros of J0 (Abramowitz and Stegun, table 9.5)
NULLS = (2.4048255577, 5.5200781103, 8.6537279129, 11.7915344391, 14.9309177086)
PAIR_HZ = (1200.0, 2200.0)
LEAST_DB = -120.0


@dataclass(frozen=True)
class Null:
    """A way to hit a deviation: the order of the null, its index, the tone that nulls there."""

    order: int
    beta: float
    tone_hz: float


def nulls_for(target_hz: float) -> tuple[Null, ...]:
    """The five tones that null the carrier at a deviation."""
    return tuple(Null(k, beta, target_hz / beta) for k, beta in enumerate(NULLS, 1))


def carrier_db(beta: float) -> float:
    """The carrier against the unmodulated one."""
    return _bessel_db(0, beta)


def sidebands_db(beta: float) -> tuple[float, ...]:
    """Each pair of sidebands as far as they count (Carson's rule and two more)."""
    return tuple(_bessel_db(n, beta) for n in range(1, math.ceil(beta) + 4))


def _bessel_db(order: int, beta: float) -> float:
    from scipy.special import jv  # imported when wanted

    size = abs(float(jv(order, beta)))
    return max(20 * math.log10(size), LEAST_DB) if size > 0 else LEAST_DB


def correction_db(target_hz: float, found_hz: float) -> float:
    """By how much the level must change from a deviation that was found to the wanted one."""
    return 20 * math.log10(target_hz / found_hz)


def pre_emphasis_db(low_hz: float = PAIR_HZ[0], high_hz: float = PAIR_HZ[1]) -> float:
    """How much further the upper of two equal tones deviates behind 6 dB an octave."""
    return 20 * math.log10(high_hz / low_hz)


def deviation_of_null(tone_hz: float, order: int = 1) -> float:
    """The deviation at which a tone nulls the carrier. Raises IndexError for another order."""
    if not 1 <= order <= len(NULLS):
        raise IndexError(order)
    return NULLS[order - 1] * tone_hz
