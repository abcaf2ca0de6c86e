"""Preamplifiers from their components: one bipolar, one JFET, an operational amplifier.

Gain, impedances, band, clipping and noise come from the solved circuit, not from formulas.
"""

from __future__ import annotations

import math
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Jfet,
    JfetModel,
    OpAmp,
    OpAmpModel,
)
from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.base import DeviceKind, Gear, Role, Shelf, Surroundings, Window
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import Amperes, Farads, Hertz, Ohms, Ratio, Volts, typical
from tonleiter.core.gear.grip import Grip
from tonleiter.core.gear.net import OutputDevice, PlusSide, StageNet, Supply
from tonleiter.core.gear.parts import CHIP, CHIP_NAME, COINS, Part
from tonleiter.core.units.levels import dbu_from_volts
from tonleiter.core.units.quantity import VOLT, format_quantity

_PREAMP_WINDOW = Window(-64.0, -6.0)


class _Preamp(Gear):
    device: ClassVar[DeviceKind | None] = "amplifier"
    role: ClassVar[Role] = "between"
    shelf: ClassVar[Shelf | None] = "Boxes"
    drives: ClassVar[bool] = True
    output_turned_by: ClassVar[str | None] = "output_plus"
    output_plus: PlusSide = Field("inside", title="Output capacitor, plus side")

    def window(self) -> Window | None:
        """Between the noise of what follows and clipping."""
        return _PREAMP_WINDOW

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Swing of the transistor between its rails, as a sine's RMS."""
        if around.swing_v is None:
            return None
        return dbu_from_volts(max(around.swing_v, 1e-6) / math.sqrt(2))


# across the supply of one transistor: an old battery's resistance is no part of the stage
DECOUPLE_F = 47e-6


class BipolarPreamp(_Preamp):
    """Common emitter with a divider at the base; the emitter resistor bypassed or not."""

    noun: ClassVar[str] = "transistor preamp"
    what: ClassVar[str] = "one bipolar, common emitter"
    choices: ClassVar[tuple[str, ...]] = (
        "collector_ohm",
        "emitter_ohm",
        "upper_ohm",
        "lower_ohm",
        "input_f",
        "output_f",
        "output_plus",
        "emitter",
    )
    handle: ClassVar[str | None] = "collector_ohm"
    # more resistance is more gain only until the operating point gives way: the value follows
    # the hand, the level what the circuit then gives
    grip: ClassVar[Grip | None] = grips.Places("E12", 0)

    kind: Literal["bipolar-preamp"] = "bipolar-preamp"
    supply_v: Volts = Field(typical(9.0), title="Supply")
    upper_ohm: Ohms = Field(typical(100e3), title="Base, upper")
    lower_ohm: Ohms = Field(typical(22e3), title="Base, lower")
    collector_ohm: Ohms = Field(typical(4.7e3), title="Collector")
    emitter_ohm: Ohms = Field(typical(1e3), title="Emitter")
    emitter: Literal["bypassed", "not-bypassed"] = Field("not-bypassed", title="Emitter resistor")
    input_capacitor: ClassVar[str | None] = "input_f"
    input_f: Farads = Field(typical(4.7e-6), title="Input capacitor")
    output_f: Farads = Field(typical(10e-6), title="Output capacitor")
    beta: Ratio = Field(typical(250.0), title="Current gain")
    supply: Supply = Field("battery", title="Powered from")

    BYPASS_F: ClassVar[float] = 220e-6
    SATURATION_V: ClassVar[float] = 0.3

    def build(self, net: StageNet) -> None:
        """Divider, transistor, collector and emitter resistors, coupling capacitors."""
        cold, rail = net.inlet.cold, net.name("rail")
        b, c, e = net.name("base"), net.name("collector"), net.name("emitter")
        net.battery(rail, cold, self.supply_v.value)
        net.at_base("c_in", net.inlet.hot, b, self.input_f.value)
        net.resistor("upper", rail, b, self.upper_ohm.value)
        net.resistor("lower", b, cold, self.lower_ohm.value)
        net.resistor("collector_r", rail, c, self.collector_ohm.value)
        net.resistor("emitter_r", e, cold, self.emitter_ohm.value)
        if self.emitter == "bypassed":
            net.to_common("bypass", e, cold, self.BYPASS_F)
        model = BipolarModel(is_a=1e-14, bf=self.beta.value, vaf_v=80.0)
        net.add(Bipolar(net.name("transistor"), c, b, e, model))
        net.coupling("c_out", c, net.outlet.hot, self.output_f.value, self.output_plus)
        net.resistor("bleed", net.outlet.hot, cold, 100e3)
        net.to_common("decouple", rail, cold, DECOUPLE_F)
        net.mark(OutputDevice(net.name("transistor"), c, e, self.SATURATION_V))
        earth_path(net, cold, self.supply)


