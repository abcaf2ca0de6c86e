"""An amplified desk microphone: an element, one transistor on a battery, a volume control."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import GROUND, Bipolar, BipolarModel, Vcvs, VoltageSource
from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.base import Role, Surroundings
from tonleiter.core.gear.figure import Farads, MillivoltsPerPascal, Ohms, Ratio, Volts, typical
from tonleiter.core.gear.grip import Grip
from tonleiter.core.gear.net import OutputDevice, StageNet, stray
from tonleiter.core.units.levels import dbu_from_volts


class DeskMicrophone(SpokenInto):
    """Element, common emitter with its base fed from the collector, volume control at the output.

    Its control at full and the radio's gain low is not the same as the reverse: the transistor
    clips before the control, and its noise falls with it.
    """

    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "amplified desk microphone"
    what: ClassVar[str] = "an element, a transistor and a battery"
    choices: ClassVar[tuple[str, ...]] = ("turned_up",)
    handle: ClassVar[str | None] = "turned_up"
    grip: ClassVar[Grip | None] = grips.Turned()
    by_hand: ClassVar[bool] = True
    passes_ground: ClassVar[bool] = False

    kind: Literal["amplified-desk-microphone"] = "amplified-desk-microphone"
    turned_up: Ratio = Field(typical(0.5), title="Volume (0 to 1)")
    sensitivity_mv_per_pa: MillivoltsPerPascal = Field(typical(1.5), title="Element")
    element_ohm: Ohms = Field(typical(600.0), title="Element's impedance")
    battery_v: Volts = Field(typical(9.0), title="Battery")
    collector_ohm: Ohms = Field(typical(10e3), title="Collector")
    base_ohm: Ohms = Field(typical(1.5e6), title="Base to collector")
    emitter_ohm: Ohms = Field(typical(470.0), title="Emitter")
    input_f: Farads = Field(typical(2.2e-6), title="Input capacitor")
    output_f: Farads = Field(typical(4.7e-6), title="Output capacitor")
    track_ohm: Ohms = Field(typical(10e3), title="Volume control")

    BETA: ClassVar[float] = 200.0
    END: ClassVar[float] = 1e-3  # a wiper never reaches the very end of its track

    def control_at(self) -> float:
        """Its volume."""
        return self.turned_up.value

    def build(self, net: StageNet) -> None:
        """Element, transistor, control."""
        out, cold = net.outlet, net.outlet.cold
        emf, base, collector = net.name("emf"), net.name("base"), net.name("collector")
        emitter, rail, top = net.name("emitter"), net.name("rail"), net.name("top")
        element = net.name("element")
        per_pa = self.sensitivity_mv_per_pa.value * 1e-3
        net.add(Vcvs(net.name("voice_emf"), emf, cold, self.heard(net), GROUND, per_pa))
        net.resistor("element_r", emf, element, self.element_ohm.value)
        net.capacitor("c_in", element, base, self.input_f.value)
        net.add(VoltageSource(net.name("battery"), rail, cold, dc=self.battery_v.value))
        net.resistor("collector_r", rail, collector, self.collector_ohm.value)
        net.resistor("base_r", collector, base, self.base_ohm.value)
        net.resistor("emitter_r", emitter, cold, self.emitter_ohm.value)
        model = BipolarModel(is_a=1e-14, bf=self.BETA, vaf_v=100.0)
        net.add(Bipolar(net.name("transistor"), collector, base, emitter, model))
        net.capacitor("c_out", collector, top, self.output_f.value)
        share = min(max(self.turned_up.value, self.END), 1 - self.END)
        track = self.track_ohm.value
        net.resistor("upper", top, out.hot, track * (1 - share))
        net.resistor("lower", out.hot, cold, track * share)
        load = 1 / (1 / self.collector_ohm.value + 1 / track)
        net.mark(OutputDevice(net.name("transistor"), collector, emitter, 0.3, load))
        stray(net, cold)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Swing of the collector, taken down by the control."""
        if around.swing_v is None:
            return None
        swing = max(around.swing_v, 1e-6) * min(max(self.turned_up.value, self.END), 1.0)
        return dbu_from_volts(swing / math.sqrt(2))
