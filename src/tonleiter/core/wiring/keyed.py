"""The transmit line as it is built: where it goes, its wires, and what a serial port drives."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from itertools import pairwise

from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import Port, StageNet
from tonleiter.core.gear.shopping import Item, items_of, numbered
from tonleiter.core.station.contacts import At
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import End, transmit_end
from tonleiter.core.station.transmit import way_of
from tonleiter.core.wiring.keying import Keying, keying_of
from tonleiter.core.wiring.metal import Metal
from tonleiter.core.wiring.model import COLOURS, SWITCH, Conductor, Net
from tonleiter.core.wiring.wires import Wires

KEYER, PORT, SECOND, RAIL = "keyer", "port", "second switch", "supply"
# control line and ground of a serial port with nine contacts, TIA-574: request to send, ground
PORT_LINE, PORT_GROUND, SUPPLY = At(PORT, "7"), At(PORT, "5"), At(RAIL, "+12 V")
SUPPLY_MINUS = At(RAIL, "minus")
PORT_WORDS = {PORT_LINE: "request to send", PORT_GROUND: "ground"}
LEGS = ("transmit", "transmit-ground")
# nodes of what a port drives at which its contacts are
PORTS = {
    "port-line": (PORT_LINE, "port line"),
    "port-ground": (PORT_GROUND, "port ground"),
    f"{KEYER}:rail": (SUPPLY, "supply of the relay"),
}


@dataclass(frozen=True)
class KeyedLine:
    """How this chain is keyed; ``end`` is the connector with the transmit contact, if one is known.

    ``gear`` is what a serial port drives, ``sheet`` its drawing, ``pins`` its legs by node, ``own``
    the nodes that are no net of the lead.
    """

    keying: Keying | None = None
    end: End | None = None
    gear: Gear | None = None
    net: StageNet | None = None
    items: tuple[Item, ...] = ()
    refs: Mapping[str, str] = field(default_factory=dict)
    sheet: Sheet = field(default_factory=Sheet)
    pins: Mapping[str, tuple[At, ...]] = field(default_factory=dict)
    own: tuple[str, ...] = ()

    @property
    def is_built(self) -> bool:
        """Whether there is a contact to which its parts can be wired."""
        return self.end is not None or (self.keying is not None and not self.keying.wired)


def keyed_line(station: Station, metal: Metal) -> KeyedLine:
    """What is decided of the transmit line; its contacts are put to the metal they belong to."""
    last = metal.stages[-1]
    splice = metal.splice(len(metal.stages) - 1, "in")
    way = way_of(metal.wiring, metal.stages[0].gear, last.gear)
    if way is None or splice is None:
        return KeyedLine()
    end = transmit_end(station, last.gear, splice.end)
    contact = None if end is None else end.contact_of("transmit")
    stands = splice.stands.get(contact.label) if contact is not None and end == splice.end else None
    keying = keying_of(way, stands, metal.wiring.serial_v.value)
    if keying.gear is None:
        return KeyedLine(keying, end)
    net = StageNet(KEYER, Port("port-line", "port-ground"), Port("", ""))
    net.outlet = Port("line", "port-ground" if keying.gear.passes_ground else "line-ground")
    keying.gear.build(net)
    items = items_of(keying.gear, net)
    refs = {
        place: name
        for place, name in numbered((*metal.items, *items)).items()
        if place not in metal.refs
    }
    sheet = draw_stage(keying.gear, net, items=items).named(refs)
    pins: dict[str, tuple[At, ...]] = {}
    for symbol in sheet.symbols:
        for pin in symbol.pins:
            pins[pin.node] = (*pins.get(pin.node, ()), At(symbol.ref, pin.name))
    for node, (marked, _) in PORTS.items():
        if node in pins:
            pins[node] = (marked, *pins[node])
    if f"{KEYER}:rail" in pins:
        pins["port-ground"] = (SUPPLY_MINUS, *pins["port-ground"])
    line = KeyedLine(keying, end, keying.gear, net, items, refs, sheet, pins)
    at = _landed(line, metal)
    if at is None:
        return KeyedLine(keying, end)
    # what is soldered to a conductor of the chain belongs to its net
    homes = {net.outlet.hot: at["transmit"], net.outlet.chassis: at["transmit-ground"]}
    joined = {node for node, contact in homes.items() if metal.meet(contact, pins[node])}
    return replace(line, own=tuple(node for node in pins if node not in joined))


def keyed_nets(line: KeyedLine) -> tuple[Net, ...]:
    """Nets of what a port drives that are no conductor of the lead; dead while the port rests."""
    return tuple(
        Net(_called(line, node), line.pins[node], 0.0, None, keys=True) for node in line.own
    )


def _called(line: KeyedLine, node: str) -> str:
    return PORTS[node][1] if node in PORTS else f"inside, at {line.pins[node][0]}"


def keyed_wires(line: KeyedLine, metal: Metal, wires: Wires, span: int) -> list[Conductor]:
    """The wires of the switch, or of what a port drives; none where no contact is known to key."""
    splice = metal.splice(len(metal.stages) - 1, "in")
    if line.keying is None or splice is None or not line.keying.wired:
        return []
    at = _landed(line, metal)
    if at is None:
        return []
    if line.gear is None or line.net is None:
        starts = dict(zip(LEGS, (At(SWITCH, "1"), At(SWITCH, "2")), strict=True))
        made = [_to(wires, leg, starts[leg], at[leg], span) for leg in LEGS]
        made = [c for c in made if c.end is not None]
        return [*made, *(_beside(c, span) for c in made if metal.wiring.also is not None)]
    net = line.net
    out = {"transmit": net.outlet.hot, "transmit-ground": net.outlet.chassis}
    made = [_to(wires, leg, line.pins[node][-1], at[leg], span) for leg, node in out.items()]
    for node, pins in line.pins.items():
        for start, other in pairwise(pins):
            leg = PORTS[node][1] if start.thing in (PORT, RAIL) else ""
            key = f"{SWITCH}:{start}" if leg else ""
            made.append(
                Conductor(
                    start, other, wires.net_of(start), "any", None, key, leg, span, inside=not leg
                )
            )
    return made


def _landed(line: KeyedLine, metal: Metal) -> dict[str, At | None] | None:
    """Where both wires of the transmit line end; None where nobody knows a contact that keys."""
    splice = metal.splice(len(metal.stages) - 1, "in")
    if splice is None:
        return None
    at = {leg: _contact(line, metal, leg) for leg in LEGS}
    by_hand = metal.wiring.landing(splice.end.id, "transmit") is not None
    return at if at["transmit"] is not None or by_hand else None


def _beside(wire: Conductor, span: int) -> Conductor:
    """A second switch, joined to the first one's terminal."""
    assert wire.start is not None
    start = At(SECOND, wire.start.label)
    return Conductor(start, wire.start, wire.net, wire.colour, None, "", "", span, inside=True)


def _to(wires: Wires, leg: str, start: At, end: At | None, span: int) -> Conductor:
    return wires.wire(SWITCH, leg, start, end, COLOURS[leg], None, span)


def _contact(line: KeyedLine, metal: Metal, leg: str) -> At | None:
    """The contact that takes a wire of the transmit line; with a borrowed ground that one."""
    splice = metal.splice(len(metal.stages) - 1, "in")
    assert splice is not None
    if line.end is not None and line.end != splice.end:
        contact = line.end.contact_of(leg)
        return None if contact is None else line.end.ref(contact.label)
    if leg not in splice.wires:
        return _borrowed(metal)
    label = splice.landed.get(leg)
    return None if label is None else splice.end.ref(label)


def _borrowed(metal: Metal) -> At | None:
    """The contact or pin at the far end of the lead whose ground the switch borrows."""
    lead = metal.stages[metal.plug_at - 1]
    node = lead.inlet.cold if lead.gear.lead else metal.stages[-1].inlet.cold
    found = metal.contacts.get(metal.find(node), [])
    return found[0] if found else None
