"""A supply and a resistor for an electret, with its filter, in a box of its own."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import (
    Diode,
    DiodeModel,
    PowerLaw,
    Regulator,
    RegulatorModel,
    Spectrum,
    VoltageSource,
)
from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.active import EIN_BAND_HZ
from tonleiter.core.gear.base import Gear, Role, Shelf
from tonleiter.core.gear.figure import Farads, Ohms, Volts, typical
from tonleiter.core.gear.grip import Grip
from tonleiter.core.gear.net import BiasRail, Dc, PlusSide, StageNet
from tonleiter.core.gear.parts import COINS, DIODE, PENNIES, Part
from tonleiter.core.units.quantity import VOLT, format_quantity, format_short


class BiasFeed(Gear):
    """A supply and a resistor for a 2-wire electret, with a coupling capacitor to what follows."""

    role: ClassVar[Role] = "between"
    shelf: ClassVar[Shelf | None] = "Boxes"
    noun: ClassVar[str] = "bias feed"
    feeds: ClassVar[Dc | None] = "bias"
    series_farad_field: ClassVar[str | None] = "coupling_f"
    what: ClassVar[str] = "supplies an electret"
    choices: ClassVar[tuple[str, ...]] = (
        "supply_v",
        "resistor_ohm",
        "coupling_f",
        "output_plus",
        "filter",
        "fed_by",
    )
    handle: ClassVar[str | None] = "resistor_ohm"
    grip: ClassVar[Grip | None] = grips.Places("E12", 1)

    kind: Literal["bias-feed"] = "bias-feed"
    supply_v: Volts = Field(typical(3.0), title="Supply")
    resistor_ohm: Ohms = Field(typical(2200.0), title="Resistor")
    coupling_f: Farads = Field(typical(10e-6), title="Coupling capacitor")
    output_turned_by: ClassVar[str | None] = "output_plus"
    output_plus: PlusSide = Field("inside", title="its plus side")
    supply_noise_v: Volts = Field(typical(2e-6), title="Noise on the supply")
    filter: Literal["none", "second-rc", "zener", "regulator"] = Field("none", title="Filter")
    filter_ohm: Ohms = Field(typical(2200.0), title="Filter resistor")
    filter_f: Farads = Field(typical(47e-6), title="Filter capacitor")
    held_v: Volts = Field(typical(5.1), title="Held at")
    fed_by: Literal["battery", "radio-contact"] = Field("battery", title="Fed by")
    contact_ohm: Ohms = Field(typical(470.0), title="Behind the contact")

    # dynamic resistance of a small Zener; ripple rejection of a small regulator
    ZENER_OHM: ClassVar[float] = 20.0
    REGULATOR_REJECTS: ClassVar[float] = 1e-3
    DROPOUT_V: ClassVar[float] = 1.0
    BEFORE_F: ClassVar[float] = 330e-9
    BEHIND_F: ClassVar[float] = 100e-9

    def idle_fields(self) -> tuple[str, ...]:
        """Figures of the filter that is not there; of a supply that the radio gives."""
        own = ("contact_ohm",) if self.fed_by == "battery" else ("contact_ohm", "supply_v")
        return (
            own
            + {
                "none": ("filter_ohm", "filter_f", "held_v"),
                "second-rc": ("held_v",),
                "zener": ("filter_f",),
                "regulator": ("filter_ohm", "filter_f"),
            }[self.filter]
        )

    def open_v(self) -> float:
        """Volts at the feed resistor without a load."""
        supply = self.supply_v.value
        if self.filter == "zener":
            return min(supply, self.held_v.value)
        if self.filter == "regulator":
            return min(max(supply - self.DROPOUT_V, 0.0), self.held_v.value)
        return supply

    def fed_from(self, volts: float, ohm: float) -> Gear:
        """With what the radio's contact gives, where that feeds it."""
        if self.fed_by == "battery":
            return self
        changes = {"supply_v": typical(max(volts, 0.0)), "contact_ohm": typical(ohm)}
        return self.model_copy(update=changes)

    def wants_supply(self) -> bool:
        """Not where the radio gives it."""
        return self.fed_by == "battery"

    @property
    def fed_at(self) -> str | None:
        """The node that a wire from the radio's contact goes to."""
        return None if self.fed_by == "battery" else f"{self.id}:rail"

    def name_by_values(self) -> str:
        """With its resistor behind the comma."""
        return f"{self.name.rpartition(',')[0]}, {format_short(self.resistor_ohm.value)}"

    def build(self, net: StageNet) -> None:
        """Supply through its filter and the resistor to the hot line, capacitor onwards."""
        cold, rail = net.inlet.cold, net.name("rail")
        source = net.name("supply")
        noise = self.supply_noise_v.value**2 / EIN_BAND_HZ
        if self.filter == "regulator":
            noise *= self.REGULATOR_REJECTS**2
        law = (PowerLaw(noise),)
        if self.fed_by == "radio-contact":
            # what stands in the radio behind the contact is no part of the build
            open_at = net.name("contact")
            volts = self.supply_v.value
            net.add_stray(VoltageSource(source, open_at, cold, dc=volts, noise=law))
            net.resistor("contact_r", open_at, rail, self.contact_ohm.value, stray=True)
        elif self.filter == "regulator":
            self._regulator(net, law)
        else:
            net.battery(rail, cold, self.supply_v.value, "supply", law)
        feed = rail
        if self.filter in ("second-rc", "zener"):
            feed = net.name("clean")
            net.resistor("filter_r", rail, feed, self.filter_ohm.value)
        if self.filter == "second-rc":
            net.to_common("filter_c", feed, cold, self.filter_f.value)
        if self.filter == "zener" and self.held_v.value < self.supply_v.value:
            model = DiodeModel(rs_ohm=self.ZENER_OHM, bv_v=self.held_v.value)
            net.add(Diode(net.name("zener"), cold, feed, model))
            diode = Part(1, "Zener diode", format_quantity(self.held_v.value, VOLT), PENNIES)
            net.whole("diode", DIODE, diode, "zener")
        resistor = net.resistor("resistor", feed, net.inlet.hot, self.resistor_ohm.value)
        net.coupling(
            "coupling", net.inlet.hot, net.outlet.hot, self.coupling_f.value, self.output_plus
        )
        net.resistor("bleed", net.outlet.hot, cold, 100e3)
        net.mark(BiasRail(source, resistor, self.open_v()))

    def _regulator(self, net: StageNet, noise: Spectrum) -> None:
        """It, its battery, and the capacitors that keep it from singing."""
        cold, raw, rail = net.inlet.cold, net.name("raw"), net.name("rail")
        net.battery(raw, cold, self.supply_v.value)
        net.capacitor("before", raw, cold, self.BEFORE_F)
        net.capacitor("behind", rail, cold, self.BEHIND_F)
        volts, held = self.held_v.value, net.name("held")
        model = RegulatorModel(holds_v=volts, headroom_v=self.DROPOUT_V)
        net.add(Regulator(net.name("regulator"), raw, held, cold, model))
        # its own noise stands in its output
        net.add(VoltageSource(net.name("supply"), rail, held, noise=noise))
        value = f"{format_quantity(self.open_v(), VOLT)} from {self.supply_v.value:g} V"
        part = Part(1, "regulator, low dropout", value, COINS)
        net.whole("regulator", "U", part, "regulator", "supply")
