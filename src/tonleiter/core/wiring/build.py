"""A build: what is joined to what, contact by contact, derived from a chain solved at its contacts.

Nets are the nodes of the very circuit that was solved; the conductors of a lead, the joints in its
plugs and the tie in one are one net, since they are one piece of metal to a builder.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

from tonleiter.core.circuit.elements import Element, Resistor
from tonleiter.core.circuit.joined import Joined
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import TIE_OHM
from tonleiter.core.gear.parts import Part
from tonleiter.core.gear.shopping import Item, items_of, numbered
from tonleiter.core.solve.compiled import CompiledChain, Half, PlacedStage
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.solve.splice import SWITCH_WIRE_OHM, Splice
from tonleiter.core.station.contacts import At
from tonleiter.core.station.devices import Role
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import End, has_plugs, plug_place
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.station.transmit import way_of
from tonleiter.core.station.wiring import Wiring
from tonleiter.core.wiring.keying import Keying, keying_of
from tonleiter.core.wiring.wants import wanted_parts

# a conductor's colour says its leg, as a word too
COLOURS = {
    "hot": "white",
    "cold": "yellow",
    "screen": "bare braid",
    "transmit": "red",
    "transmit-ground": "black",
}
LEG_WORDS = {"transmit-ground": "transmit ground"}
# elements of a lead that are its conductors, and joints in plugs
_CONDUCTORS = ("core", "cold_core", "screen")
_JOINTS = ("in joint", "out joint", "in bridge", "out bridge", "in return")
SWITCH = "switch"


@dataclass(frozen=True)
class Net:
    """Contacts and pins that are one conductor; DC in volts, speech in dBu on a hot one."""

    name: str
    contacts: tuple[At, ...]
    dc_v: float
    speech_dbu: float | None
    node: str = ""
    keys: bool = False
    """Whether it is the transmit line or its ground."""


@dataclass(frozen=True)
class Conductor:
    """A wire from contact to contact; an end that is None is cut back and ends in air.

    ``key`` is what the station calls it, ``leg`` what it carries; a link inside a plug or a piece
    has none of its own. ``span`` is the part of the chain in which it lies, ``inside`` whether it
    runs between pins of one piece, ``near`` and ``far`` whether it belongs to the left or the right
    plug of its part.
    """

    start: At | None
    end: At | None
    net: str
    colour: str
    length_m: float | None
    key: str = ""
    leg: str = ""
    span: int = 0
    inside: bool = False
    near: bool = False
    far: bool = False

    @property
    def ends(self) -> tuple[At, ...]:
        """Where it is soldered: the start first; once where both ends are one contact."""
        return tuple(dict.fromkeys(at for at in (self.start, self.end) if at is not None))

    @property
    def of_switch(self) -> bool:
        """Whether it is a wire of the transmit switch."""
        return self.key.startswith(f"{SWITCH}:")

    def label_at(self, thing: str) -> str | None:
        """The contact that it is soldered to at a connector; None where it does not end there."""
        return next((at.label for at in reversed(self.ends) if at.thing == thing), None)


@dataclass(frozen=True)
class Leftover:
    """A contact of an entered connector that nothing uses, and what to do with it."""

    contact: At
    role: Role
    do: str
    insulated: bool = False


@dataclass(frozen=True)
class Span:
    """What is wired between two boxes: their connectors, and their places in the chain.

    ``plug_at`` is the place of what stands first behind the right connector: a piece that was built
    into the box, or the box itself.
    """

    left: End
    right: End
    first: int
    last: int
    plug_at: int

    def between(self, stages: Sequence[PlacedStage]) -> tuple[PlacedStage, ...]:
        """Of the chain's stages those between the two connectors."""
        return tuple(stages[self.first + 1 : self.plug_at])

    def own_elements(self, compiled: CompiledChain) -> list[Element]:
        """Elements of the circuit that are the pieces' between the connectors, not their joints."""
        inside = self.between(compiled.stages)
        own = {s.id for s in inside}
        elements = compiled.circuit.elements
        return [
            elements[k]
            for s in inside
            for k in sorted(s.elements)
            if elements[k].name.partition(":")[0] in own
        ]


