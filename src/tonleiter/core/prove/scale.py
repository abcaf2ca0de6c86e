"""How readings are compared: volts as they are, the rest as ratios; and what a meter adds.

A meter is off by a share of each range, the same for all that is read on it, and shows no more than
3½ digits; near nothing it tells nothing.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.junctions import OPEN_V, TESTER_V
from tonleiter.core.bench.reading import Reading

Floats = NDArray[np.float64]
Kind = Literal["V", "A", "Ω", "tone", "diode"]
KINDS: tuple[Kind, ...] = ("V", "A", "Ω", "tone", "diode")
# a cheap meter: its class on each range, as a share of the reading. AC and current are worse
CLASS = {"V": 0.015, "A": 0.02, "Ω": 0.015, "tone": 0.03, "diode": 0.015}
# the last digit of 3½: at the bottom of a range of 2000 counts one count is half a percent
DIGIT = 0.004
# what it cannot tell from nothing: offset, test leads, hum on an open input
FLOOR = {"V": 0.01, "A": 10e-6, "Ω": 0.4, "tone": 0.3e-3, "diode": 0.02}
# ohms from which a meter shows open, as the number that an open pair counts as
OPEN_AS_OHM = 100e6
# from here on meters differ in what they call open, and fingers count
UNSURE_OHM, UNSURE = 1.5e6, 1.2


@dataclass(frozen=True)
class Scale:
    """The scale of each of a list of readings. All arrays have readings along their last axis."""

    readings: tuple[Reading, ...]

    def kind(self, k: int) -> Kind:
        """On which range a reading is taken."""
        reading = self.readings[k]
        if reading.unit == "V" and reading.step != "dc":
            return "tone" if reading.step == "tone" else "diode"
        return "A" if reading.unit == "A" else "Ω" if reading.unit == "Ω" else "V"

    def kinds(self, kind: Kind) -> Floats:
        """One where a reading is of this kind, nothing elsewhere; shape (readings,)."""
        return np.array([1.0 if self.kind(k) == kind else 0.0 for k in range(len(self.readings))])

    def scaled(self, values: Floats) -> Floats:
        """Volts as they are; ohms, amperes and tones as natural logarithms over their floor."""
        out = np.empty_like(values)
        for k, value in enumerate(values):
            kind = self.kind(k)
            if kind in ("V", "diode"):
                out[k] = TESTER_V if math.isinf(value) else value
                continue
            if kind == "Ω" and math.isinf(value):
                value = OPEN_AS_OHM
            sign = -1.0 if value < 0 else 1.0
            small = abs(value) / FLOOR[kind]
            out[k] = sign * math.log1p(small) if math.isfinite(value) else math.nan
        return out

    def plain(self, scaled: Floats) -> Floats:
        """Back from the scale to volts, amperes and ohms; open ohms are infinite."""
        out = np.empty_like(scaled)
        for k, value in enumerate(scaled):
            kind = self.kind(k)
            if kind in ("V", "diode"):
                out[k] = math.inf if kind == "diode" and value > OPEN_V else value
                continue
            plain = math.copysign(FLOOR[kind] * math.expm1(min(abs(value), 700.0)), value)
            if kind == "Ω":
                plain = math.inf if plain > OPEN_AS_OHM / 5 else max(plain, 0.0)
            out[k] = plain
        return out

    def meter(self, scaled: Floats) -> Floats:
        """One standard deviation of what no other reading shares: last digit, floor, contact."""
        return self._off(scaled, DIGIT)

    def by_class(self, scaled: Floats) -> Floats:
        """By how much a meter at the end of its class is off, in the scale; shape like given."""
        return self._off(scaled, None)

    def _off(self, scaled: Floats, share: float | None) -> Floats:
        out = np.empty_like(scaled)
        for k in range(scaled.shape[-1]):
            kind, at = self.kind(k), scaled[..., k]
            part = CLASS[kind] if share is None else share
            if kind in ("V", "diode"):
                out[..., k] = part * np.abs(at)
                if share is not None:
                    out[..., k] = np.hypot(out[..., k], FLOOR[kind] / 2)
                continue
            # log1p(x): a share of x counts less where x is as small as the floor
            small = np.exp(-np.abs(at))
            out[..., k] = part * (1 - small)
            if share is not None:
                out[..., k] = np.hypot(out[..., k], small / 2)
                if kind == "Ω":
                    unsure = np.abs(at) > math.log1p(UNSURE_OHM / FLOOR[kind])
                    out[..., k] = np.hypot(out[..., k], UNSURE * unsure)
        return out


def meters(scale: Scale, nominal: Floats, rng: np.random.Generator, count: int) -> Floats:
    """What meters of the class add to readings, one meter a draw; shape (count, readings)."""
    off = scale.by_class(nominal)
    total = np.zeros((count, len(scale.readings)))
    for kind in KINDS:
        total += rng.uniform(-1.0, 1.0, count)[:, None] * scale.kinds(kind) * off
    return total
