"""The earth network of a station around one chain: other boxes, and the leads that join chassis.

Only what the leads join to a box of the chain, directly or through others, is built: what hangs on
nothing of it cannot hum into it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from tonleiter.core.circuit.elements import GROUND, Capacitor, Element, Inductor, Resistor
from tonleiter.core.gear.earthing import COMB_V, way_to_earth
from tonleiter.core.gear.net import EarthPath
from tonleiter.core.station.devices import Device, Link
from tonleiter.core.station.model import Station

# barrier of an isolator, and what an open end of a screen has to the box beside it; typical
ISOLATOR_F, OPEN_END_F = 10e-12, 20e-12
# insulation across either
DAMP_OHM = 1e10
# some turns of a lead on a ring core, as for the leads of a chain
CORE_H = 10e-3


@dataclass(frozen=True)
class Box:
    """A box that is not of the chain: the node of its chassis, and the EMF in its way to earth."""

    id: str
    node: str
    path: EarthPath | None


@dataclass(frozen=True)
class Lead:
    """A lead between two chassis nodes, with the EMF of the data that it carries.

    ``element`` is the name of what it is at low frequency; ``emf_v`` works in series with ``ohm``.
    """

    link: Link
    p: str
    n: str
    element: str
    ohm: float
    comb_v: float


@dataclass(frozen=True)
class Grounds:
    """What the station adds to a chain's circuit; ``chassis`` gives every box's node by its id."""

    chassis: Mapping[str, str]
    boxes: tuple[Box, ...]
    leads: tuple[Lead, ...]
    elements: tuple[Element, ...]


def around(station: Station, chassis: Mapping[str, str]) -> Grounds:
    """Everything that leads join to the boxes in ``chassis`` (node by id of the box)."""
    nodes = dict(chassis)
    boxes: list[Box] = []
    elements: list[Element] = []
    reached = True
    waiting = list(station.links)
    while reached:
        reached = False
        for link in waiting:
            known = [end for end in (link.a, link.b) if end in nodes]
            if len(known) != 1:
                continue
            reached = True
            new = link.b if known[0] == link.a else link.a
            box, made = _box(station.device_by_id[new])
            nodes[new] = box.node
            boxes.append(box)
            elements += made
        waiting = [x for x in waiting if not (x.a in nodes and x.b in nodes)]
    leads = []
    for link in station.links:
        if link.a in nodes and link.b in nodes:
            lead, made = _lead(link, nodes[link.a], nodes[link.b])
            leads.append(lead)
            elements += made
    return Grounds(nodes, tuple(boxes), tuple(leads), tuple(elements))


def _box(device: Device) -> tuple[Box, list[Element]]:
    node = f"@{device.id}"
    way = way_to_earth(node, device.supply, device.earth_emf_v.value)
    made: list[Element] = [Resistor(f"{node}:earth", node, GROUND, way.ohm, noisy=False)]
    if way.farad > 0:
        made.append(Capacitor(f"{node}:leakage", node, GROUND, way.farad))
    return Box(device.id, node, way.path), made


def _lead(link: Link, p: str, n: str) -> tuple[Lead, list[Element]]:
    """A conductor, a core round it, or what is left of it where it is open."""
    name = f"&{link.id}"
    ohm = max(link.ohm.value, 1e-6)
    if link.joins != "both-ends":
        farad = ISOLATOR_F if link.joins == "isolated" else OPEN_END_F
        gap = Capacitor(f"{name}:gap", p, n, farad)
        damp = Resistor(f"{name}:damp", p, n, DAMP_OHM, noisy=False)
        return Lead(link, p, n, gap.name, math.inf, 0.0), [gap, damp]
    # the data of a USB lead drive their comb along its ground
    comb_v = COMB_V if link.kind == "usb" else 0.0
    if link.core == "none":
        wire = Resistor(f"{name}:lead", p, n, ohm, noisy=False)
        return Lead(link, p, n, wire.name, ohm, comb_v), [wire]
    middle = f"{name}:core"
    wire = Resistor(f"{name}:lead", p, middle, ohm, noisy=False)
    core = Inductor(f"{name}:coil", middle, n, CORE_H)
    return Lead(link, p, middle, wire.name, ohm, comb_v), [wire, core]
