"""An axis: from values to a share of its length, and the round values along it."""

from __future__ import annotations

import math
from dataclasses import dataclass

TICKS_HZ = (50.0, 100.0, 300.0, 1000.0, 3000.0, 10_000.0)


@dataclass(frozen=True)
class Axis:
    """From ``low`` to ``high``, evenly or, for frequencies, in octaves."""

    low: float
    high: float
    frequency: bool = False

    def share(self, value: float) -> float:
        """0 at the low end, 1 at the high one, beyond them outside."""
        if self.frequency:
            return math.log(value / self.low) / math.log(self.high / self.low)
        return (value - self.low) / (self.high - self.low)

    def value(self, share: float) -> float:
        """The value at a share of its length: ``share`` backwards."""
        if self.frequency:
            return float(self.low * (self.high / self.low) ** share)
        return self.low + share * (self.high - self.low)

    def held(self, value: float) -> float:
        """The same, kept on the axis."""
        return min(max(self.share(value), 0.0), 1.0)

    def ticks(self) -> list[float]:
        """Round values: of frequencies the usual ones, else three to five."""
        if self.frequency:
            return [t for t in TICKS_HZ if self.low <= t <= self.high]
        raw = (self.high - self.low) / 4
        if raw <= 0:
            return [self.low]
        power = 10 ** math.floor(math.log10(raw))
        step = next(s * power for s in (1, 2, 5, 10) if s * power >= raw)
        first = math.ceil(self.low / step)
        return [k * step for k in range(first, math.floor(self.high / step) + 1)]

    def multiples(self, of: int) -> list[int]:
        """Whole multiples along it, low to high."""
        return list(range(math.ceil(self.low / of) * of, int(self.high) + 1, of))


def hz_text(f_hz: float) -> str:
    """A frequency under an axis."""
    return f"{f_hz / 1000:g}k" if f_hz >= 1000 else f"{f_hz:g}"
