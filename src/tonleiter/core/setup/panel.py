"""A panel: its controls with where they should stand, its meters with their zones.

A control's figures are as they are printed on it. A meter's ``share`` is of its scale.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from tonleiter.core.station.settings import KNOB_RANGES, KnobId

Zone = tuple[float, float]


@dataclass(frozen=True)
class Control:
    """A knob: where it stands, its ends, the zone where it should stand (None: nobody minds)."""

    id: KnobId
    title: str
    value: float
    low: float
    high: float
    aim: Zone | None
    unit: str = ""
    step: float = 1.0
    note: str = ""

    def fits(self) -> bool:
        """Whether it stands where it should."""
        return self.aim is None or self.aim[0] - 1e-9 <= self.value <= self.aim[1] + 1e-9

    def said(self, value: float | None = None) -> str:
        """A figure as it is printed."""
        at = self.value if value is None else value
        text = f"{at:.1f}" if self.step < 1 else f"{round(at):d}"
        text = text.replace("-", "−")
        if self.low < 0 < at and self.id in ("bass", "treble"):
            text = f"+{text}"
        return f"{text} {self.unit}".strip()


@dataclass(frozen=True)
class Meter:
    """A meter: its reading in its own unit, its scale, its aim, and from where on it is too much.

    ``peak`` is a second mark on it, such as a peak beside a mean.
    """

    id: str
    title: str
    value: float
    full: float
    aim: Zone | None
    danger_from: float | None
    says: str
    unit: str = "dB"
    peak: float | None = None

    def share(self, value: float | None = None) -> float:
        """Where a value lies on the scale, 0 to 1."""
        at = self.value if value is None else value
        return min(max(at / self.full, 0.0), 1.0)

    def fits(self) -> bool:
        """Whether it reads what it should."""
        return self.aim is None or self.aim[0] - 1e-6 <= self.value <= self.aim[1] + 1e-6


def held(knob: KnobId, value: float) -> float:
    """A figure within a knob's ends."""
    low, high = KNOB_RANGES[knob]
    return min(max(value, low), high)


def knob(knobs: Mapping[KnobId, float], name: KnobId, usual: float) -> float:
    """Where a knob stands: as turned, or as it comes."""
    return knobs.get(name, usual)
