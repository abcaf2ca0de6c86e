"""How a chassis is joined to earth: by a safety earth, by leakage, or hardly at all."""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.gear.net import EarthPath, StageNet, Supply, bonded

# Resistance of an earth lead with its plugs, and the Y-capacitor of a double-insulated supply with
# the insulation across it; typical values, replaced by the station's own once they are measured.
EARTH_OHM = 0.2
LEAKAGE_F = 1e-9
INSULATION_OHM = 50e6
# The two Y-capacitors of a supply hold its chassis at half the mains voltage, open-circuit.
LEAKAGE_EMF_V = 115.0
COMB_V = 3e-3


@dataclass(frozen=True)
class WayToEarth:
    """What a supply comes to between a chassis and earth: resistance or capacitance, and EMFs."""

    ohm: float
    farad: float
    path: EarthPath | None


def way_to_earth(chassis: str, supply: Supply, earth_emf_v: float = 0.0) -> WayToEarth:
    """The way to earth of a supply.

    ``earth_emf_v`` is what a meter finds between the earth of this outlet and the radio's. What is
    fed over a lead has no way of its own, like what runs on a battery.
    """
    if supply in ("safety-earth", "usb-computer"):
        comb = COMB_V if supply == "usb-computer" else 0.0
        return WayToEarth(EARTH_OHM, 0.0, EarthPath(chassis, EARTH_OHM, 0.0, earth_emf_v, comb))
    if supply in ("battery", "lead"):
        return WayToEarth(INSULATION_OHM, LEAKAGE_F / 10, None)
    path = EarthPath(chassis, None, LEAKAGE_F, LEAKAGE_EMF_V)
    return WayToEarth(INSULATION_OHM, LEAKAGE_F, path)


def earth_path(net: StageNet, chassis: str, supply: Supply, earth_emf_v: float = 0.0) -> None:
    """Join a chassis to earth the way its supply does, and mark the EMF that works in it.

    Where the station says how the box is earthed, that counts; see ``way_to_earth``.
    """
    if bonded(net, chassis):
        return
    if net.earthing is not None:
        supply, earth_emf_v = net.earthing.supply, net.earthing.earth_emf_v
    way = way_to_earth(chassis, supply, earth_emf_v)
    # the names tell the two apart: a lead to earth, and what insulation there is
    part = "earth" if way.farad == 0 else "insulation"
    net.resistor(part, chassis, GROUND, way.ohm, noisy=False, stray=True)
    if way.farad > 0:
        net.capacitor("leakage", chassis, GROUND, way.farad, stray=True)
    if way.path is not None:
        net.mark(way.path)
