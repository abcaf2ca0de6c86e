"""A build: what is joined to what, contact by contact, derived from a solved chain.

Nets are the nodes of the very circuit that was solved; the conductors of a lead and the tie in a
plug are one net, since they are one piece of metal to a builder.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import pairwise

from tonleiter.core.circuit.elements import Resistor
from tonleiter.core.circuit.joined import Joined
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import TIE_OHM, Port
from tonleiter.core.gear.parts import Part
from tonleiter.core.gear.shopping import items_of, listed, numbered
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.station.devices import Role
from tonleiter.core.station.model import Station
from tonleiter.core.wiring.pinout import End, end_of

# a conductor's colour says its leg, as a word too
COLOURS = {
    "hot": "white",
    "cold": "yellow",
    "screen": "bare braid",
    "transmit": "red",
    "transmit ground": "black",
}
# elements of a lead that are its conductors
_CONDUCTORS = ("core", "cold_core", "screen")


@dataclass(frozen=True)
class Net:
    """Contacts and pins that are one conductor; DC in volts, speech in dBu on a hot one."""

    name: str
    contacts: tuple[str, ...]
    dc_v: float
    speech_dbu: float | None


@dataclass(frozen=True)
class Conductor:
    """A wire from contact to contact."""

    start: str
    end: str
    net: str
    colour: str
    length_m: float | None


@dataclass(frozen=True)
class Leftover:
    """A contact of the radio's plug that nothing uses, and what to do with it."""

    contact: str
    role: Role
    do: str


@dataclass(frozen=True)
class Span:
    """What is wired between two boxes: their connectors, and their places in the chain."""

    left: End
    right: End
    first: int
    last: int


@dataclass(frozen=True)
class Build:
    """Everything to solder for a chain, and what stays free."""

    ends: tuple[End, ...]
    nets: tuple[Net, ...]
    conductors: tuple[Conductor, ...]
    parts: tuple[Part, ...]
    leftovers: tuple[Leftover, ...]
    unknown: tuple[str, ...] = field(default=())
    spans: tuple[Span, ...] = ()

    @property
    def joints(self) -> int:
        """How many joints are to be soldered."""
        switch = {x for c in self.conductors if c.start.startswith("switch.")
                  for x in (c.start, c.end)}  # fmt: skip
        return len({x for net in self.nets for x in net.contacts} | switch)


def build_of(station: Station, solution: ChainSolution, speech_dbu: Iterable[float]) -> Build:
    """The build of a solved chain. ``speech_dbu`` has the level at each stage's outlet."""
    return _Maker(station, solution, list(speech_dbu)).build()


