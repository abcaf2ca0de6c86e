"""Microphones of other principles: crystal or ceramic, carbon, ribbon, 3-wire electret."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import (
    GROUND,
    Coupling,
    Jfet,
    JfetModel,
    ModulatedResistor,
    PowerLaw,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.base import DeviceKind, Gear, LoadTakes, Role, Surroundings
from tonleiter.core.gear.figure import (
    Amperes,
    Farads,
    Hertz,
    MillivoltsPerPascal,
    NoiseDba,
    Ohms,
    Ratio,
    SoundDbSpl,
    Volts,
    typical,
)
from tonleiter.core.gear.microphones import self_noise_pa2_per_hz
from tonleiter.core.gear.net import AIR, Capsule, DcNeeds, StageNet, Winding, stray
from tonleiter.core.gear.parts import BATTERY, COINS, Part, battery
from tonleiter.core.units.levels import dbu_from_volts
from tonleiter.core.units.sensitivity import dbu_at_spl


class PiezoMicrophone(SpokenInto):
    """Crystal or ceramic: a voltage behind the element's own capacitance.

    Into a load R it loses everything below f = 1/(2πRC); cable capacitance divides its level.
    """

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "M"
    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "piezo microphone"
    what: ClassVar[str] = "a crystal that wants a megohm"
    load_takes: ClassVar[LoadTakes] = "bass"
    passes_ground: ClassVar[bool] = False

    kind: Literal["piezo-microphone"] = "piezo-microphone"
    sensitivity_mv_per_pa: MillivoltsPerPascal = Field(typical(25.0), title="Sensitivity")
    capacitance_f: Farads = Field(typical(1.5e-9), title="Capacitance")
    leak_ohm: Ohms = Field(typical(500e6), title="Leakage")
    max_spl_db: SoundDbSpl = Field(typical(140.0), title="Loudest sound")

    def build(self, net: StageNet) -> None:
        """EMF behind its capacitance, leakage across the output."""
        out, emf = net.outlet, net.name("emf")
        per_pa = self.sensitivity_mv_per_pa.value * 1e-3
        net.add(Vcvs(net.name("crystal"), emf, out.cold, self.heard(net), GROUND, per_pa))
        net.capacitor("element", emf, out.hot, self.capacitance_f.value)
        net.resistor("leakage", out.hot, out.cold, self.leak_ohm.value, stray=True)
        stray(net, out.cold)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Output at the loudest sound, with its load."""
        loudest = dbu_at_spl(self.sensitivity_mv_per_pa.value, self.max_spl_db.value)
        return loudest + around.loading_db


class CarbonMicrophone(Gear):
    """Granules whose resistance sound modulates: no current, no sound.

    ``depth_per_pa`` is the relative change of resistance per pascal.
    """

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "M"
    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "carbon microphone"
    what: ClassVar[str] = "granules that want current"
    load_takes: ClassVar[LoadTakes] = "nothing"
    passes_ground: ClassVar[bool] = False

    kind: Literal["carbon-microphone"] = "carbon-microphone"
    rest_ohm: Ohms = Field(typical(80.0), title="Resistance at rest")
    depth_per_pa: Ratio = Field(typical(0.12), title="Modulation per pascal")
    needs_a: Amperes = Field(typical(0.010), title="Needs at least")
    burns_a: Amperes = Field(typical(0.060), title="Bears at most")
    self_noise_dba: NoiseDba = Field(typical(45.0), title="Rustle")

    def dc_needs(self) -> DcNeeds:
        """A current through the granules."""
        needs_a, rest_ohm = self.needs_a.value, self.rest_ohm.value
        return DcNeeds(
            "current",
            needs_a * rest_ohm,
            needs_a=needs_a,
            bears_a=self.burns_a.value,
            rest_ohm=rest_ohm,
        )

    def build(self, net: StageNet) -> None:
        """A resistance modulated by the pressure; the granules' rustle is a pressure too."""
        out = net.outlet
        rustle = self_noise_pa2_per_hz(self.self_noise_dba.value)
        granules = ModulatedResistor(
            net.name("granules"),
            out.hot,
            out.cold,
            AIR,
            GROUND,
            self.rest_ohm.value,
            self.depth_per_pa.value,
            rustle,
        )
        net.add(granules)
        net.mark(Capsule(out.hot, out.cold, granules.name, self.dc_needs()))
        stray(net, out.cold)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """About four fifths of full modulation; beyond, granules break contact."""
        if around.capsule_a is None or around.capsule_a <= 0:
            return None
        swing = 0.8 * around.capsule_a * around.z_joint_ohm
        return dbu_from_volts(swing / math.sqrt(2))


