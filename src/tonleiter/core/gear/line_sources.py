"""Sources without a microphone: players, mixers, a computer's output, a radio's loudspeaker."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import GROUND, PowerLaw
from tonleiter.core.gear.base import DeviceKind
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import DecibelsUnder, Farads, LevelDbu, Ohms, Volts, typical
from tonleiter.core.gear.net import AIR, StageNet, Supply
from tonleiter.core.gear.own_level import NOISE_BAND_HZ, OwnLevel
from tonleiter.core.gear.signals import Carries
from tonleiter.core.units.levels import volts_from_dbu


class LineSource(OwnLevel):
    """A box with a level of its own: the chain's voice and room play no part.

    A computer's output is described by the level of its 0 dBFS and by how far below it the
    program runs.
    """

    bought_whole: ClassVar[bool] = True
    device: ClassVar[DeviceKind | None] = "other"
    noun: ClassVar[str] = "line source"
    what: ClassVar[str] = "brings a level of its own"

    kind: Literal["line-source"] = "line-source"
    full_scale_dbu: LevelDbu = Field(typical(6.2), title="Largest level (0 dBFS)")
    below_full_db: DecibelsUnder = Field(typical(-20.0), title="Program against it")
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

    def carries(self) -> Carries:
        """As set, or what the purpose has."""
        return self.signal

    def largest_dbu(self) -> float:
        """Full scale."""
        return self.full_scale_dbu.value