class _Maker:
    def __init__(self, station: Station, solution: ChainSolution, speech_dbu: list[float]) -> None:
        self._station, self._solution = station, solution
        self._speech = speech_dbu
        self._stages = solution.compiled.stages
        self._joined = Joined[str]()
        self._contacts: dict[str, list[str]] = {}
        # the same by stage, as a builder meets them
        self._of_stage: dict[tuple[str, str], list[str]] = {}
        self._ends: list[End] = []
        self._unknown: list[str] = []
        self._soldered: set[str] = set()
        self._join_conductors()

    # --- what is one piece of metal --------------------------------------------------------------

    def _find(self, node: str) -> str:
        return self._joined.of(node)

    def _join_conductors(self) -> None:
        elements = self._solution.compiled.circuit.elements
        for stage in self._stages:
            for k in sorted(stage.elements):
                element = elements[k]
                if not isinstance(element, Resistor):
                    continue
                part = element.name.rpartition(":")[2]
                is_wire = stage.gear.lead and part in _CONDUCTORS
                if is_wire or (part == "tie" and element.ohm <= TIE_OHM):
                    self._joined.join(element.p, element.n)

    # --- ends ------------------------------------------------------------------------------------

    def _end(self, stage: PlacedStage, port: Port, side: str) -> None:
        """The connector where a box meets a joint: each leg to its contact."""
        end = end_of(self._station, stage.gear, port.balanced, side)
        self._ends.append(end)
        legs = [("hot", port.hot), ("cold", port.cold)]
        if port.screen is not None and port.screen != port.cold:
            legs.append(("screen", port.screen))
        for leg, node in legs:
            contact = end.contact_of(leg)
            if contact is None:
                self._unknown.append(f"{leg} of the {end.name}")
                continue
            self._put(stage.id, node, end.ref(contact.label))

    def _put(self, stage: str, node: str, contact: str) -> None:
        at = self._contacts.setdefault(self._find(node), [])
        if contact not in at:
            at.append(contact)
        self._of_stage.setdefault((stage, self._find(node)), []).append(contact)

    # --- the whole -------------------------------------------------------------------------------

    def build(self) -> Build:
        """Ends, pins of parts, nets, wires, leftovers."""
        made = [s for s in self._stages if is_soldered(s.gear)]
        nets_of = {s.id: s.net() for s in made}
        self._soldered = set(nets_of)
        items = [i for s in made for i in items_of(s.gear, nets_of[s.id], self._solution.node_v)]
        refs = numbered(items)
        for k, stage in enumerate(self._stages):
            if stage.gear.lead:
                continue
            if stage.id in nets_of:
                sheet = draw_stage(stage.gear, nets_of[stage.id], stage.inlet).named(refs)
                for symbol in sheet.symbols:
                    for pin in symbol.pins:
                        sign = "+" if pin.name == symbol.plus else "−"
                        name = sign if symbol.plus else pin.name
                        self._put(stage.id, pin.node, f"{symbol.ref}.{name}")
                continue
            through = stage.gear.role == "between"
            if k > 0:
                self._end(stage, stage.inlet, "in" if through else "plug")
            if k < len(self._stages) - 1:
                self._end(stage, stage.outlet, "out" if through else "plug")
        named = self._named()
        keyed = self._keyed()
        return Build(
            ends=tuple(self._ends),
            nets=named,
            conductors=(*self._wires(named), *keyed),
            parts=listed(items, refs),
            leftovers=self._leftovers({c.end for c in keyed}),
            unknown=tuple(dict.fromkeys(self._unknown)),
            spans=self._spans(),
        )

    def _spans(self) -> tuple[Span, ...]:
        """From box to box; each has the connector that it is left by, and the one it ends in."""
        boxes = [
            k for k, s in enumerate(self._stages) if not s.gear.lead and s.id not in self._soldered
        ]
        return tuple(
            Span(self._ends[2 * n], self._ends[2 * n + 1], first, last)
            for n, (first, last) in enumerate(pairwise(boxes))
        )

    def _named(self) -> tuple[Net, ...]:
        """Nets by what they carry: hot, cold or screen of a joint, or a node inside a stage."""
        names: dict[str, tuple[str, float | None]] = {}
        for k, stage in enumerate(self._stages[:-1]):
            after = "" if k == 0 else f" behind the {stage.gear.name}"
            port = stage.outlet
            legs = [("hot", port.hot), ("cold", port.cold), ("screen", port.chassis)]
            for leg, node in legs:
                level = self._speech[k] if leg == "hot" else None
                names.setdefault(self._find(node), (f"{leg}{after}", level))
        nets = []
        for node, contacts in self._contacts.items():
            name, level = names.get(node, (node.replace(":", " "), None))
            volts = self._solution.node_v(node)
            nets.append(Net(name, tuple(contacts), volts or 0.0, level))
        return tuple(sorted(nets, key=lambda n: n.name))

    def _wires(self, nets: tuple[Net, ...]) -> tuple[Conductor, ...]:
        """Between pins inside each piece, then from piece to piece, leg by leg, over their lead."""
        net_of = {contact: net.name for net in nets for contact in net.contacts}
        found = []
        for (stage, _), contacts in self._of_stage.items():
            if stage in self._soldered:
                for start, end in pairwise(dict.fromkeys(contacts)):
                    found.append(Conductor(start, end, net_of[start], "any", None))
        things = [k for k, s in enumerate(self._stages) if not s.gear.lead]
        for k, after in pairwise(things):
            leads = self._stages[k + 1 : after]
            length = sum(s.gear.figure("length_m").value for s in leads) or None
            port = self._stages[k].outlet
            legs = {"hot": port.hot, "cold": port.cold, "screen": port.chassis}
            joined: set[str] = set()
            for leg, node in legs.items():
                root = self._find(node)
                here = self._of_stage.get((self._stages[k].id, root), [])
                there = self._of_stage.get((self._stages[after].id, root), [])
                if here and there and root not in joined:
                    joined.add(root)
                    bare = leg == "cold" and not port.balanced
                    colour = COLOURS["screen" if bare else leg]
                    net = net_of[there[0]]
                    found.append(Conductor(here[-1], there[0], net, colour, length))
        return tuple(found)

    def _keyed(self) -> tuple[Conductor, ...]:
        """The transmit switch: its contact, and its own ground as far as the radio has one."""
        if not self._ends or not self._stages[-1].gear.transmits:
            return ()
        end = self._ends[-1]
        by_role = {c.role: c for c in reversed(end.connector.contacts)}
        line = by_role.get("transmit")
        ground = by_role.get("transmit-ground") or end.contact_of("cold")
        if line is None or ground is None:
            return ()
        return (
            Conductor("switch.1", end.ref(line.label), "transmit", COLOURS["transmit"], None),
            Conductor("switch.2", end.ref(ground.label), "transmit ground",
                      COLOURS["transmit ground"], None),
        )  # fmt: skip

    def _leftovers(self, keyed: set[str]) -> tuple[Leftover, ...]:
        """Contacts of the last connector that nothing uses."""
        if not self._ends:
            return ()
        end = self._ends[-1]
        used = {c for at in self._contacts.values() for c in at} | keyed
        return tuple(
            Leftover(end.ref(c.label), c.role, _DO.get(c.role, "leave free"))
            for c in end.connector.contacts
            if end.ref(c.label) not in used and not end.guessed
        )


_DO: dict[Role, str] = {
    "bias": "carries a supply that nothing uses: insulate it, it must not meet the screen",
    "transmit": "to the transmit switch",
    "transmit-ground": "to the other side of the transmit switch",
    "unknown": "nobody knows what it carries: insulate it and leave it free",
    "screen": "to the case of the plug",
}


def is_soldered(gear: Gear) -> bool:
    """Whether a piece is made of parts that stand in the build, and is no box with sockets."""
    return not gear.bought_whole and gear.role == "between"
