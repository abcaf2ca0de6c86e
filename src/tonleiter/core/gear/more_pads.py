"""Pads of other shapes: T, series-only, trim pot; and the input divider inside a radio."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.base import Gear, Role
from tonleiter.core.gear.figure import Figure, Ohms, Ratio, typical
from tonleiter.core.gear.grip import Grip
from tonleiter.core.gear.net import Port, StageNet
from tonleiter.core.gear.parts import PENNIES, Part
from tonleiter.core.gear.wiper import END, wiper_at, wiper_moved_db
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import OHM, format_quantity, format_short


class TPad(Gear):
    """Two series resistors and a shunt between them: matched both ways if designed so."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "T-pad"
    is_pad: ClassVar[bool] = True
    what: ClassVar[str] = "takes level off, matched both ways"
    choices: ClassVar[tuple[str, ...]] = ("first_ohm", "shunt_ohm", "second_ohm")
    handle: ClassVar[str | None] = "shunt_ohm"
    grip: ClassVar[Grip | None] = grips.Places("E24", 1)

    kind: Literal["t-pad"] = "t-pad"
    first_ohm: Ohms = Field(typical(560.0), title="First")
    shunt_ohm: Ohms = Field(typical(22.0), title="Shunt")
    second_ohm: Ohms = Field(typical(560.0), title="Second")

    def build(self, net: StageNet) -> None:
        """Series, shunt, series."""
        middle = net.name("middle")
        net.resistor("first", net.inlet.hot, middle, self.first_ohm.value)
        net.resistor("shunt", middle, net.inlet.cold, self.shunt_ohm.value)
        net.resistor("second", middle, net.outlet.hot, self.second_ohm.value)


class UPad(Gear):
    """A balanced pad: half the series resistance in each leg, the shunt across the load."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "U-pad"
    is_pad: ClassVar[bool] = True
    what: ClassVar[str] = "takes level off, both legs alike"
    choices: ClassVar[tuple[str, ...]] = ("leg_ohm", "shunt_ohm")
    handle: ClassVar[str | None] = "leg_ohm"
    grip: ClassVar[Grip | None] = grips.Places("E24", -1)
    passes_ground: ClassVar[bool] = False

    kind: Literal["u-pad"] = "u-pad"
    leg_ohm: Ohms = Field(typical(4.7e3), title="Each leg")
    shunt_ohm: Ohms = Field(typical(100.0), title="Shunt")

    def takes_balanced(self) -> bool:
        """Both legs pass."""
        return True

    def outlet(self, inlet: Port) -> Port:
        """A cold leg of its own; the screen goes past it."""
        return Port(f"{self.id}:out", f"{self.id}:ground", screen=inlet.screen)

    def build(self, net: StageNet) -> None:
        """A resistor in each leg, then the shunt."""
        net.resistor("leg_hot", net.inlet.hot, net.outlet.hot, self.leg_ohm.value)
        net.resistor("leg_cold", net.inlet.cold, net.outlet.cold, self.leg_ohm.value)
        net.resistor("shunt", net.outlet.hot, net.outlet.cold, self.shunt_ohm.value)


class SeriesPad(Gear):
    """One resistor; the load is the pad's lower leg."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "series resistor"
    is_pad: ClassVar[bool] = True
    what: ClassVar[str] = "uses the load as its lower leg"
    choices: ClassVar[tuple[str, ...]] = ("series_ohm",)
    handle: ClassVar[str | None] = "series_ohm"
    grip: ClassVar[Grip | None] = grips.Places("E24", -1)

    kind: Literal["series-pad"] = "series-pad"
    series_ohm: Ohms = Field(typical(47e3), title="Series")

    def build(self, net: StageNet) -> None:
        """One resistor."""
        net.resistor("series", net.inlet.hot, net.outlet.hot, self.series_ohm.value)


