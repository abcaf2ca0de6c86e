"""An amplified desk microphone: an element, one transistor on a battery, a volume control."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import (
    GROUND,
    Bipolar,
    BipolarModel,
    Jfet,
    JfetModel,
    Vcvs,
)
from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.base import DeviceKind, Role, Surroundings
from tonleiter.core.gear.figure import Farads, MillivoltsPerPascal, Ohms, Ratio, Volts, typical
from tonleiter.core.gear.grip import Grip
from tonleiter.core.gear.net import OutputDevice, PlusSide, StageNet, Track, stray
from tonleiter.core.gear.parts import COINS, NOTE, Part
from tonleiter.core.gear.wiper import END, wiper_at, wiper_moved_db
from tonleiter.core.units.levels import dbu_from_volts
from tonleiter.core.units.quantity import OHM, format_quantity


class DeskMicrophone(SpokenInto):
    """An element, one of three stages on a battery, volume control at the output.

    One transistor with its base fed from the collector loads an element with some kilohms, a pair
    with half a megohm, a FET with two.

    Its control at full and the radio's gain low is not the same as the reverse: the transistor
    clips before the control, and its noise falls with it.
    """

    device: ClassVar[DeviceKind | None] = "microphone"
    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "amplified desk microphone"
    what: ClassVar[str] = "an element, a stage and a battery"
    choices: ClassVar[tuple[str, ...]] = ("turned_up",)
    handle: ClassVar[str | None] = "turned_up"
    grip: ClassVar[Grip | None] = grips.Turned()
    by_hand: ClassVar[bool] = True
    passes_ground: ClassVar[bool] = False

    kind: Literal["amplified-desk-microphone"] = "amplified-desk-microphone"
    turned_up: Ratio = Field(typical(0.5), title="Volume (0 to 1)")
    element: Literal["dynamic", "piezo", "electret"] = Field("dynamic", title="Element")
    stage: Literal["one-transistor", "darlington", "fet"] = Field(
        "one-transistor", title="Amplified by"
    )
    sensitivity_mv_per_pa: MillivoltsPerPascal = Field(typical(1.5), title="Element gives")
    element_ohm: Ohms = Field(typical(600.0), title="Element's impedance")
    element_f: Farads = Field(typical(1.5e-9), title="Element's capacitance")
    battery_v: Volts = Field(typical(9.0), title="Battery")
    collector_ohm: Ohms = Field(typical(10e3), title="Collector")
    base_ohm: Ohms = Field(typical(1.5e6), title="Base to collector")
    emitter_ohm: Ohms = Field(typical(470.0), title="Emitter")
    input_capacitor: ClassVar[str | None] = "input_f"
    output_turned_by: ClassVar[str | None] = "output_plus"
    input_f: Farads = Field(typical(2.2e-6), title="Input capacitor")
    output_f: Farads = Field(typical(4.7e-6), title="Output capacitor")
    output_plus: PlusSide = Field("inside", title="its plus side")
    track_ohm: Ohms = Field(typical(10e3), title="Volume control")

    BETA: ClassVar[float] = 200.0
    # a pair of transistors stands on a divider, a FET on its own source resistor
    PAIR_UPPER_OHM: ClassVar[float] = 2.2e6
    PAIR_LOWER_OHM: ClassVar[float] = 620e3
    PAIR_EMITTER_OHM: ClassVar[float] = 1.5e3
    GATE_OHM: ClassVar[float] = 2.2e6
    FET_SOURCE_OHM: ClassVar[float] = 2.2e3
    FET_BYPASS_F: ClassVar[float] = 47e-6
    FET: ClassVar[JfetModel] = JfetModel(vto_v=-2.0, beta_a_per_v2=0.75e-3, lambda_per_v=0.01)

    def control_at(self) -> float:
        """Its volume."""
        return self.turned_up.value

    def pulled(self, up_db: float, z_source_ohm: float, z_load_ohm: float) -> float:
        """Where the wiper gives so much more: its collector before it, the load behind."""
        track, before = self.track_ohm.value, self.collector_ohm.value
        return wiper_at(self.turned_up.value, up_db, track, before, z_load_ohm)

    def moved_db(
        self, old: float, new: float, z_source_ohm: float = 0.0, z_load_ohm: float = math.inf
    ) -> float:
        """As the divider has it."""
        track, before = self.track_ohm.value, self.collector_ohm.value
        return wiper_moved_db(old, new, track, before, z_load_ohm)

    def idle_fields(self) -> tuple[str, ...]:
        """What belongs to another element, or another stage."""
        idle = ["element_f"] if self.element != "piezo" else ["element_ohm"]
        if self.stage != "one-transistor":
            idle += ["base_ohm", "emitter_ohm"]
        return (*super().idle_fields(), *idle)

    def build(self, net: StageNet) -> None:
        """Element, amplifying stage, control."""
        out, cold = net.outlet, net.outlet.cold
        rail, collector, top = net.name("rail"), net.name("collector"), net.name("top")
        net.battery(rail, cold, self.battery_v.value)
        net.resistor("collector_r", rail, collector, self.collector_ohm.value)
        foot = self._amplifier(net, self._element(net), collector, rail)
        net.coupling("c_out", collector, top, self.output_f.value, self.output_plus)
        share = min(max(self.turned_up.value, END), 1 - END)
        track = self.track_ohm.value
        net.resistor("upper", top, out.hot, track * (1 - share))
        net.resistor("lower", out.hot, cold, track * share)
        value = format_quantity(track, OHM)
        net.whole("volume", "P", Part(1, "potentiometer", value, COINS, "linear"), "upper", "lower")
        behind = Track(self.collector_ohm.value, track * (1 - share), track * share)
        net.mark(OutputDevice(net.name("transistor"), collector, foot, 0.3, behind))
        stray(net, cold)

    def _element(self, net: StageNet) -> str:
        """The element's EMF behind what it is; the node that the stage hangs on."""
        cold, emf, element = net.outlet.cold, net.name("emf"), net.name("element")
        per_pa = self.sensitivity_mv_per_pa.value * 1e-3
        net.add(Vcvs(net.name("voice_emf"), emf, cold, self.heard(net), GROUND, per_pa))
        if self.element == "piezo":
            net.capacitor("element_c", emf, element, self.element_f.value)
            net.resistor("element_leak", element, cold, 500e6, noisy=False, stray=True)
        else:
            net.resistor("element_r", emf, element, self.element_ohm.value)
        inside = "element_c" if self.element == "piezo" else "element_r"
        capsule = Part(1, f"{self.element} element", "", NOTE)
        net.whole("capsule", "M", capsule, "voice_emf", inside)
        return element

    def _amplifier(self, net: StageNet, element: str, collector: str, rail: str) -> str:
        """One of three stages from the element to the collector; returns its foot."""
        cold, base, foot = net.outlet.cold, net.name("base"), net.name("emitter")
        net.at_base("c_in", element, base, self.input_f.value)
        small = BipolarModel(is_a=1e-14, bf=self.BETA, vaf_v=100.0)
        if self.stage == "fet":
            net.resistor("gate_r", base, cold, self.GATE_OHM)
            net.resistor("source_r", foot, cold, self.FET_SOURCE_OHM)
            net.to_common("bypass", foot, cold, self.FET_BYPASS_F)
            net.add(Jfet(net.name("transistor"), collector, base, foot, self.FET))
        elif self.stage == "darlington":
            middle = net.name("middle")
            net.resistor("upper_r", rail, base, self.PAIR_UPPER_OHM)
            net.resistor("lower_r", base, cold, self.PAIR_LOWER_OHM)
            net.resistor("emitter_r", foot, cold, self.PAIR_EMITTER_OHM)
            net.add(Bipolar(net.name("first"), collector, base, middle, small))
            net.add(Bipolar(net.name("transistor"), collector, middle, foot, small))
        else:
            net.resistor("base_r", collector, base, self.base_ohm.value)
            net.resistor("emitter_r", foot, cold, self.emitter_ohm.value)
            net.add(Bipolar(net.name("transistor"), collector, base, foot, small))
        return foot

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """What of the collector's swing its control lets through into this load."""
        if around.swing_v is None:
            return None
        return dbu_from_volts(max(around.swing_v, 1e-6) / math.sqrt(2))
