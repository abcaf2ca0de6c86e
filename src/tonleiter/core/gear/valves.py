"""A linear valve stage, for old transmitters: amplification factor behind the plate resistance.

Gain = μ RL / (rp + RL) with the cathode bypassed (Langford-Smith, Radiotron Designer's Handbook,
4th ed., ch. 12).
"""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import CurrentSource, PowerLaw
from tonleiter.core.gear.base import DeviceKind, Gear, Role, Shelf, Surroundings, Window
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import Amperes, Farads, Ohms, Ratio, Volts, typical
from tonleiter.core.gear.net import SeriesFeed, StageNet, Supply
from tonleiter.core.safety.cautions import Hazard
from tonleiter.core.units.levels import dbu_from_volts


class ValveStage(Gear):
    """A triode with its grid and plate resistors, coupled out by a capacitor."""

    bought_whole: ClassVar[bool] = True
    hazards: ClassVar[frozenset[Hazard]] = frozenset({"lethal-volts"})
    device: ClassVar[DeviceKind | None] = "amplifier"
    role: ClassVar[Role] = "between"
    shelf: ClassVar[Shelf | None] = "Boxes"
    noun: ClassVar[str] = "valve stage"
    drives: ClassVar[bool] = True
    what: ClassVar[str] = "one triode, reckoned as linear"
    choices: ClassVar[tuple[str, ...]] = ("feed",)

    kind: Literal["valve-stage"] = "valve-stage"
    mu: Ratio = Field(typical(20.0), title="Amplification factor")
    plate_ohm: Ohms = Field(typical(7.7e3), title="Plate resistance")
    load_ohm: Ohms = Field(typical(47e3), title="Plate resistor")
    grid_ohm: Ohms = Field(typical(470e3), title="Grid resistor")
    output_f: Farads = Field(typical(1e-6), title="Output capacitor")
    feed: Literal["shunt", "series"] = Field("shunt", title="Plate fed")
    plate_a: Amperes = Field(typical(5e-3), title="Plate current")
    supply_v: Volts = Field(typical(250.0), title="Plate supply")
    noise_v_per_rthz: Volts = Field(typical(20e-9), title="Noise per √Hz")
    supply: Supply = Field("safety-earth", title="Chassis")
    earth_emf_v: Volts = Field(typical(1e-3), title="Earth EMF, if earthed")

    def idle_fields(self) -> tuple[str, ...]:
        """Fed through what follows it, it has no resistor and no capacitor at its plate."""
        return ("load_ohm", "output_f") if self.feed == "series" else ("plate_a",)

    def build(self, net: StageNet) -> None:
        """Grid resistor; μ/rp into rp and the plate resistor; capacitor onwards.

        Fed in series, its plate hangs on the winding that follows, which carries its current.
        """
        series = self.feed == "series"
        cold = net.inlet.cold
        plate = net.outlet.hot if series else net.name("plate")
        hot = net.inlet.hot
        net.resistor("grid", hot, cold, self.grid_ohm.value)
        gm = self.mu.value / self.plate_ohm.value
        # a triode inverts
        net.transconductor("valve", (cold, plate), (hot, cold), gm)
        noise = (gm * self.noise_v_per_rthz.value) ** 2
        net.noise_current("noise", plate, cold, (PowerLaw(noise),))
        foot = net.name("plate_foot") if series else cold
        net.resistor("plate_r", plate, foot, self.plate_ohm.value, noisy=False)
        if series:
            # through the winding from its cold end, where the supply stands, to the plate
            net.add_stray(CurrentSource(net.name("plate_dc"), plate, cold, dc=self.plate_a.value))
            # the valve's own resistance is one for sound only: the winding carries it all
            net.capacitor("plate_dc_off", foot, cold, 1e-3, stray=True)
            net.mark(SeriesFeed(self.plate_a.value))
        else:
            net.resistor("load", plate, cold, self.load_ohm.value)
            net.capacitor("c_out", plate, net.outlet.hot, self.output_f.value)
        net.resistor("bleed", net.outlet.hot, cold, 1e6, stray=True)
        earth_path(net, cold, self.supply, self.earth_emf_v.value)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """A sixth of the supply as peak swing: where a small triode is still near linear."""
        return (
            dbu_from_volts(self.supply_v.value / 6 / math.sqrt(2)) if self.supply_v.value else None
        )

    def window(self) -> Window | None:
        """Between its noise and its bend."""
        return Window(-40.0, 16.0)