class JfetPreamp(_Preamp):
    """Common source, self-biased, with a gate resistor that a crystal can live with."""

    noun: ClassVar[str] = "JFET preamp"
    what: ClassVar[str] = "one FET, very high input impedance"
    choices: ClassVar[tuple[str, ...]] = (
        "drain_ohm",
        "source_ohm",
        "gate_ohm",
        "output_f",
        "output_plus",
        "source",
    )
    handle: ClassVar[str | None] = "drain_ohm"
    # more resistance is more gain only until the operating point gives way: the value follows
    # the hand, the level what the circuit then gives
    grip: ClassVar[Grip | None] = grips.Places("E12", 0)

    kind: Literal["jfet-preamp"] = "jfet-preamp"
    supply_v: Volts = Field(typical(9.0), title="Supply")
    gate_ohm: Ohms = Field(typical(2.2e6), title="Gate resistor")
    drain_ohm: Ohms = Field(typical(4.7e3), title="Drain")
    source_ohm: Ohms = Field(typical(1e3), title="Source")
    source: Literal["bypassed", "not-bypassed"] = Field("bypassed", title="Source resistor")
    output_f: Farads = Field(typical(10e-6), title="Output capacitor")
    pinch_off_v: Volts = Field(typical(2.0), title="Pinch-off")
    idss_a: Amperes = Field(typical(4e-3), title="IDSS")
    supply: Supply = Field("battery", title="Powered from")

    BYPASS_F: ClassVar[float] = 100e-6

    @model_validator(mode="after")
    def _has_pinch_off(self) -> Self:
        if self.pinch_off_v.value <= 0:
            raise PydanticCustomError("figure", "pinch_off_v must be above 0 V")
        return self

    def build(self, net: StageNet) -> None:
        """Gate resistor, transistor, drain and source resistors, output capacitor."""
        cold, rail = net.inlet.cold, net.name("rail")
        g, d, s = net.name("gate"), net.name("drain"), net.name("source")
        net.battery(rail, cold, self.supply_v.value)
        net.capacitor("c_in", net.inlet.hot, g, 100e-9)
        net.resistor("gate_r", g, cold, self.gate_ohm.value)
        net.resistor("drain_r", rail, d, self.drain_ohm.value)
        net.resistor("source_r", s, cold, self.source_ohm.value)
        if self.source == "bypassed":
            net.to_common("bypass", s, cold, self.BYPASS_F)
        vto = self.pinch_off_v.value
        model = JfetModel(vto_v=-vto, beta_a_per_v2=self.idss_a.value / vto**2, lambda_per_v=0.01)
        net.add(Jfet(net.name("transistor"), d, g, s, model))
        net.coupling("c_out", d, net.outlet.hot, self.output_f.value, self.output_plus)
        net.resistor("bleed", net.outlet.hot, cold, 220e3)
        net.to_common("decouple", rail, cold, DECOUPLE_F)
        net.mark(OutputDevice(net.name("transistor"), d, s, 0.3 * vto))
        earth_path(net, cold, self.supply)


