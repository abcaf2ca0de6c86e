"""A knob on a panel: where it stands, where it should, what is printed there.

Everything else is made from this: the bracket on its dial, whether a step is done, the move that a
step asks for, the headline's count, the line on a card. Two opinions about a knob cannot be held.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from tonleiter.core.refused import RefusedError
from tonleiter.core.station.settings import KNOBS, Knob, KnobId, PanelState
from tonleiter.core.units.quantity import HERTZ, QuantityError, parse_quantity
from tonleiter.core.words import quoted

Zone = tuple[float, float]
# what rounding leaves
NEAR = 1e-6


@dataclass(frozen=True)
class Control:
    """A knob: its value, and the zone where it should stand (None: nobody minds).

    ``aim`` may lie beyond the knob's ends: then no turn of it is enough. ``marked_to`` is what is
    printed at the end of a scale of hundredths; ``note`` stands below the dial.
    """

    id: KnobId
    knob: Knob
    value: float
    aim: Zone | None = None
    note: str = ""
    marked_to: float = 100.0

    @property
    def title(self) -> str:
        """What it is called."""
        return self.knob.title

    @property
    def low(self) -> float:
        """The beginning of its scale."""
        return self.knob.low

    @property
    def high(self) -> float:
        """The end of its scale."""
        return self.knob.high

    @property
    def step(self) -> float:
        """The least that one turns."""
        return self.knob.step

    @property
    def unit(self) -> str:
        """Its unit."""
        return self.knob.unit

    @property
    def bracket(self) -> Zone | None:
        """The part of its scale where it should stand."""
        return None if self.aim is None else (self.held(self.aim[0]), self.held(self.aim[1]))

    def fits(self) -> bool:
        """Whether it stands where it should."""
        return self.aim is None or self.aim[0] - NEAR <= self.value <= self.aim[1] + NEAR

    def held(self, value: float) -> float:
        """A figure within its ends."""
        return self.knob.held(value)

    def target(self) -> float:
        """Where it should be turned to: the middle of its aim, by its steps, within its ends."""
        if self.aim is None:
            return self.value
        middle = (self.aim[0] + self.aim[1]) / 2
        stepped = self.held(round(middle / self.step) * self.step)
        inside = self.aim[0] <= stepped <= self.aim[1]
        return stepped if inside else self.held(middle)

    def stuck(self) -> bool:
        """Whether it stands at an end, and would have to go on."""
        return not self.fits() and abs(self.target() - self.value) < self.step / 2

    def with_aim(self, aim: Zone | None) -> Control:
        """The same with another aim."""
        return Control(self.id, self.knob, self.value, aim, self.note, self.marked_to)

    def marked(self, value: float) -> float:
        """What is printed at a value."""
        return value * self.marked_to / 100.0 if self.marked_to != 100.0 else value

    def unmarked(self, printed: float) -> float:
        """The value at what is printed."""
        return printed * 100.0 / self.marked_to if self.marked_to != 100.0 else printed

    def said(self, value: float | None = None) -> str:
        """A figure as it is printed, with its unit."""
        at = self.marked(self.value if value is None else value)
        fine = self.step < 1 or (self.marked_to != 100.0 and self.marked_to < 20)
        text = (f"{at:.1f}" if fine else f"{round(at):d}").replace("-", "−")
        plus = "+" if self.knob.signed and at > 0 else ""
        return f"{plus}{text} {self.unit}".strip()


class KnobError(RefusedError):
    """A typed figure that is not on a knob's scale."""


def read_knob(text: str, knob: Control) -> float:
    """A figure as people type it over a knob: as printed there, “4,5 kHz”, “half”.

    Raises KnobError.
    """
    scale = f"{knob.said(knob.low)} to {knob.said(knob.high)} is on the scale"
    plain = " ".join(text.replace("−", "-").lower().split())
    if plain in _SHARES:
        value = knob.low + _SHARES[plain] * (knob.high - knob.low)
    elif knob.unit == "Hz":
        try:
            value = parse_quantity(text, HERTZ)
        except QuantityError:
            raise KnobError(f"{quoted(text)} is no frequency; {scale}") from None
    else:
        bare = plain.replace(",", ".").removesuffix(knob.unit.lower()).strip()
        try:
            value = knob.unmarked(float(bare))
        except ValueError:
            raise KnobError(f"{quoted(text)} is no figure; {scale}") from None
    if not (math.isfinite(value) and knob.low - NEAR <= value <= knob.high + NEAR):
        raise KnobError(f"{quoted(text)}: {scale}")
    return knob.held(value)


_SHARES = {"half": 0.5, "middle": 0.5, "off": 0.0, "full": 1.0, "a third": 1 / 3, "a quarter": 0.25}


def control(
    panel: PanelState,
    name: KnobId,
    aim: Zone | None = None,
    note: str = "",
    knob: Knob | None = None,
    marked_to: float = 100.0,
) -> Control:
    """A knob of a panel as it stands; ``knob`` where this set's has other ends or another name."""
    face = knob or KNOBS[name]
    return Control(name, face, face.held(at(panel, name, face)), aim, note, marked_to)


def at(panel: PanelState, name: KnobId, knob: Knob | None = None) -> float:
    """Where a knob stands: as turned, or as it comes."""
    return panel.knobs.get(name, (knob or KNOBS[name]).usual)


def from_computer_db(panel: PanelState) -> float:
    """What a computer and its interface are turned by, against what the station says is sent."""
    return at(panel, "level") + at(panel, "program") + at(panel, "slider")


def driven(reads: Control, reading: float, zone: Zone, per_unit: float) -> Control:
    """A knob that is turned until a meter reads right: its aim follows from the meter's.

    ``per_unit`` is how far it is turned for one unit of the meter; it fits when the meter does.
    """
    low, high = (reads.value + (z - reading) * per_unit for z in zone)
    return reads.with_aim((low, high))


def with_knobs(panel: PanelState, knobs: Mapping[KnobId, float]) -> PanelState:
    """Knobs turned to where a move puts them."""
    kept = {k: KNOBS[k].held(v) for k, v in knobs.items()}
    return panel.but(knobs={**panel.knobs, **kept})


def in_school(panel: PanelState, **schools: str) -> PanelState:
    """Another school; what was tried for one sound is not what another asks for."""
    other = schools.get("tone", panel.tone) != panel.tone
    made = panel.but(**schools)
    return made.but(shelves_db=None) if other else made
