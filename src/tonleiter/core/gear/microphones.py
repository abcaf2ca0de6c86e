"""Microphones: dynamic, and 2-wire electret with its transistor."""

from __future__ import annotations

import math
from functools import cache
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.circuit.elements import GROUND, Diode, Jfet, JfetModel, PowerLaw, Vcvs
from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.base import DeviceKind, LoadTakes, Role, Surroundings
from tonleiter.core.gear.figure import (
    Amperes,
    DbvPerPascal,
    Henries,
    MillivoltsPerPascal,
    NoiseDba,
    Ohms,
    SoundDbSpl,
    Volts,
    typical,
)
from tonleiter.core.gear.net import Capsule, DcNeeds, Port, StageNet, Winding, stray
from tonleiter.core.gear.voice import white_self_noise_pa2_per_hz
from tonleiter.core.units.levels import dbu_from_volts
from tonleiter.core.units.sensitivity import dbu_at_spl

# Steady current that a microphone coil is let off with: enough for a meter's leakage, no bias feed.
COIL_TOLERATES_A = 20e-6


class DynamicMicrophone(SpokenInto):
    """A coil in a magnet: an EMF behind the coil's resistance and inductance."""

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "M"
    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "dynamic microphone"
    what: ClassVar[str] = "a coil moved by sound"
    passes_ground: ClassVar[bool] = False

    kind: Literal["dynamic-microphone"] = "dynamic-microphone"
    sensitivity_mv_per_pa: MillivoltsPerPascal = Field(typical(1.8), title="Sensitivity")
    coil_ohm: Ohms = Field(typical(300.0), title="Coil")
    coil_h: Henries = Field(typical(0.5e-3), title="Coil inductance")
    max_spl_db: SoundDbSpl = Field(typical(140.0), title="Loudest sound")
    output: Literal["unbalanced", "balanced"] = Field("unbalanced", title="Plug")

    # coil to shell
    SHELL_F: ClassVar[float] = 50e-12
    SHELL_OHM: ClassVar[float] = 1e9

    def outlet(self, inlet: Port) -> Port:
        """With three pins, the shell has one of its own."""
        if self.output == "unbalanced":
            return super().outlet(inlet)
        return Port(f"{self.id}:out", f"{self.id}:cold", screen=f"{self.id}:ground")

    def build(self, net: StageNet) -> None:
        """EMF, inductance and resistance in series (the EMF and resistance as a Norton pair)."""
        out, mid = net.outlet, net.name("coil")
        siemens = self.sensitivity_mv_per_pa.value * 1e-3 / self.coil_ohm.value
        net.transconductor("emf", (mid, out.cold), (self.heard(net), GROUND), siemens)
        coil = net.resistor("coil_r", mid, out.cold, self.coil_ohm.value)
        net.inductor("coil_l", mid, out.hot, self.coil_h.value)
        net.mark(Winding(coil, "the coil", COIL_TOLERATES_A))
        if out.balanced:
            for node, tail in ((out.hot, "hot"), (out.cold, "cold")):
                net.capacitor(f"shell_{tail}", node, out.chassis, self.SHELL_F)
            net.resistor("leak", out.cold, out.chassis, self.SHELL_OHM, noisy=False, stray=True)
        stray(net, out.chassis)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Output at the loudest sound, with its load."""
        loudest = dbu_at_spl(self.sensitivity_mv_per_pa.value, self.max_spl_db.value)
        return loudest + around.loading_db


# a foil's capacitance, a gate's resistor: so large that neither takes anything off speech
FOIL_F, GATE_OHM = 1e-9, 2e7


class ElectretMicrophone(SpokenInto):
    """A 2-wire electret capsule: a charged diaphragm on the gate of a JFET, drain and source out.

    Its gain depends on what feeds it, so its sensitivity is quoted at a supply and a load resistor.
    """

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "M"
    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "electret microphone"
    what: ClassVar[str] = "a charged capsule that wants bias"
    load_takes: ClassVar[LoadTakes] = "nothing"
    passes_ground: ClassVar[bool] = False

    kind: Literal["electret-2-wire"] = "electret-2-wire"
    sensitivity_dbv_per_pa: DbvPerPascal = Field(typical(-42.0), title="Sensitivity")
    quoted_supply_v: Volts = Field(typical(3.0), title="quoted at supply")
    quoted_load_ohm: Ohms = Field(typical(2200.0), title="quoted at load")
    current_a: Amperes = Field(typical(0.3e-3), title="Current")
    pinch_off_v: Volts = Field(typical(0.6), title="Pinch-off")
    needs_v: Volts = Field(typical(1.0), title="Needs at least")
    most_v: Volts = Field(typical(10.0), title="Bears at most")
    self_noise_dba: NoiseDba = Field(typical(30.0), title="Self-noise")

    CHANNEL_LAMBDA: ClassVar[float] = 0.02

    @model_validator(mode="after")
    def _quoted_point_is_alive(self) -> Self:
        if self.pinch_off_v.value <= 0:
            raise PydanticCustomError("figure", "pinch_off_v must be above 0 V")
        if self._quoted_vds() < self.pinch_off_v.value:
            left = max(self._quoted_vds(), 0.0)
            raise PydanticCustomError(
                "figure",
                "the quoted supply leaves {left} V over the capsule after the quoted load; "
                "at least pinch_off_v is wanted (raise quoted_supply_v or lower quoted_load_ohm)",
                {"left": f"{left:.2g}"},
            )
        return self

    def _quoted_vds(self) -> float:
        return self.quoted_supply_v.value - self.current_a.value * self.quoted_load_ohm.value

    def jfet(self) -> JfetModel:
        """Shichman–Hodges model that draws ``current_a`` at the quoted point (gate at source)."""
        stretch = 1 + self.CHANNEL_LAMBDA * self._quoted_vds()
        beta = self.current_a.value / (self.pinch_off_v.value**2 * stretch)
        return JfetModel(
            vto_v=-self.pinch_off_v.value, beta_a_per_v2=beta, lambda_per_v=self.CHANNEL_LAMBDA
        )

    def gate_v_per_pa(self) -> float:
        """Volts at the gate per pascal, from the quoted sensitivity: gain = gm (R ∥ ro)."""
        model = self.jfet()
        gm = 2 * self.current_a.value / self.pinch_off_v.value
        g_out = model.beta_a_per_v2 * self.pinch_off_v.value**2 * model.lambda_per_v
        gain = gm / (1 / self.quoted_load_ohm.value + g_out)
        return float(10 ** (self.sensitivity_dbv_per_pa.value / 20) / gain)

    def dc_needs(self) -> DcNeeds:
        """Bias through a resistor."""
        return DcNeeds("bias", self.needs_v.value, self.most_v.value, self.current_a.value)

    def build(self, net: StageNet) -> None:
        """Diaphragm on the gate, drain to hot, source to cold, self-noise at the drain."""
        out, gate = net.outlet, net.name("gate")
        per_pa = self.gate_v_per_pa()
        # a diaphragm pushed in lowers the gate: the drain, which inverts, then follows the pressure
        foil = net.name("foil")
        net.add_stray(Vcvs(net.name("diaphragm"), foil, out.cold, self.heard(net), GROUND, -per_pa))
        # the foil drives the gate through its own capacitance; a diode and a resistor in the FET's
        # chip hold the gate at the source. The wrong way round that diode and the gate's junction
        # conduct one after the other, and next to nothing comes out
        net.capacitor("foil_c", foil, gate, FOIL_F, stray=True)
        net.resistor("gate_r", gate, out.cold, GATE_OHM, noisy=False, stray=True)
        net.add_stray(Diode(net.name("gate_diode"), out.cold, gate))
        net.add(Jfet(net.name("fet"), out.hot, gate, out.cold, self.jfet()))
        gm = 2 * self.current_a.value / self.pinch_off_v.value
        psd = (gm * per_pa) ** 2 * self_noise_pa2_per_hz(self.self_noise_dba.value)
        net.noise_current("self_noise", out.hot, out.cold, (PowerLaw(psd),))
        net.mark(Capsule(out.hot, out.cold, net.name("fet"), self.dc_needs()))
        # an unbiased capsule still leaks a little, which keeps its drain at a potential
        net.resistor("leak", out.hot, out.cold, 10e6, noisy=False, stray=True)
        stray(net, out.cold)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Swing that is left: down to pinch-off, or up until the current is used up."""
        if around.capsule_v is None or around.capsule_a is None:
            return None
        down = around.capsule_v - self.pinch_off_v.value
        up = around.capsule_a * around.z_joint_ohm
        swing = min(down, up)
        return dbu_from_volts(swing / math.sqrt(2)) if swing > 0 else None


@cache
def self_noise_pa2_per_hz(noise_dba: float) -> float:
    """Pressure density of a capsule's white self-noise."""
    return white_self_noise_pa2_per_hz(noise_dba)
