"""Preferred values of resistors and capacitors, IEC 60063."""

from __future__ import annotations

import math
from typing import Literal

Series = Literal["E3", "E6", "E12", "E24", "E48", "E96"]

# E3 to E24 are rounded by an older rule than E48 and up, so IEC 60063 lists them.
_E24 = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)


def mantissas(series: Series) -> tuple[float, ...]:
    """The values of one decade, 1 ≤ value < 10, ascending."""
    count = int(series[1:])
    if count <= 24:
        return _E24[:: 24 // count]
    return tuple(round(10 ** (i / count), 2) for i in range(count))


def between(low: float, high: float, series: Series = "E24") -> list[float]:
    """All preferred values from ``low`` to ``high`` inclusive, ascending. Both above zero."""
    if low <= 0 or high < low:
        raise ValueError("preferred values need 0 < low ≤ high")
    values = []
    for decade in range(math.floor(math.log10(low)), math.floor(math.log10(high)) + 1):
        for mantissa in mantissas(series):
            value = float(f"{mantissa}e{decade}")  # exact decimal, no 4.7000000001
            if low * (1 - 1e-9) <= value <= high * (1 + 1e-9):
                values.append(value)
    return values


def nearest(value: float, series: Series = "E24") -> float:
    """The preferred value nearest to ``value`` in ratio."""
    if value <= 0:
        raise ValueError("preferred values need a value above 0")
    decade = math.floor(math.log10(value))
    places = (*mantissas(series), 10.0, 10.0 * mantissas(series)[1])
    scaled = value / 10.0**decade
    k = max(k for k, m in enumerate(places) if m <= scaled * (1 + 1e-9))
    # exact decimals, no 4.7000000001
    near = [float(f"{m}e{decade}") for m in places[k : k + 2]]
    return min(near, key=lambda v: abs(math.log(v / value)))


def at_least(value: float, series: Series = "E24") -> float:
    """The smallest preferred value not below ``value``."""
    return between(value, value * 10, series)[0]


def at_most(value: float, series: Series = "E24") -> float:
    """The largest preferred value not above ``value``."""
    return between(value / 10, value, series)[-1]


def step(value: float, count: int, series: Series = "E24") -> float:
    """Go ``count`` places up (or down, if negative) the series from ``value``.

    A value between two places first moves to its neighbour in that direction.
    """
    if count == 0:
        return value
    reach = 10 ** (abs(count) // int(series[1:]) + 2)
    if count > 0:
        return [v for v in between(value, value * reach, series) if v > value * (1 + 1e-9)][
            count - 1
        ]
    return [v for v in between(value / reach, value, series) if v < value * (1 - 1e-9)][count]