@dataclass(frozen=True)
class Build:
    """Everything to solder for a chain, and what stays free."""

    ends: tuple[End, ...]
    nets: tuple[Net, ...]
    conductors: tuple[Conductor, ...]
    parts: tuple[Part, ...]
    leftovers: tuple[Leftover, ...]
    unknown: tuple[str, ...] = ()
    spans: tuple[Span, ...] = ()
    wiring: Wiring = field(default_factory=Wiring)
    keying: Keying | None = None
    splices: Mapping[tuple[str, Half], Splice] = field(default_factory=dict)
    refs: Mapping[str, str] = field(default_factory=dict)
    items: tuple[Item, ...] = ()
    stale: tuple[str, ...] = ()
    cores: Mapping[str, int] = field(default_factory=dict)
    """How many cores each lead must have, by its piece."""
    net_at: Mapping[str, str] = field(default_factory=dict)
    """The net of each node of the circuit that is one."""

    def wires_in(self, span: int) -> tuple[Conductor, ...]:
        """The conductors of one part of the chain."""
        return tuple(c for c in self.conductors if c.span == span)

    def has_parts_in(self, span: int) -> bool:
        """Whether anything is soldered between the plugs of one part."""
        return any(self._is_pin(c) for c in self.wires_in(span))

    def _is_pin(self, wire: Conductor) -> bool:
        """Whether an end of a wire is a pin of a part."""
        named = set(self.refs.values())
        return any(x.thing in named for x in wire.ends)

    def joints_in(self, span: int) -> int:
        """How many joints are to be soldered in one part."""
        return len({x for c in self.wires_in(span) for x in c.ends})

    @property
    def joints(self) -> int:
        """How many joints are to be soldered."""
        return len({x for c in self.conductors for x in c.ends})

    def net_of(self, contact: str) -> Net | None:
        """The net of a contact or pin."""
        return next((n for n in self.nets if contact in n.contacts), None)

    def lettered(self, letter: str) -> frozenset[str]:
        """Names of the parts of one letter: all resistors, all transformers."""
        return frozenset(
            self.refs[i.place] for i in self.items if i.letter == letter and i.place in self.refs
        )

    def end_of(self, contact: At) -> End | None:
        """The connector that a contact is of; None for a pin of a part."""
        return next((e for e in self.ends if e.id == contact.thing), None)


def build_of(station: Station, solution: ChainSolution, speech_dbu: Iterable[float]) -> Build:
    """The build of a chain that was solved at its contacts.

    ``speech_dbu`` has the level at each stage's outlet. Raises ValueError for a chain that was
    compiled without its contacts.
    """
    if not solution.compiled.splices:
        raise ValueError("a build needs a chain that was compiled with its contacts")
    return _Maker(station, solution, list(speech_dbu)).build()


def is_soldered(gear: Gear) -> bool:
    """Whether a piece is made of parts that stand in the build, and is no box with sockets."""
    return not gear.bought_whole and gear.role == "between"


def is_new(gear: Gear) -> bool:
    """Whether a piece is still to be made: what sits in a radio as its maker built it is not."""
    return not gear.cut_into_radio or bool(gear.remarks())


