"""How a chassis is joined to earth: by a safety earth, by leakage, or hardly at all."""

from __future__ import annotations

from typing import Literal

from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.gear.net import EarthPath, StageNet

Supply = Literal["safety-earth", "double-insulated", "battery", "usb-computer"]
# Resistance of an earth lead with its plugs, and the Y-capacitor of a double-insulated supply with
# the insulation across it; typical values, replaced by the station's own once they are measured.
EARTH_OHM = 0.2
LEAKAGE_F = 1e-9
INSULATION_OHM = 50e6
# The two Y-capacitors of a supply hold its chassis at half the mains voltage, open-circuit.
LEAKAGE_EMF_V = 115.0
COMB_V = 3e-3


def earth_path(net: StageNet, chassis: str, supply: Supply, earth_emf_v: float = 0.0) -> None:
    """Join a chassis to earth the way its supply does, and mark the EMF that works in it.

    ``earth_emf_v`` is what a meter finds between the earth of this outlet and the radio's.
    """
    if supply in ("safety-earth", "usb-computer"):
        net.resistor("earth", chassis, GROUND, EARTH_OHM, noisy=False, stray=True)
        comb = COMB_V if supply == "usb-computer" else 0.0
        net.mark(EarthPath(chassis, EARTH_OHM, 0.0, earth_emf_v, comb))
        return
    net.resistor("insulation", chassis, GROUND, INSULATION_OHM, noisy=False, stray=True)
    if supply == "battery":
        net.capacitor("leakage", chassis, GROUND, LEAKAGE_F / 10, stray=True)
        return
    net.capacitor("leakage", chassis, GROUND, LEAKAGE_F, stray=True)
    net.mark(EarthPath(chassis, None, LEAKAGE_F, LEAKAGE_EMF_V))
