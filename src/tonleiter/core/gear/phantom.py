"""Phantom powering: 48 V to both legs alike, and the condenser microphone that lives on it.

IEC 61938: 48 V through 6.81 kohm to each leg, returned by the screen.
"""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import (
    GROUND,
    Jfet,
    JfetModel,
    PowerLaw,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.base import DeviceKind, Gear, Role, Shelf, Surroundings
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import (
    Amperes,
    Farads,
    MillivoltsPerPascal,
    NoiseDba,
    Ohms,
    SoundDbSpl,
    Volts,
    typical,
)
from tonleiter.core.gear.net import BiasRail, Capsule, Dc, DcNeeds, Port, StageNet, Supply, stray
from tonleiter.core.gear.parts import BOX, Part
from tonleiter.core.gear.voice import white_self_noise_pa2_per_hz
from tonleiter.core.units.levels import dbu_from_volts
from tonleiter.core.units.sensitivity import dbu_at_spl

PHANTOM_V = 48.0
PHANTOM_OHM = 6.81e3


def phantom_pair(net: StageNet, port: Port, volts: float = PHANTOM_V) -> None:
    """Feed both legs of ``port`` from a supply against its screen, and mark the hot one."""
    rail = net.name("phantom_rail")
    source = net.name("phantom")
    net.add(VoltageSource(source, rail, port.chassis, dc=volts))
    hot = net.resistor("phantom_hot", rail, port.hot, PHANTOM_OHM)
    net.resistor("phantom_cold", rail, port.cold, PHANTOM_OHM)
    net.mark(BiasRail(source, hot, volts))


class PhantomFeed(Gear):
    """A box between microphone and input: phantom supply, and capacitors that keep it there."""

    bought_whole: ClassVar[bool] = True
    device: ClassVar[DeviceKind | None] = "passive-box"
    role: ClassVar[Role] = "between"
    shelf: ClassVar[Shelf | None] = "Boxes"
    noun: ClassVar[str] = "phantom feed"
    feeds: ClassVar[Dc | None] = "phantom"
    what: ClassVar[str] = "48 V to both legs of a microphone"
    choices: ClassVar[tuple[str, ...]] = ("coupling_f",)

    kind: Literal["phantom-feed"] = "phantom-feed"
    supply_v: Volts = Field(typical(PHANTOM_V), title="Supply")
    coupling_f: Farads = Field(typical(47e-6), title="Capacitor in each leg")
    supply: Supply = Field("battery", title="Powered from")
    earth_emf_v: Volts = Field(typical(1e-3), title="Earth EMF, if earthed")

    def takes_balanced(self) -> bool:
        """Both legs are fed."""
        return True

    def outlet(self, inlet: Port) -> Port:
        """Both legs go on, behind their capacitors."""
        return Port(f"{self.id}:out", f"{self.id}:cold", screen=inlet.chassis)

    def as_a_part(self) -> Part:
        """A box of its own."""
        return Part(1, "phantom feed box", "48 V", BOX)

    def build(self, net: StageNet) -> None:
        """The pair of resistors, a capacitor in each leg, bleeds behind them."""
        chassis = net.inlet.chassis
        phantom_pair(net, net.inlet, self.supply_v.value)
        ends = ((net.inlet.hot, net.outlet.hot, ""), (net.inlet.cold, net.outlet.cold, "_cold"))
        for before, after, tail in ends:
            net.capacitor(f"coupling{tail}", before, after, self.coupling_f.value)
            net.resistor(f"bleed{tail}", after, chassis, 100e3, noisy=False, stray=True)
        earth_path(net, chassis, self.supply, self.earth_emf_v.value)


class PhantomCondenser(SpokenInto):
    """A condenser microphone: a follower fed from both legs drives the hot one.

    The cold leg ends on the screen through the same impedance, so that both legs pick up alike.
    """

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "M"
    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "phantom condenser"
    what: ClassVar[str] = "lives on 48 V through both legs"
    passes_ground: ClassVar[bool] = False

    kind: Literal["phantom-condenser"] = "phantom-condenser"
    sensitivity_mv_per_pa: MillivoltsPerPascal = Field(typical(12.0), title="Sensitivity")
    z_out_ohm: Ohms = Field(typical(150.0), title="Output impedance")
    current_a: Amperes = Field(typical(3e-3), title="Current")
    needs_v: Volts = Field(typical(9.0), title="Needs at least")
    self_noise_dba: NoiseDba = Field(typical(18.0), title="Self-noise")
    max_spl_db: SoundDbSpl = Field(typical(132.0), title="Loudest sound")

    # inside: resistors that gather the current, the follower's pinch-off, big capacitors
    GATHER_OHM: ClassVar[float] = 2.2e3
    PINCH_OFF_V: ClassVar[float] = 3.0
    COUPLING_F: ClassVar[float] = 100e-6
    # of a leg's impedance, what the follower itself makes; the rest is built out
    FOLLOWER_SHARE: ClassVar[float] = 0.8

    def outlet(self, inlet: Port) -> Port:
        """Two legs and a screen."""
        return Port(f"{self.id}:out", f"{self.id}:cold", screen=f"{self.id}:ground")

    def dc_needs(self) -> DcNeeds:
        """Phantom power, on both legs."""
        return DcNeeds("phantom", self.needs_v.value)

    def build(self, net: StageNet) -> None:
        """Diaphragm on the gate of a follower between gathered current and screen."""
        out, chassis = net.outlet, net.outlet.chassis
        hub, gate, source = net.name("hub"), net.name("gate"), net.name("source")
        net.resistor("gather_hot", out.hot, hub, self.GATHER_OHM)
        net.resistor("gather_cold", out.cold, hub, self.GATHER_OHM)
        net.capacitor("hub_c", hub, chassis, 47e-6)
        # self-biased at its current: gm = 2 I / (Vgs − Vp), source at Vp less that
        leg_ohm, amps = self.z_out_ohm.value / 2, self.current_a.value
        over_v = min(2 * amps * leg_ohm * self.FOLLOWER_SHARE, 0.8 * self.PINCH_OFF_V)
        gm = 2 * amps / over_v
        source_ohm = (self.PINCH_OFF_V - over_v) / amps
        gain = gm * source_ohm / (1 + gm * source_ohm)
        z_follower = source_ohm / (1 + gm * source_ohm)
        built_out = max(leg_ohm - z_follower, 0.1)
        behind = z_follower + built_out
        gain *= self.GATHER_OHM / (self.GATHER_OHM + behind)
        per_pa = self.sensitivity_mv_per_pa.value * 1e-3 / gain
        net.add_stray(Vcvs(net.name("diaphragm"), gate, chassis, self.heard(net), GROUND, per_pa))
        model = JfetModel(vto_v=-self.PINCH_OFF_V, beta_a_per_v2=amps / over_v**2, lambda_per_v=0.0)
        net.add(Jfet(net.name("fet"), hub, gate, source, model))
        net.resistor("source_r", source, chassis, source_ohm, noisy=False)
        self._leg(net, "hot", source, built_out, out.hot)
        self._leg(net, "cold", chassis, leg_ohm, out.cold)
        psd = (gm * per_pa) ** 2 * white_self_noise_pa2_per_hz(self.self_noise_dba.value)
        net.noise_current("self_noise", source, chassis, (PowerLaw(psd),))
        net.mark(Capsule(hub, chassis, net.name("fet"), self.dc_needs()))
        for node, tail in ((out.hot, "_hot"), (out.cold, "_cold")):
            net.resistor(f"leak{tail}", node, chassis, 10e6, noisy=False, stray=True)
        stray(net, chassis)

    def _leg(self, net: StageNet, part: str, start: str, ohm: float, end: str) -> None:
        middle = net.name(f"{part}_c")
        net.capacitor(f"c_{part}", start, middle, self.COUPLING_F)
        net.resistor(f"out_{part}", middle, end, ohm)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Output at the loudest sound, with its load; less when it is short of volts."""
        loudest = dbu_at_spl(self.sensitivity_mv_per_pa.value, self.max_spl_db.value)
        limits = [loudest + around.loading_db]
        if around.capsule_v is not None:
            swing = around.capsule_v - self.PINCH_OFF_V
            limits.append(dbu_from_volts(swing / math.sqrt(2)) if swing > 0 else -120.0)
        return min(limits)