class _Maker:
    def __init__(self, station: Station, solution: ChainSolution, speech_dbu: list[float]) -> None:
        self._station, self._solution = station, solution
        self._speech = speech_dbu
        compiled = solution.compiled
        self._stages = compiled.stages
        self._wiring = compiled.variant.wiring
        self._splices = compiled.splices
        self._plug_at = plug_place([s.gear for s in self._stages])
        self._boxes = [
            k
            for k, s in enumerate(self._stages)
            if has_plugs(s.gear) and (k < self._plug_at or k == len(self._stages) - 1)
        ]
        # a piece that was built into the radio stands behind its socket
        self._things = [
            k for k, s in enumerate(self._stages[: self._plug_at]) if not s.gear.lead
        ] + [len(self._stages) - 1]
        made = [s for s in self._stages if is_soldered(s.gear) and is_new(s.gear)]
        nets = {s.id: s.net() for s in made}
        self._items = tuple(i for s in made for i in items_of(s.gear, nets[s.id], solution.node_v))
        self._refs = numbered(self._items)
        self._joined = Joined[str]()
        self._join_conductors()
        self._contacts: dict[str, list[At]] = {}
        # the same by stage, as a builder meets them
        self._pins: dict[tuple[str, str], list[At]] = {}
        self._unknown: list[str] = []
        for stage in made:
            sheet = draw_stage(stage.gear, nets[stage.id], stage.inlet).named(self._refs)
            for symbol in sheet.symbols:
                for pin in symbol.pins:
                    sign = "+" if pin.name == symbol.plus else "−"
                    name = sign if symbol.plus else pin.name
                    self._put(stage.id, pin.node, At(symbol.ref, name))

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
                is_joint = part.startswith(_JOINTS) and element.ohm <= SWITCH_WIRE_OHM
                if is_wire or is_joint or (part == "tie" and element.ohm <= TIE_OHM):
                    self._joined.join(element.p, element.n)

    def _put(self, stage: str, node: str, contact: At) -> None:
        at = self._contacts.setdefault(self._find(node), [])
        if contact not in at:
            at.append(contact)
        self._pins.setdefault((stage, self._find(node)), []).append(contact)

    # --- the whole -------------------------------------------------------------------------------

    def build(self) -> Build:
        """Ends, pins of parts, nets, wires, leftovers."""
        spans = self._spans()
        ends = tuple(end for span in spans for end in (span.left, span.right))
        for splice in self._splices.values():
            self._land(splice)
        keying = self._keying()
        nets = self._named(keying)
        net_of = {contact: net.name for net in nets for contact in net.contacts}
        cores: dict[str, int] = {}
        wires = [*self._inside(spans, net_of)]
        for n, span in enumerate(spans):
            wires += self._between(n, span, net_of, cores)
        wires += self._keyed(keying, len(spans) - 1, net_of)
        if keying is not None and keying.way == "microphone" and spans:
            # the switch's wires run in every lead from the microphone to the radio
            own = sum(c.of_switch for c in wires)
            cores = {lead: count + own for lead, count in cores.items()}
        return Build(
            ends=ends,
            nets=nets,
            conductors=tuple(wires),
            parts=wanted_parts(
                self._items,
                self._refs,
                self._solution,
                spans,
                self._stages,
                self._wiring,
                keying,
                cores,
            ),
            leftovers=self._leftovers(ends),
            unknown=tuple(dict.fromkeys(self._unknown)),
            spans=spans,
            wiring=self._wiring,
            keying=keying,
            splices=self._splices,
            refs=self._refs,
            items=self._items,
            stale=self._stale(ends, wires),
            cores=cores,
            net_at=self._net_at(nets),
        )

    def _spans(self) -> tuple[Span, ...]:
        """From box to box; each has the connector that it is left by, and the one it ends in."""
        last = len(self._stages) - 1
        return tuple(
            Span(
                self._splices[self._stages[first].id, "out"].end,
                self._splices[self._stages[after].id, "in"].end,
                first,
                after,
                self._plug_at if after == last else after,
            )
            for first, after in pairwise(self._boxes)
        )

    def _land(self, splice: Splice) -> None:
        """The contacts that wires were soldered to."""
        for leg, label in splice.landed.items():
            if label is not None:
                at = self._contacts.setdefault(self._find(splice.wires[leg]), [])
                if splice.end.ref(label) not in at:
                    at.append(splice.end.ref(label))
            elif self._wiring.landing(splice.end.id, leg) is None and leg in ("hot", "cold"):
                self._unknown.append(f"{leg} of the {splice.end.name}")

    def _named(self, keying: Keying | None) -> tuple[Net, ...]:
        """Nets by what they carry: hot, cold or screen of a joint, or a node inside a stage."""
        names: dict[str, tuple[str, float | None]] = {}
        keys: set[str] = set()
        for k, stage in enumerate(self._stages[:-1]):
            after = "" if k == 0 else f" behind the {stage.gear.name}"
            splice = self._splices.get((stage.id, "out"))
            port = stage.outlet if splice is None else splice.port
            legs = [("hot", port.hot), ("cold", port.cold), ("screen", port.chassis)]
            for leg, node in legs:
                level = self._speech[k] if leg == "hot" else None
                names.setdefault(self._find(node), (f"{leg}{after}", level))
        radio = self._splices.get((self._stages[-1].id, "in"))
        if keying is not None and radio is not None:
            for leg in ("transmit", "transmit-ground"):
                if leg in radio.wires:
                    node = self._find(radio.wires[leg])
                    keys |= set() if node in names else {node}
                    names.setdefault(node, (LEG_WORDS.get(leg, leg), None))
        nets = []
        taken: dict[str, int] = {}
        for node, contacts in self._contacts.items():
            name, level = names.get(node, (f"inside, at {contacts[0]}", None))
            taken[name] = taken.get(name, 0) + 1
            if taken[name] > 1:
                name = f"{name}, {taken[name]}"
            nets.append(
                Net(name, tuple(contacts), self._volts(node), level, node, keys=node in keys)
            )
        return tuple(sorted(nets, key=lambda n: n.name))

    def _net_at(self, nets: tuple[Net, ...]) -> dict[str, str]:
        name_of = {self._find(n.node): n.name for n in nets}
        nodes = {
            node
            for s in self._stages
            for k in s.elements
            for f in ("p", "n")
            if (node := getattr(self._solution.compiled.circuit.elements[k], f, None)) is not None
        }
        return {n: name_of[self._find(n)] for n in nodes if self._find(n) in name_of}

    def _volts(self, node: str) -> float:
        """Against the radio's ground, where a meter's black lead is clipped."""
        ground = self._stages[-1].inlet.chassis
        return self._solution.op.volts(node, ground)

    # --- wires -----------------------------------------------------------------------------------

    def _inside(self, spans: tuple[Span, ...], net_of: Mapping[At, str]) -> list[Conductor]:
        """Between pins inside each piece."""
        place = {s.id: k for k, s in enumerate(self._stages)}
        part = {
            stage: next((n for n, s in enumerate(spans) if s.first < k < s.last), 0)
            for stage, k in place.items()
        }
        return [
            Conductor(start, end, net_of[start], "any", None, span=part[stage], inside=True)
            for (stage, _), contacts in self._pins.items()
            for start, end in pairwise(dict.fromkeys(contacts))
        ]

    def _between(
        self, n: int, span: Span, net_of: Mapping[At, str], cores: dict[str, int]
    ) -> list[Conductor]:
        """From thing to thing, leg by leg, over their lead; ``cores`` gets what each lead needs."""
        found: list[Conductor] = []
        # a leg that goes past a piece without touching it: where it came from
        past: dict[str, Conductor] = {}
        things = [k for k in self._things if span.first <= k <= span.last]
        for k, after in pairwise(things):
            until = self._plug_at if after == len(self._stages) - 1 else after
            leads = self._stages[k + 1 : until]
            over = self._over(n, k, after, leads, net_of, past)
            # one of the legs is the braid, which is no core
            carried = len({c.leg for c in over if c.key}) - 1
            cores |= {s.id: carried for s in leads}
            ends = {"near": k == span.first, "far": after == span.last}
            found += [replace(c, near=c.near or ends["near"], far=ends["far"]) for c in over]
        return found

    def _over(
        self,
        n: int,
        k: int,
        after: int,
        leads: tuple[PlacedStage, ...],
        net_of: Mapping[At, str],
        past: dict[str, Conductor],
    ) -> list[Conductor]:
        length = sum(s.gear.figure("length_m").value for s in leads) or None
        here, there = self._legs_out(k), self._legs_in(after)
        if leads:
            near, far = leads[0].inlet, leads[-1].outlet
            carried = {"hot": (near.hot, far.hot), "cold": (near.cold, far.cold)}
            if far.balanced:
                carried["screen"] = (near.chassis, far.chassis)
        else:
            carried = {leg: (node, node) for leg, node in here.items()}
        found: list[Conductor] = []
        braid = "screen" if "screen" in carried else "cold"
        for leg, (a, b) in carried.items():
            start, end = self._at(k, here, leg, a, -1), self._at(after, there, leg, b, 0)
            if leg == "screen" and not leads and self._find(a) == self._find(carried["cold"][0]):
                continue
            before = past.pop(leg, None)
            start = start or (before.start if before is not None else None)
            if start is None and end is None:
                continue
            colour = COLOURS["screen" if leg == braid and (leads or leg == "screen") else leg]
            piece = self._stages[k].id if before is None else before.key.rpartition(":")[0]
            long = length or (before.length_m if before is not None else None)
            made = self._wire(piece, leg, start, end, colour, long, n, net_of)
            if end is None and self._goes_on(after, b):
                past[leg] = replace(made, near=(before or made).near or k in self._boxes)
                continue
            if before is not None:
                made = replace(made, near=before.near)
            found.append(made)
        found += self._links(k, here, carried, n, net_of, near=True)
        found += self._links(after, there, carried, n, net_of, near=False)
        return [c for c in found if c.start != c.end]

    def _goes_on(self, after: int, node: str) -> bool:
        """Whether a conductor runs past a soldered piece and on behind it."""
        if (self._stages[after].id, "in") in self._splices:
            return False
        port = self._stages[after].outlet
        return self._find(node) in {self._find(x) for x in (port.hot, port.cold, port.chassis)}

    def _wire(
        self,
        piece: str,
        leg: str,
        start: At | None,
        end: At | None,
        colour: str,
        length: float | None,
        span: int,
        net_of: Mapping[At, str],
    ) -> Conductor:
        key = f"{piece}:{leg}"
        dress = self._wiring.dress(key)
        if dress is not None:
            colour = dress.colour or colour
            length = dress.length_m.value if dress.length_m is not None else length
        at = start or end
        net = "" if at is None else net_of.get(at, "")
        return Conductor(start, end, net, colour, length, key, leg, span)

    def _legs_out(self, k: int) -> dict[str, str]:
        splice = self._splices.get((self._stages[k].id, "out"))
        if splice is not None:
            return {leg: n for leg, n in splice.wires.items() if leg in COLOURS}
        port = self._stages[k].outlet
        return {"hot": port.hot, "cold": port.cold} | (
            {"screen": port.chassis} if port.balanced else {}
        )

    def _legs_in(self, after: int) -> dict[str, str]:
        splice = self._splices.get((self._stages[after].id, "in"))
        if splice is not None:
            return {x: n for x, n in splice.wires.items() if x in ("hot", "cold", "screen")}
        port = self._stages[after].inlet
        return {"hot": port.hot, "cold": port.cold} | (
            {"screen": port.chassis} if port.balanced else {}
        )

    def _at(self, k: int, legs: Mapping[str, str], leg: str, node: str, which: int) -> At | None:
        """The contact or pin of a thing that one end of a conductor is soldered to; None: air."""
        stage = self._stages[k]
        splice = self._splices.get((stage.id, "out" if which < 0 else "in"))
        if splice is not None:
            # of an unbalanced plug the cold contact takes the screen too
            label = splice.landed.get("cold" if leg == "screen" and leg not in legs else leg)
            return None if label is None else splice.end.ref(label)
        pins = self._pins.get((stage.id, self._find(node)), [])
        return pins[which] if pins else None

    def _links(
        self,
        k: int,
        legs: Mapping[str, str],
        carried: Mapping[str, tuple[str, str]],
        n: int,
        net_of: Mapping[At, str],
        near: bool,
    ) -> list[Conductor]:
        """Short wires in a plug: a contact that no conductor of the lead goes to by itself."""
        splice = self._splices.get((self._stages[k].id, "out" if near else "in"))
        if splice is None:
            return []
        found = []
        for leg in legs:
            label, cold = splice.landed.get(leg), splice.landed.get("cold")
            # without a lead one wire serves cold and screen, where both are one
            apart = leg not in carried or (
                leg == "screen"
                and carried[leg][0] == carried[leg][1]
                and self._find(carried[leg][0]) == self._find(carried["cold"][0])
            )
            if apart and label is not None and cold is not None and label != cold:
                start, end = splice.end.ref(label), splice.end.ref(cold)
                found.append(
                    Conductor(start, end, net_of.get(start, ""), "any", None, "", "link", n)
                )
        return found

    # --- the switch ------------------------------------------------------------------------------

    def _keying(self) -> Keying | None:
        first, last = self._stages[0].gear, self._stages[-1].gear
        way = way_of(self._wiring, first, last)
        splice = self._splices.get((last.id, "in"))
        if way is None or splice is None:
            return None
        line = splice.end.contact_of("transmit")
        stands = None if line is None else splice.stands.get(line.label)
        return keying_of(way, stands, self._wiring.serial_v.value)

    def _keyed(self, keying: Keying | None, span: int, net_of: Mapping[At, str]) -> list[Conductor]:
        """The wires of the transmit switch: its contact, and the ground that it was given."""
        splice = self._splices.get((self._stages[-1].id, "in"))
        if keying is None or splice is None or not keying.wired or "transmit" not in splice.wires:
            return []
        found = []
        for leg, mark in (("transmit", "1"), ("transmit-ground", "2")):
            label = splice.landed.get(leg)
            end = None if label is None else splice.end.ref(label)
            if leg not in splice.wires:
                end = self._borrowed()
            found.append(
                self._wire(SWITCH, leg, At(SWITCH, mark), end, COLOURS[leg], None, span, net_of)
            )
        return [c for c in found if c.end is not None]

    def _borrowed(self) -> At | None:
        """The contact or pin at the far end of the lead whose ground the switch borrows."""
        lead = self._stages[self._plug_at - 1]
        node = lead.inlet.cold if lead.gear.lead else self._stages[-1].inlet.cold
        found = self._contacts.get(self._find(node), [])
        return found[0] if found else None

    # --- what is left ----------------------------------------------------------------------------

    def _leftovers(self, ends: tuple[End, ...]) -> tuple[Leftover, ...]:
        """Contacts that nothing uses, of connectors that somebody entered."""
        used = {c for at in self._contacts.values() for c in at}
        return tuple(
            Leftover(
                end.ref(c.label),
                c.role,
                _DO.get(c.role, "leave free"),
                end.ref(c.label) in self._wiring.insulated,
            )
            for end in dict.fromkeys(ends)
            for c in end.connector.contacts
            if end.ref(c.label) not in used and not end.guessed
        )

    def _stale(self, ends: tuple[End, ...], wires: list[Conductor]) -> tuple[str, ...]:
        """Decisions by hand about an end or a wire that is not here any more."""
        known = {e.id: e for e in ends}
        keys = {c.key for c in wires}
        w = self._wiring
        gone = [
            f"{LEG_WORDS.get(x.leg, x.leg)} at {x.end}"
            for x in w.landings
            if x.end not in known
            or (x.contact is not None and not _has(known[x.end], x.contact, w))
        ]
        gone += [
            f"bridge of {' and '.join(b.contacts)} at {b.end}"
            for b in w.bridges
            if b.end not in known or not all(_has(known[b.end], c, w) for c in b.contacts)
        ]
        gone += [f"plug at {p.end}" for p in w.plugs if p.end not in known]
        gone += [f"colour of {d.wire}" for d in w.dresses if d.wire not in keys]
        return tuple(gone)


def _has(end: End, label: str, wiring: Wiring) -> bool:
    shell = wiring.plug(end.id) or end.connector.shell
    return label in SHELLS[shell].labels or any(c.label == label for c in end.connector.contacts)


_DO: dict[Role, str] = {
    "bias": "carries a supply that nothing uses: insulate it, it must not meet the screen",
    "transmit": "the transmit line: no switch of this build uses it; insulate it",
    "transmit-ground": "leave free: the switch has no wire here",
    "up-down": "leave free",
    "squelch": "leave free",
    "audio-out": "leave free; it gives receive audio",
    "unknown": "nobody knows what it carries: insulate it and leave it free",
    "screen": "to the case of the plug",
}