class TrimPot(Gear):
    """A potentiometer across the source, its wiper to the load. ``turned_up`` is 0 to 1."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "trim pot"
    by_hand: ClassVar[bool] = True
    is_pad: ClassVar[bool] = True
    what: ClassVar[str] = "takes level off, by a screwdriver"
    choices: ClassVar[tuple[str, ...]] = ("turned_up", "track_ohm")
    handle: ClassVar[str | None] = "turned_up"
    grip: ClassVar[Grip | None] = grips.Turned()

    kind: Literal["trim-pot"] = "trim-pot"
    track_ohm: Ohms = Field(typical(10e3), title="Track")
    turned_up: Ratio = Field(typical(0.1), title="Turned up (0 to 1)")

    def control_at(self) -> float:
        """Its wiper."""
        return self.turned_up.value

    def pulled(self, up_db: float, z_source_ohm: float, z_load_ohm: float) -> float:
        """Where the wiper gives so much more, with what stands around it."""
        now = self.turned_up.value
        return wiper_at(now, up_db, self.track_ohm.value, z_source_ohm, z_load_ohm)

    def moved_db(
        self, old: float, new: float, z_source_ohm: float = 0.0, z_load_ohm: float = math.inf
    ) -> float:
        """As the divider has it."""
        return wiper_moved_db(old, new, self.track_ohm.value, z_source_ohm, z_load_ohm)

    def build(self, net: StageNet) -> None:
        """Upper and lower part of the track."""
        share = min(max(self.turned_up.value, END), 1 - END)
        track = self.track_ohm.value
        net.resistor("upper", net.inlet.hot, net.outlet.hot, track * (1 - share))
        net.resistor("lower", net.outlet.hot, net.outlet.cold, track * share)
        value = format_quantity(track, OHM)
        net.whole("pot", "P", Part(1, "trim pot", value, PENNIES, "linear"), "upper", "lower")


# the lower resistor of a divider is at most so much of the whole
MOST_SHARE = 0.97


class InputDivider(Gear):
    """The divider behind an old radio's microphone socket, made for high-output piezo elements."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "input divider"
    cut_into_radio: ClassVar[bool] = True
    what: ClassVar[str] = "inside the radio, before its first stage"
    choices: ClassVar[tuple[str, ...]] = ("upper_ohm", "lower_ohm")
    handle: ClassVar[str | None] = "upper_ohm"
    grip: ClassVar[Grip | None] = grips.Places("E24", -1)

    kind: Literal["input-divider"] = "input-divider"
    upper_ohm: Ohms = Field(typical(470e3), title="Upper")
    lower_ohm: Ohms = Field(typical(10e3), title="Lower")
    was_upper_ohm: Ohms = Field(typical(470e3), title="Upper, as built")
    was_lower_ohm: Ohms = Field(typical(10e3), title="Lower, as built")

    def changed_by(
        self, up_db: float, value: Callable[[float], float], of_whole: float = 1.0
    ) -> dict[str, Figure]:
        """Fields with two other resistors that give so much more, and how it was built.

        ``value`` finds a resistor that can be had; the whole stays, or becomes so much of itself.
        """
        whole = (self.upper_ohm.value + self.lower_ohm.value) * of_whole
        share = self.lower_ohm.value * of_whole / whole * 10 ** (up_db / 20)
        lower = value(whole * min(share, MOST_SHARE))
        upper = value(max(whole - lower, whole * (1 - MOST_SHARE)))
        made = {"upper_ohm": typical(upper), "lower_ohm": typical(lower)}
        if {self.was_upper_ohm.basis, self.was_lower_ohm.basis} == {"typical"}:
            # nobody entered another way: as it stands is as it was built
            made |= {"was_upper_ohm": self.upper_ohm, "was_lower_ohm": self.lower_ohm}
        return made

    def remarks(self) -> tuple[tuple[str, str], ...]:
        """Gain and impedance of a changed divider against how it was built: the way back."""
        was_upper, was_lower = self.was_upper_ohm.value, self.was_lower_ohm.value
        now = divider_gain_db(self.upper_ohm.value, self.lower_ohm.value)
        change = now - divider_gain_db(was_upper, was_lower)
        if abs(change) < 0.05:
            return ()
        return (
            ("Against as built", f"{signed(change, 1, plus=True)} dB"),
            ("As built", f"{format_short(was_upper)} / {format_short(was_lower)}"),
            ("Input as built", format_quantity(was_upper + was_lower, OHM, 3)),
        )

    def build(self, net: StageNet) -> None:
        """Two resistors."""
        net.resistor("upper", net.inlet.hot, net.outlet.hot, self.upper_ohm.value)
        net.resistor("lower", net.outlet.hot, net.outlet.cold, self.lower_ohm.value)


def divider_gain_db(upper_ohm: float, lower_ohm: float) -> float:
    """Gain of an unloaded divider in dB, below 0."""
    return 20 * math.log10(lower_ohm / (upper_ohm + lower_ohm))
