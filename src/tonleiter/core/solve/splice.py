"""A connector in the circuit: contacts of the box, wires of the lead, and the joints between.

Where nothing was soldered otherwise than the pinouts say, a joint is the same node on both sides
and needs none of this. Elsewhere each wire goes to the contact it was soldered to, whatever that
carries: a wrong wire is solved like any other.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from tonleiter.core.circuit.elements import Capacitor, Element, Resistor, VoltageSource
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import Port
from tonleiter.core.station.contact_facts import GROUND_ROLES, Standing, standing
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import End, Side, end_of
from tonleiter.core.station.shells import SHELLS, joined_by, meets
from tonleiter.core.station.transmit import is_wired, way_of
from tonleiter.core.station.wiring import Wiring

# a soldered joint with its contact spring; ground traces in a box; a wire of the switch: typical
JOINT_OHM, TRACE_OHM, SWITCH_WIRE_OHM = 2e-3, 20e-3, 0.1
# a wire that ends in air
AIR_OHM, AIR_F = 1e10, 2e-12
SWITCH_OPEN_OHM, SWITCH_CLOSED_OHM = 1e9, 0.05


@dataclass(frozen=True)
class Splice:
    """One connector as it stands in the circuit.

    ``port`` is what the circuit goes on with: the box's own side behind an inlet, the lead's behind
    an outlet. ``nodes`` gives each contact's node, ``landed`` the socket's contact that each wire
    meets (None: none), ``wires`` the wire's node, ``stands`` what a contact gives by itself.
    """

    end: End
    port: Port
    elements: tuple[Element, ...]
    nodes: Mapping[str, str]
    landed: Mapping[str, str | None]
    wires: Mapping[str, str]
    stands: Mapping[str, Standing] = field(default_factory=dict)
    sources: Mapping[str, str] = field(default_factory=dict)


class Splicer:
    """Makes the splices of one variant. ``everywhere``: at untouched connectors too."""

    def __init__(
        self, station: Station, wiring: Wiring, everywhere: bool = False, keyed: bool = False
    ) -> None:
        self._station, self._wiring = station, wiring
        self._everywhere, self._keyed = everywhere, keyed

    def at_inlet(
        self, box: Gear, first: Gear, before: Port, source: Gear | None, return_node: str
    ) -> Splice | None:
        """Where a lead comes into a box; ``source`` is the chain's first piece at its last box.

        ``first`` is what stands first behind the socket: the box itself, or what was built into it.
        """
        takes = first.takes_balanced()
        side: Side = "in" if source is None else "plug"
        end = end_of(self._station, box, takes and before.balanced, side)
        if not self._wanted(end, source is not None):
            return None
        made = _Joint(box, "in", end, self._wiring)
        hot, cold = made.own("hot"), made.own("cold")
        screen = None
        if takes and before.screen is not None:
            screen = cold if before.screen == before.cold else made.own("screen")
        port = Port(hot, cold, screen)
        made.contacts(port)
        legs = _legs(before)
        own = end.contact_of("screen")
        if takes and "screen" not in legs and own is not None and own != end.contact_of("cold"):
            # a lead of one core: the contact for a screen is tied to the cold one in the plug
            legs["screen"] = before.cold
        made.solder(legs)
        if source is not None:
            self._switch(made, box, source, return_node, port.chassis)
        return made.splice(port)

    def at_outlet(self, gear: Gear, outlet: Port, side: Side) -> Splice | None:
        """Where a lead leaves a box."""
        end = end_of(self._station, gear, outlet.balanced, side)
        if not self._wanted(end, last=False):
            return None
        made = _Joint(gear, "out", end, self._wiring)
        made.contacts(outlet)
        hot, cold, screen = (f"{gear.id}:wire-{leg}" for leg in ("hot", "cold", "screen"))
        parted = outlet.screen is not None and outlet.screen != outlet.cold
        port = Port(hot, cold, screen if parted else cold if outlet.screen else None)
        made.solder(_legs(port))
        return made.splice(port)

    def _wanted(self, end: End, last: bool) -> bool:
        if self._everywhere or self._wiring.touches(end.id):
            return True
        # a switch that borrows the audio's ground is part of the sound's circuit
        return last and self._wiring.switch_returns == "audio-ground"

    def _switch(
        self, made: _Joint, gear: Gear, source: Gear, return_node: str, ground: str
    ) -> None:
        way = way_of(self._wiring, source, gear)
        if way is None or not is_wired(way):
            return
        one, other = f"{gear.id}:switch-1", f"{gear.id}:switch-2"
        shares = self._wiring.switch_returns == "audio-ground"
        made.solder({"transmit": one}, SWITCH_WIRE_OHM)
        if made.landed.get("transmit") is None:
            return
        if shares:
            made.add(Resistor(made.name("return"), other, return_node, JOINT_OHM, noisy=False))
        else:
            made.solder({"transmit-ground": other}, SWITCH_WIRE_OHM)
        ohm = SWITCH_CLOSED_OHM if self._keyed else SWITCH_OPEN_OHM
        made.add(
            Resistor(made.name("switch"), one, other, ohm, noisy=False),
            Resistor(made.name("damp"), other, ground, AIR_OHM, noisy=False),
        )


def _legs(port: Port) -> dict[str, str]:
    legs = {"hot": port.hot, "cold": port.cold}
    if port.screen is not None and port.screen != port.cold:
        legs["screen"] = port.screen
    return legs


class _Joint:
    """Collects one connector."""

    def __init__(self, gear: Gear, which: str, end: End, wiring: Wiring) -> None:
        self._gear, self._which, self.end, self._wiring = gear, which, end, wiring
        self._elements: list[Element] = []
        self.nodes: dict[str, str] = {}
        self.landed: dict[str, str | None] = {}
        self.wires: dict[str, str] = {}
        self._stands: dict[str, Standing] = {}
        self._sources: dict[str, str] = {}
        self._leg_nodes: dict[str, str] = {}
        self.plug = wiring.plug(end.id) or end.connector.shell

    def name(self, part: str) -> str:
        return f"{self._gear.id}:{self._which} {part}"

    def own(self, leg: str) -> str:
        return f"{self._gear.id}:pin-{leg}"

    def add(self, *elements: Element) -> None:
        self._elements += elements

    def contacts(self, port: Port) -> None:
        """A node for each contact of the box, with what stands behind it there."""
        self._leg_nodes = _legs(port)
        for leg, node in self._leg_nodes.items():
            contact = self.end.contact_of(leg)
            if contact is not None:
                self.nodes.setdefault(contact.label, node)
        ground = port.chassis
        for leg, node in self._leg_nodes.items():
            # where no wire comes to it, damp keeps it from floating
            if node != ground:
                self.add(Resistor(self.name(f"damp {leg}"), node, ground, AIR_OHM, noisy=False))
        for contact in self.end.connector.contacts:
            if contact.label in self.nodes:
                continue
            node = self.nodes[contact.label] = self.name(f"contact {contact.label}")
            part = self.name(f"behind {contact.label}")
            if contact.role in GROUND_ROLES:
                self.add(Resistor(part, node, ground, TRACE_OHM, noisy=False))
                continue
            self.add(Resistor(f"{part}, insulation", node, ground, AIR_OHM, noisy=False))
            stands = standing(contact, self._gear) if self._which == "in" else None
            if stands is not None:
                self._stands[contact.label] = stands
                self._sources[contact.label] = f"{part}, source"
                rail = self.name(f"rail {contact.label}")
                self.add(
                    VoltageSource(f"{part}, source", rail, ground, dc=stands.volts),
                    Resistor(part, rail, node, stands.ohm, noisy=False),
                )
        self._bridges()

    def _bridges(self) -> None:
        by_hand = [b.contacts for b in self._wiring.bridges if b.end == self.end.id]
        for one, other in (*by_hand, *joined_by(self.plug, self.end.connector.shell)):
            if one in self.nodes and other in self.nodes and self.nodes[one] != self.nodes[other]:
                part = self.name(f"bridge {one} {other}")
                self.add(Resistor(part, self.nodes[one], self.nodes[other], JOINT_OHM, noisy=False))

    def solder(self, legs: Mapping[str, str], ohm: float = JOINT_OHM) -> None:
        """Each wire to the contact that hands chose, or to its own."""
        for leg, wire in legs.items():
            self.wires[leg] = wire
            target = self._target(leg)
            if target is None:
                near = self._leg_nodes.get(leg, next(iter(self._leg_nodes.values())))
                self.add(
                    Resistor(self.name(f"air {leg}"), wire, near, AIR_OHM, noisy=False),
                    Capacitor(self.name(f"stray {leg}"), wire, near, AIR_F),
                )
                continue
            self.add(Resistor(self.name(f"joint {leg}"), wire, target, ohm, noisy=False))

    def _target(self, leg: str) -> str | None:
        chosen = self._wiring.landing(self.end.id, leg)
        if chosen is not None and chosen.contact is None:
            self.landed[leg] = None
            return None
        socket = self.end.connector.shell
        if chosen is not None and chosen.contact in SHELLS[self.plug].labels:
            met = meets(self.plug, socket).get(chosen.contact or "")
        else:
            usual = self.end.contact_of(leg)
            met = None if usual is None else usual.label
            if met is not None and self.plug != socket and met not in SHELLS[self.plug].labels:
                met = meets(self.plug, socket).get("sleeve", met)
        self.landed[leg] = met
        if met is not None and met in self.nodes:
            return self.nodes[met]
        # no pinout says where it goes: it is taken to be right, and said to be unknown
        return self._leg_nodes.get(leg) or (
            self._leg_nodes.get("cold") if leg == "screen" else None
        )

    def splice(self, port: Port) -> Splice:
        return Splice(
            self.end,
            port,
            tuple(self._elements),
            self.nodes,
            self.landed,
            self.wires,
            self._stands,
            self._sources,
        )
