"""Sources without a microphone: players, mixers, a computer's output, a radio's loudspeaker."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import GROUND, PowerLaw
from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.base import Gear, Role, Surroundings
from tonleiter.core.gear.earthing import Supply, earth_path
from tonleiter.core.gear.figure import Decibels, Farads, LevelDbu, Ohms, Volts, typical
from tonleiter.core.gear.grip import Grip
from tonleiter.core.gear.net import AIR, StageNet
from tonleiter.core.gear.signals import Carries
from tonleiter.core.units.levels import signed, volts_from_dbu

NOISE_BAND_HZ = 20_000.0
# what a slider or a volume control takes back before it is shut
CONTROL_DB = 60.0


class LineSource(Gear):
    """A box with a level of its own: the chain's voice and room play no part.

    A computer's output is described by the level of its 0 dBFS and by how far below it the
    program runs.
    """

    role: ClassVar[Role] = "microphone"
    noun: ClassVar[str] = "line source"
    what: ClassVar[str] = "brings a level of its own"
    choices: ClassVar[tuple[str, ...]] = ("below_full_db", "signal")
    handle: ClassVar[str | None] = "below_full_db"
    grip: ClassVar[Grip | None] = grips.Decibels()
    by_hand: ClassVar[bool] = True
    passes_ground: ClassVar[bool] = False
    acoustic: ClassVar[bool] = False

    kind: Literal["line-source"] = "line-source"
    full_scale_dbu: LevelDbu = Field(typical(6.2), title="Largest level (0 dBFS)")
    below_full_db: Decibels = Field(typical(-20.0), title="Program against it")
    signal: Carries = Field("by-purpose", title="Carries")
    z_out_ohm: Ohms = Field(typical(220.0), title="Output impedance")
    noise_dbu: LevelDbu = Field(typical(-85.0), title="Noise in 20 kHz")
    output_f: Farads = Field(typical(100e-6), title="Output capacitor")
    supply: Supply = Field("double-insulated", title="Supply")
    earth_emf_v: Volts = Field(typical(1e-3), title="Earth EMF, if earthed")

    def build(self, net: StageNet) -> None:
        """EMF behind the output impedance and a capacitor, chassis to earth by its supply."""
        out, drive = net.outlet, net.name("drive")
        z_out = self.z_out_ohm.value
        program_v = volts_from_dbu(self.full_scale_dbu.value + self.below_full_db.value)
        net.transconductor("emf", (drive, out.cold), (AIR, GROUND), program_v / z_out)
        net.resistor("z_out", drive, out.cold, z_out, noisy=False)
        noise = volts_from_dbu(self.noise_dbu.value) ** 2 / NOISE_BAND_HZ / z_out**2
        net.noise_current("noise", drive, out.cold, (PowerLaw(noise),))
        net.capacitor("c_out", drive, out.hot, self.output_f.value)
        net.resistor("bleed", out.hot, out.cold, 47e3, noisy=False, stray=True)
        earth_path(net, out.cold, self.supply, self.earth_emf_v.value)

    def control_at(self) -> float:
        """Its level, on a scale of 60 dB."""
        return min(max(1 + self.below_full_db.value / CONTROL_DB, 0.0), 1.0)

    def _within(self, wanted: float, now: float) -> float:
        """No louder than its largest."""
        return min(super()._within(wanted, now), max(now, 0.0))

    def setting_words(self, value: float) -> str:
        """Against its largest level."""
        return f"{signed(-value, 0)} dB under its largest"

    def carries(self) -> Carries:
        """As set, or what the purpose has."""
        return self.signal

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Full scale, with its load."""
        loaded = around.z_load_ohm / (around.z_load_ohm + self.z_out_ohm.value)
        return self.full_scale_dbu.value + 20 * math.log10(loaded)
