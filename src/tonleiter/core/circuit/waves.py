"""Sources over time: sine, pulse, exponentials, lines between points; as common cards define them.

A period of nothing is none. What grows without end, or has more edges than a run could meet, is
refused before it begins.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

# volts or amperes beyond which no source of this bench goes; edges in one run
MOST_VALUE, MOST_BREAKS = 1e9, 100_000


@dataclass(frozen=True)
class Sine:
    """VO + VA sin(2πf(t − TD)) e^(−θ(t − TD)) from TD on, VO before."""

    offset: float
    amplitude: float
    f_hz: float
    delay_s: float = 0.0
    damping_per_s: float = 0.0

    def at(self, t_s: float) -> float:
        """Its value."""
        since = t_s - self.delay_s
        if since <= 0:
            return self.offset
        swing = self.amplitude * math.sin(2 * math.pi * self.f_hz * since)
        return self.offset + swing * math.exp(-self.damping_per_s * since)

    def breaks(self, stop_s: float) -> list[float]:
        """Times at which its slope jumps."""
        return [self.delay_s] if 0 < self.delay_s < stop_s else []

    def trouble(self, stop_s: float) -> str:
        """Why it cannot be run until then; "" if it can."""
        grows = -self.damping_per_s * max(stop_s - self.delay_s, 0.0)
        most = abs(self.offset) + abs(self.amplitude)
        if not math.isfinite(2 * math.pi * self.f_hz * stop_s):
            return "its sine is faster than can be computed"
        if most > 0 and grows + math.log(most) > math.log(MOST_VALUE):
            return f"its sine grows beyond {MOST_VALUE:g}"
        return ""


@dataclass(frozen=True)
class Pulse:
    """From V1 to V2 after TD, over TR; PW later back over TF; again after PER."""

    low: float
    high: float
    delay_s: float = 0.0
    rise_s: float = 1e-9
    fall_s: float = 1e-9
    width_s: float = math.inf
    period_s: float = math.inf

    def at(self, t_s: float) -> float:
        """Its value."""
        since = t_s - self.delay_s
        if since <= 0:
            return self.low
        if self.repeats:
            since %= self.period_s
        if since < self.rise_s:
            return self.low + (self.high - self.low) * since / self.rise_s
        if since <= self.rise_s + self.width_s:
            return self.high
        falling = since - self.rise_s - self.width_s
        if falling < self.fall_s:
            return self.high + (self.low - self.high) * falling / self.fall_s
        return self.low

    @property
    def repeats(self) -> bool:
        """Whether it comes again."""
        return 0 < self.period_s < math.inf

    def trouble(self, stop_s: float) -> str:
        """Why it cannot be run until then; "" if it can."""
        if self.repeats and 4 * stop_s / self.period_s > MOST_BREAKS:
            return f"its pulse has more than {MOST_BREAKS} edges in this time"
        return ""

    def breaks(self, stop_s: float) -> list[float]:
        """Times at which its slope jumps."""
        edges = [0.0, self.rise_s]
        if math.isfinite(self.width_s):
            edges += [self.rise_s + self.width_s, self.rise_s + self.width_s + self.fall_s]
        found, start = [], self.delay_s
        while start < stop_s:
            found += [start + e for e in edges]
            if not self.repeats:
                break
            start += self.period_s
        return [t for t in found if 0 < t < stop_s]


@dataclass(frozen=True)
class Exponential:
    """V1; from TD1 on towards V2 with TAU1; from TD2 on back with TAU2."""

    first: float
    second: float
    rise_at_s: float = 0.0
    rise_s: float = 1e-9
    fall_at_s: float = math.inf
    fall_s: float = 1e-9

    def at(self, t_s: float) -> float:
        """Its value."""
        value, swing = self.first, self.second - self.first
        for begins, tau, sign in (
            (self.rise_at_s, self.rise_s, 1.0),
            (self.fall_at_s, self.fall_s, -1.0),
        ):
            if t_s > begins:
                value += sign * swing * -math.expm1(-(t_s - begins) / tau)
        return value

    def breaks(self, stop_s: float) -> list[float]:
        """Times at which its slope jumps."""
        return [t for t in (self.rise_at_s, self.fall_at_s) if 0 < t < stop_s]

    def trouble(self, stop_s: float) -> str:
        """It can always be run."""
        return ""


@dataclass(frozen=True)
class Lines:
    """Straight lines between points (time, value), in the order of time."""

    points: tuple[tuple[float, float], ...]

    def at(self, t_s: float) -> float:
        """Its value; the first before the first point, the last after the last."""
        before = self.points[0]
        for point in self.points:
            if point[0] >= t_s:
                if point[0] == before[0]:
                    return point[1]
                share = (t_s - before[0]) / (point[0] - before[0])
                return before[1] + share * (point[1] - before[1]) if share >= 0 else point[1]
            before = point
        return before[1]

    def breaks(self, stop_s: float) -> list[float]:
        """Its points."""
        return [t for t, _ in self.points if 0 < t < stop_s]

    def trouble(self, stop_s: float) -> str:
        """It can always be run."""
        return ""


Wave = Sine | Pulse | Exponential | Lines