class OpAmpPreamp(_Preamp):
    """Non-inverting operational amplifier on half its supply."""

    noun: ClassVar[str] = "op-amp preamp"
    gain_is_chosen: ClassVar[bool] = True
    what: ClassVar[str] = "gain set by two resistors"
    choices: ClassVar[tuple[str, ...]] = (
        "feedback_ohm",
        "ground_ohm",
        "ground_f",
        "input_f",
        "output_f",
        "output_plus",
        "bias_ohm",
        "package",
    )
    handle: ClassVar[str | None] = "feedback_ohm"
    grip: ClassVar[Grip | None] = grips.Places("E24", 1)

    kind: Literal["opamp-preamp"] = "opamp-preamp"
    supply_v: Volts = Field(typical(9.0), title="Supply")
    feedback_ohm: Ohms = Field(typical(47e3), title="Feedback")
    ground_ohm: Ohms = Field(typical(470.0), title="To ground")
    ground_f: Farads = Field(typical(22e-6), title="its capacitor")
    bias_ohm: Ohms = Field(typical(47e3), title="Half-supply feed")
    input_capacitor: ClassVar[str | None] = "input_f"
    input_f: Farads = Field(typical(1e-6), title="Input capacitor")
    output_f: Farads = Field(typical(10e-6), title="Output capacitor")
    bandwidth_hz: Hertz = Field(typical(3e6), title="Gain-bandwidth")
    noise_v_per_rthz: Volts = Field(typical(8e-9), title="Noise per √Hz")
    headroom_v: Volts = Field(typical(1.5), title="Stays off each rail")
    draws_a: Amperes = Field(typical(2e-3), title="Draws, at rest")
    supply: Supply = Field("battery", title="Powered from")
    package: Literal["single", "dual"] = Field("single", title="In a package")

    # half the supply: two equal resistors, and what keeps it still; a capacitor at the supply pins
    DIVIDER_OHM: ClassVar[float] = 10e3
    HALF_F: ClassVar[float] = 10e-6
    DECOUPLE_F: ClassVar[float] = 100e-9
    OPEN_LOOP: ClassVar[float] = 1e5
    OUTPUT_OHM: ClassVar[float] = 100.0

    def build(self, net: StageNet) -> None:
        """Half-supply feed, one-pole amplifier, feedback with its capacitor, output coupling."""
        cold, half, rail = net.inlet.cold, net.name("half"), net.name("rail")
        plus, minus, gnd = net.name("plus"), net.name("minus"), net.name("leg")
        pole, drive = net.name("pole"), net.name("drive")
        net.battery(rail, cold, self.supply_v.value)
        net.capacitor("decouple", rail, cold, self.DECOUPLE_F)
        net.resistor("half_upper", rail, half, self.DIVIDER_OHM)
        net.resistor("half_lower", half, cold, self.DIVIDER_OHM)
        net.to_common("half_c", half, cold, self.HALF_F)
        net.at_base("c_in", net.inlet.hot, plus, self.input_f.value)
        net.resistor("bias", half, plus, self.bias_ohm.value)
        # open loop: the pole's capacitor against the input's slope gives the unity-gain frequency
        model = OpAmpModel(
            open_loop=self.OPEN_LOOP,
            keeps_v=self.headroom_v.value,
            output_ohm=self.OUTPUT_OHM,
            draws_a=self.draws_a.value,
            noise_v2_per_hz=self.noise_v_per_rthz.value**2,
        )
        net.add(OpAmp(net.name("chip"), plus, minus, pole, drive, rail, cold, model))
        siemens = model.input_siemens
        net.capacitor(
            "pole_c", pole, cold, siemens / (2 * math.pi * self.bandwidth_hz.value), stray=True
        )
        must_be = f"single supply of {self.supply_v.value:g} V, unity-gain stable"
        density = format_quantity(self.noise_v_per_rthz.value, VOLT)
        name = f"{CHIP_NAME}, {self.package} package"
        part = Part(1, name, must_be, COINS, f"noise {density}/√Hz or less")
        inside = ["chip"]
        if self.package == "dual":
            # the half that is not used follows half the supply, and sings nowhere
            net.resistor("spare", net.name("spare_out"), half, self.OUTPUT_OHM, noisy=False)
            inside.append("spare")
        net.whole("amplifier", CHIP, part, *inside)
        net.resistor("feedback", drive, minus, self.feedback_ohm.value)
        net.resistor("ground_r", minus, gnd, self.ground_ohm.value)
        net.to_common("ground_c", gnd, cold, self.ground_f.value)
        net.coupling("c_out", drive, net.outlet.hot, self.output_f.value, self.output_plus)
        net.resistor("bleed", net.outlet.hot, cold, 100e3)
        earth_path(net, cold, self.supply)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Half the supply less what the output stays off each rail."""
        swing = self.supply_v.value / 2 - self.headroom_v.value
        return dbu_from_volts(swing / math.sqrt(2)) if swing > 0 else None