class RibbonMicrophone(Gear):
    """A strip of foil in a magnet, a tenth of an ohm, behind its own transformer."""

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "M"
    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "ribbon microphone"
    what: ClassVar[str] = "a foil behind its transformer"
    passes_ground: ClassVar[bool] = False

    kind: Literal["ribbon-microphone"] = "ribbon-microphone"
    sensitivity_mv_per_pa: MillivoltsPerPascal = Field(typical(1.2), title="Sensitivity")
    ribbon_ohm: Ohms = Field(typical(0.15), title="Ribbon")
    turns_ratio: Ratio = Field(typical(40.0), title="Turns, out to in")
    winding_ohm: Ohms = Field(typical(35.0), title="Output winding")
    bass_hz: Hertz = Field(typical(40.0), title="Transformer from")
    max_spl_db: SoundDbSpl = Field(typical(130.0), title="Loudest sound")

    # a kick of DC through the transformer tears the foil
    TOLERATES_A: ClassVar[float] = 5e-6

    def build(self, net: StageNet) -> None:
        """EMF and ribbon, a transformer with its bass corner, winding resistance."""
        out, foil, top = net.outlet, net.name("foil"), net.name("top")
        ratio = self.turns_ratio.value
        per_pa = self.sensitivity_mv_per_pa.value * 1e-3 / ratio
        siemens = per_pa / self.ribbon_ohm.value
        net.transconductor("emf", (foil, out.cold), (AIR, GROUND), siemens)
        net.resistor("ribbon", foil, out.cold, self.ribbon_ohm.value)
        henry = self.ribbon_ohm.value / (2 * math.pi * self.bass_hz.value)
        primary = net.inductor("primary", foil, out.cold, henry)
        secondary = net.inductor("secondary", top, out.cold, henry * ratio**2)
        net.add(Coupling(net.name("coupling"), primary, secondary, 0.9999))
        net.resistor("winding", top, out.hot, self.winding_ohm.value)
        net.mark(Winding(secondary, "the ribbon's transformer", self.TOLERATES_A))
        stray(net, out.cold)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Output at the loudest sound, with its load."""
        loudest = dbu_at_spl(self.sensitivity_mv_per_pa.value, self.max_spl_db.value)
        return loudest + around.loading_db


class FollowerElectret(SpokenInto):
    """A 3-wire electret: its transistor is a source follower with a supply lead of its own."""

    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "3-wire electret"
    what: ClassVar[str] = "a capsule with its own supply lead"
    passes_ground: ClassVar[bool] = False

    kind: Literal["electret-3-wire"] = "electret-3-wire"
    sensitivity_mv_per_pa: MillivoltsPerPascal = Field(typical(6.0), title="Sensitivity")
    supply_v: Volts = Field(typical(1.5), title="Supply on its lead")
    source_ohm: Ohms = Field(typical(2200.0), title="Source resistor")
    pinch_off_v: Volts = Field(typical(0.6), title="Pinch-off")
    idss_a: Amperes = Field(typical(0.4e-3), title="Transistor's IDSS")
    coupling_f: Farads = Field(typical(4.7e-6), title="Coupling capacitor")
    self_noise_dba: NoiseDba = Field(typical(30.0), title="Self-noise")

    def build(self, net: StageNet) -> None:
        """Diaphragm on the gate, supply on the drain, output from the source resistor."""
        out = net.outlet
        gate, drain, source = net.name("gate"), net.name("drain"), net.name("source")
        vto = self.pinch_off_v.value or 0.6
        beta = self.idss_a.value / vto**2
        # the follower's gain for the quoted output: gm Rs / (1 + gm Rs) at its own operating point
        # (−1 + √(1 + x)) written as x / (1 + √(1 + x)), which keeps its digits where x is small
        over = 2 * vto / (1 + math.sqrt(1 + 4 * beta * self.source_ohm.value * vto))
        gm_rs = 2 * beta * over * self.source_ohm.value
        per_pa = self.sensitivity_mv_per_pa.value * 1e-3 * (1 + gm_rs) / gm_rs
        net.add_stray(Vcvs(net.name("diaphragm"), gate, out.cold, self.heard(net), GROUND, per_pa))
        net.add(VoltageSource(net.name("lead"), drain, out.cold, dc=self.supply_v.value))
        net.whole("battery", BATTERY, battery(self.supply_v.value), "lead")
        capsule = Part(1, "electret capsule", "3 wires", COINS)
        net.whole("capsule", "M", capsule, "fet")
        model = JfetModel(vto_v=-vto, beta_a_per_v2=beta, lambda_per_v=0.01)
        net.add(Jfet(net.name("fet"), drain, gate, source, model))
        net.resistor("source_r", source, out.cold, self.source_ohm.value)
        net.capacitor("coupling", source, out.hot, self.coupling_f.value)
        net.resistor("bleed", out.hot, out.cold, 220e3, stray=True)
        noise = (2 * beta * over * per_pa) ** 2 * self_noise_pa2_per_hz(self.self_noise_dba.value)
        net.noise_current("self_noise", source, out.cold, (PowerLaw(noise),))
        stray(net, out.cold)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """The source can swing by about a third of what the supply leaves over pinch-off."""
        swing = (self.supply_v.value - self.pinch_off_v.value) / 3
        return dbu_from_volts(swing / math.sqrt(2)) if swing > 0 else None
