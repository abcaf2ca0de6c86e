"""What a radio gives: its loudspeaker socket, single-ended or bridged."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import GROUND, PowerLaw, VoltageSource
from tonleiter.core.gear.base import DeviceKind
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import DecibelsUnder, LevelDbu, Ohms, Volts, typical
from tonleiter.core.gear.net import AIR, BridgeLeg, StageNet, Supply
from tonleiter.core.gear.own_level import NOISE_BAND_HZ, OwnLevel
from tonleiter.core.gear.signals import Carries
from tonleiter.core.units.levels import volts_from_dbu

# what one leg of a bridge survives into a grounded chassis: enough for a meter, no more
LEG_TOLERATES_A = 20e-3


class LoudspeakerOutput(OwnLevel):
    """The loudspeaker socket of a radio: volts, from a fraction of an ohm.

    In a bridged output both legs stand at half the supply and swing against each other: neither may
    be joined to ground.
    """

    bought_whole: ClassVar[bool] = True
    device: ClassVar[DeviceKind | None] = "radio"
    noun: ClassVar[str] = "loudspeaker output"
    what: ClassVar[str] = "volts from a radio's receiver"

    kind: Literal["loudspeaker-output"] = "loudspeaker-output"
    output: Literal["single-ended", "bridged"] = Field("single-ended", title="Output stage")
    full_dbu: LevelDbu = Field(typical(13.0), title="Largest level")
    below_full_db: DecibelsUnder = Field(typical(-20.0), title="Volume against it")
    signal: Carries = Field("by-purpose", title="Carries")
    z_out_ohm: Ohms = Field(typical(0.5), title="Output impedance")
    noise_dbu: LevelDbu = Field(typical(-55.0), title="Noise in 20 kHz")
    supply_v: Volts = Field(typical(13.8), title="Supply of its amplifier")
    supply: Supply = Field("safety-earth", title="Chassis")
    earth_emf_v: Volts = Field(typical(1e-3), title="Earth EMF, if earthed")

    def build(self, net: StageNet) -> None:
        """One EMF against the chassis, or two legs on half the supply with half the EMF each."""
        out = net.outlet
        bridged = self.output == "bridged"
        chassis = net.name("chassis") if bridged else out.cold
        volts = volts_from_dbu(self.full_dbu.value + self.below_full_db.value)
        hiss = volts_from_dbu(self.noise_dbu.value) ** 2 / NOISE_BAND_HZ
        legs = [(out.hot, "hot", 1.0)]
        if bridged:
            legs.append((out.cold, "cold", -1.0))
        share = 1 / len(legs)
        for node, name, sign in legs:
            foot = chassis
            if bridged:
                foot = net.name(f"half_{name}")
                net.add(
                    VoltageSource(
                        net.name(f"rail_{name}"), foot, chassis, dc=self.supply_v.value / 2
                    )
                )
            ohm = self.z_out_ohm.value * share
            siemens = sign * share * volts / ohm
            net.transconductor(f"emf_{name}", (node, foot), (AIR, GROUND), siemens)
            leg = net.resistor(f"leg_{name}", node, foot, ohm, noisy=False)
            law = PowerLaw(hiss * share / ohm**2)
            net.noise_current(f"noise_{name}", node, foot, (law,))
            if bridged:
                net.mark(BridgeLeg(leg, LEG_TOLERATES_A))
        earth_path(net, chassis, self.supply, self.earth_emf_v.value)

    def carries(self) -> Carries:
        """As set, or what the purpose has."""
        return self.signal

    def largest_dbu(self) -> float:
        """Where its amplifier clips."""
        return self.full_dbu.value
