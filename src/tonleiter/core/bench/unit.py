"""A build on the bench: what was soldered, with generator, load and supply in place of its boxes.

The generator stands where the sound comes from, with the impedance of what will be there, behind a
capacitor, so that no bias flows into it; the load is the input that the build is for, with that
input's bias. A source that draws current is plugged in for one reading of its own. Ground is the
radio's side of the build.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from tonleiter.core.bench.transmit import KEYER, Transmit, transmit_of
from tonleiter.core.circuit.elements import (
    GROUND,
    Bipolar,
    Capacitor,
    Diode,
    Element,
    Jfet,
    ModulatedResistor,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.gear.net import BiasRail, OwnSupply, Winding
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.grounds import DAMP_OHM
from tonleiter.core.solve.splice import JOINT_OHM, Splice
from tonleiter.core.station.contacts import At
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.units.levels import volts_from_dbu
from tonleiter.core.units.preferred import nearest

# a soldered joint, by the contact and the wire that it joins
JOINT = "joint:"
# solder that joins two contacts of a plug on purpose
TIN, TIN_OHM = "tin:", 1e-3
GENERATOR, GENERATOR_R, LOAD = "bench:generator", "bench:generator_r", "bench:load"
BIAS = "bench:bias"
# the coil of a microphone that is measured by itself
COIL = "source:coil"
# keeps DC out of the generator: below 1 Hz behind any source that there is
GENERATOR_F = 1e-3
# a generator floats: what it leaks to the bench; a switch that is open
FLOATS_OHM = 1e9
LEAST_OHM, MOST_OHM, MOST_SOURCE_OHM = 10.0, 1e6, 10e3
LEAST_V, MOST_V, READABLE_V = 1e-3, 1.0, 10e-3


@dataclass(frozen=True)
class Point:
    """A lettered place to put a probe: its node, and what is there."""

    letter: str
    node: str
    says: str


@dataclass(frozen=True)
class Junction:
    """Two legs of a part that a diode tester is held to: red on ``p``, black on ``n``."""

    ref: str
    red: str
    black: str
    p: str
    n: str


@dataclass(frozen=True)
class Clip:
    """Where a battery goes: its source, what it is called, the nodes of its plus and minus."""

    source: str
    ref: str
    plus: str
    minus: str


@dataclass(frozen=True)
class Unit:
    """The circuit on the bench. ``elements`` are what can be wrong, ``bench`` what is put to it.

    ``plugged`` names those of the elements that are no part of the build: the input's bias and the
    source, ``source`` those that are there only while it is plugged in. ``contacts`` gives the node
    of each contact that a wire goes to, ``free`` of each other one, ``plugs`` the name of the
    device that a contact belongs to. ``transmit`` is the transmit line, ``coil`` the source's,
    ``clips`` where batteries go; the first of them is ``supply``.
    """

    elements: tuple[Element, ...]
    bench: tuple[Element, ...]
    points: tuple[Point, ...]
    junctions: tuple[Junction, ...]
    plugged: frozenset[str]
    source: frozenset[str]
    contacts: Mapping[At, str]
    free: Mapping[At, str]
    plugs: Mapping[At, str]
    supply: str
    tone_v: float
    inlet: tuple[str, str]
    outlet: tuple[str, str]
    transmit: Transmit | None = None
    coil: tuple[Resistor, ...] = ()
    clips: tuple[Clip, ...] = ()

    def unplugged(self, elements: Iterable[Element]) -> list[Element]:
        """Of these elements those that are there while the source is not plugged in."""
        return [e for e in elements if e.name not in self.source]

    @property
    def is_driven(self) -> bool:
        """Whether a port drives what keys it."""
        return self.transmit is not None and self.transmit.powered

    def sounding(self, elements: Iterable[Element]) -> list[Element]:
        """Of these elements those that the sound and its supply see: not what a port drives."""
        return [e for e in self.unplugged(elements) if not e.name.startswith(KEYER)]

    def battery(self) -> VoltageSource | None:
        """Its own supply."""
        return next(
            (e for e in self.elements if isinstance(e, VoltageSource) and e.name == self.supply),
            None,
        )


def unit_of(found: Verdict, at: int) -> Unit:
    """What is soldered in one part of a chain, on the bench. Raises IndexError."""
    build, solution = found.build, found.assessment.solution
    span = build.spans[at]
    stages = solution.compiled.stages
    left = build.splices[stages[span.first].id, "out"]
    right = build.splices[stages[span.last].id, "in"]
    kept = span.own_elements(solution.compiled)
    plug = _soldered(found, (left, right))
    kept += plug.joints
    pins = {**plug.contacts, **plug.free}
    lands = right.landed.get("cold") if build.wiring.switch_returns == "audio-ground" else None
    borrowed = None if lands is None else right.end.ref(lands)
    line = transmit_of(build, kept, pins, borrowed) if span is build.spans[-1] else None
    kept += line.elements if line is not None else ()
    common = plug.pins.get(("right", "screen"), plug.pins["right", "cold"])
    hot, cold = plug.pins["left", "hot"], plug.pins["left", "cold"]
    z = solution.impedances[span.first]
    source_ohm = nearest(min(max(z.source_ohm, LEAST_OHM), MOST_SOURCE_OHM), "E12")
    rows = found.assessment.rows
    tone = volts_from_dbu(rows[span.first].speech_dbu)
    # so much that what comes out of a pad can still be read
    lost_db = rows[span.first].speech_dbu - rows[span.plug_at - 1].speech_dbu
    tone = max(tone, LEAST_V, READABLE_V * 10 ** (lost_db / 20))
    # what a source of currents gives is little behind its own resistance
    tone = min(tone * (1 + source_ohm / max(z.load_ohm, LEAST_OHM)), MOST_V)
    load_ohm = min(max(solution.impedances[span.plug_at - 1].load_ohm, LEAST_OHM), MOST_OHM)
    out = plug.pins["right", "hot"], plug.pins["right", "cold"]
    load, bias = _load(found, span.last, out, load_ohm)
    source = _source(found, span.first, left, plug.contacts)
    # a capsule that hangs on its wires is always there: it is measured with the rest
    soldered = SHELLS[left.end.connector.shell].usual_for == "loose"
    plugged_in = () if soldered else source
    bench: list[Element] = [
        VoltageSource(GENERATOR, "bench:emf", cold, ac=tone),
        Resistor(GENERATOR_R, "bench:emf", "bench:tip", source_ohm, noisy=False),
        Capacitor("bench:generator_c", "bench:tip", hot, GENERATOR_F),
        Resistor("bench:floats", cold, common, FLOATS_OHM, noisy=False),
        *load,
    ]
    # what hangs on no part of the build still has a potential
    ends = dict.fromkeys((*plug.contacts.values(), *plug.free.values(), "bench:tip"))
    if line is not None:
        ends |= dict.fromkeys(line.nodes)
        if line.powered:
            ends |= {line.port_ground: None}
    bench += [
        Resistor(f"bench:damp {n}", n, common, DAMP_OHM, noisy=False) for n in ends if n != common
    ]
    if out[1] != common:
        bench.append(Resistor("bench:tie", out[1], common, 1e-3, noisy=False))
    kept = [_grounded(e, common) for e in kept]
    elements = (*kept, *(_grounded(e, common) for e in (*bias, *source)))
    coil = _coil(stages[span.first], elements) if at == 0 else None
    if coil is not None and coil not in elements:
        elements = (*elements, coil)
        bench.append(Resistor("bench:damp coil", coil.n, GROUND, DAMP_OHM, noisy=False))
    marks = [m for s in span.between(stages) for m in s.marks if isinstance(m, OwnSupply)]
    clips = tuple(_clips(found, elements, [m.source for m in marks]))
    supply = clips[0].source if clips else ""
    ground = {n: GROUND if n == common else n for n in (*plug.contacts.values(), hot, cold, *out)}
    if line is not None:
        nodes = tuple(GROUND if n == common else n for n in line.nodes)
        line = replace(
            line,
            nodes=(nodes[0], nodes[1]),
            elements=tuple(_grounded(e, common) for e in line.elements),
        )
    return Unit(
        elements=elements,
        bench=tuple(_grounded(e, common) for e in bench),
        points=_points(found, at, kept, right.wires.get("screen", right.wires["cold"])),
        junctions=tuple(_junctions(found, elements)),
        # what stands in the radio behind its bias contact is no part of the build
        plugged=frozenset(e.name for e in (*bias, *plugged_in))
        | {f"{s.id}:{x}" for s in stages if s.gear.fed_at for x in ("supply", "contact_r")},
        source=frozenset(e.name for e in plugged_in),
        contacts={ref: ground[node] for ref, node in plug.contacts.items()},
        free=plug.free,
        plugs=plug.names,
        supply=supply,
        tone_v=tone,
        inlet=(ground[hot], ground[cold]),
        outlet=(ground[out[0]], ground[out[1]]),
        transmit=line,
        coil=(coil,) if coil is not None else (),
        clips=clips,
    )


@dataclass(frozen=True)
class _Plugs:
    """Both connectors: joints, contacts that wires go to, free ones, whose they are."""

    joints: tuple[Element, ...]
    contacts: Mapping[At, str]
    free: Mapping[At, str]
    names: Mapping[At, str]
    pins: Mapping[tuple[str, str], str]


def _soldered(found: Verdict, splices: tuple[Splice, Splice]) -> _Plugs:
    """Contacts apart from their wires by joints, and joined to each other where hands did so."""
    joints: list[Element] = []
    contacts: dict[At, str] = {}
    free: dict[At, str] = {}
    names: dict[At, str] = {}
    pins: dict[tuple[str, str], str] = {}
    for side, splice in zip(("left", "right"), splices, strict=True):
        end = splice.end
        for leg, label in splice.landed.items():
            wire = splice.wires[leg]
            if label is None:
                pins[side, leg] = wire
                continue
            ref = end.ref(label)
            pins[side, leg] = contacts.setdefault(ref, f"pin:{ref}")
            joints.append(
                Resistor(f"{JOINT}{ref}:{leg}", f"pin:{ref}", wire, JOINT_OHM, noisy=False)
            )
        for spot in SHELLS[end.connector.shell].spots:
            ref = end.ref(spot.label)
            names[ref] = end.name
            if ref not in contacts:
                free[ref] = f"pin:{ref}"
        for bridge in found.build.wiring.bridges:
            if bridge.end == end.id:
                one, other = (f"pin:{end.ref(c)}" for c in bridge.contacts)
                joints.append(Resistor(f"{TIN}{one}:{other}", one, other, TIN_OHM, noisy=False))
    return _Plugs(tuple(joints), contacts, free, names, pins)


def _source(
    found: Verdict, first: int, left: Splice, contacts: Mapping[At, str]
) -> tuple[Element, ...]:
    """The source itself, at the contacts it is plugged or soldered to.

    What is only plugged in counts where it draws current from the build.
    """
    compiled = found.assessment.solution.compiled
    stage = compiled.stages[first]
    own = [compiled.circuit.elements[k] for k in sorted(stage.elements)]
    own = [e for e in own if e.name.partition(":")[0] == stage.id]
    hangs = SHELLS[left.end.connector.shell].usual_for == "loose"
    if not hangs and not any(isinstance(e, Jfet | Bipolar | ModulatedResistor) for e in own):
        return ()
    nodes = {n for e in own for n in nodes_of(e)}
    plugs = [
        Resistor(
            f"plugged:{label}",
            left.nodes[label],
            contacts[left.end.ref(label)],
            JOINT_OHM,
            noisy=False,
        )
        for label in dict.fromkeys(left.landed.values())
        if label is not None and left.nodes.get(label) in nodes
    ]
    # what the chain's circuit has around it: here it is quiet
    quiet = [
        Resistor(f"quiet:{n}", n, GROUND, 1.0, noisy=False)
        for n in sorted(nodes)
        if n != GROUND and ":" not in n
    ]
    return (*own, *plugs, *quiet) if plugs else ()


def _clips(found: Verdict, elements: Sequence[Element], sources: Sequence[str]) -> Iterator[Clip]:
    """Every battery of the part."""
    named = {e.name: e for e in elements}
    refs = {n: found.build.refs.get(i.place, "") for i in found.build.items for n in i.elements}
    for source in sources:
        battery, inside = named.get(source), named.get(f"{source}_inside")
        if isinstance(battery, VoltageSource):
            plus = inside.n if isinstance(inside, Resistor) else battery.p
            yield Clip(source, refs.get(source, ""), plus, battery.n)


def _coil(stage: PlacedStage, elements: Sequence[Element]) -> Resistor | None:
    """The source's coil: as it hangs on the build, or by itself at the plug of the microphone."""
    name = next((m.element for m in stage.marks if isinstance(m, Winding)), None)
    if name is None:
        return None
    here = next((e for e in elements if e.name == name), None)
    if here is None:
        here = next((e for e in stage.net().elements if e.name == name), None)
        if isinstance(here, Resistor):
            return replace(here, name=COIL, p=f"{COIL}:hot", n=f"{COIL}:cold", noisy=False)
    return here if isinstance(here, Resistor) else None


def _junctions(found: Verdict, elements: tuple[Element, ...]) -> Iterator[Junction]:
    """Every junction of the build's own parts, in both directions."""
    own = {e.name: e for e in elements}
    for item in found.build.items:
        for name in sorted(item.elements & own.keys()):
            ref = found.build.refs.get(item.place, "")
            pairs: tuple[tuple[str, str, str, str], ...]
            match own[name]:
                # what sits in a package with others has no base to hold a tip to
                case Bipolar(collector=c, base=b, emitter=e) if len(item.elements) == 1:
                    pairs = (("B", b, "E", e), ("B", b, "C", c))
                case Jfet(gate=g, source=s):
                    pairs = (("G", g, "S", s),)
                case Diode(anode=a, cathode=k):
                    pairs = (("A", a, "K", k),)
                case _:
                    continue
            for one, p, other, n in pairs:
                yield Junction(ref, one, other, p, n)
                yield Junction(ref, other, one, n, p)


def _load(
    found: Verdict, last: int, out: tuple[str, str], ohm: float
) -> tuple[list[Element], list[Element]]:
    """The input's impedance, and its bias where it has one, as its own resistor gives it."""
    stage = found.assessment.solution.compiled.stages[last]
    circuit = found.assessment.solution.compiled.circuit.elements
    rail = next((m for m in stage.marks if isinstance(m, BiasRail) and m.open_v > 0), None)
    if rail is None:
        return [Resistor(LOAD, *out, ohm, noisy=False)], []
    feed = next(e for e in circuit if e.name == rail.resistor)
    assert isinstance(feed, Resistor)
    rest = 1 / max(1 / ohm - 1 / feed.ohm, 1e-9)
    load: list[Element] = [
        Capacitor("bench:load_c", out[0], "bench:in", 100e-6),
        Resistor(LOAD, "bench:in", out[1], rest, noisy=False),
    ]
    return load, [
        VoltageSource(BIAS, "bench:rail", out[1], dc=rail.open_v),
        Resistor("bench:bias_r", "bench:rail", out[0], feed.ohm, noisy=False),
    ]


def _grounded(element: Element, common: str) -> Element:
    """The element with the common node as the bench's ground."""
    fields = element.__dataclass_fields__
    moved = {f: GROUND for f in fields if f != "name" and getattr(element, f) == common}
    return replace(element, **moved) if moved else element  # type: ignore[arg-type]


def _points(
    found: Verdict, at: int, elements: Sequence[Element], ground_wire: str
) -> tuple[Point, ...]:
    """Every net of the part but the common one, in the order of the build."""
    build = found.build
    nodes = {n for e in elements for n in nodes_of(e)} - {GROUND}
    node_of: dict[str, str] = {}
    for node in sorted(nodes):
        name = build.net_at.get(node)
        if name is not None:
            node_of.setdefault(name, node)
    ground = build.net_at.get(ground_wire)
    wires = build.wires_in(at % len(build.spans))
    order = dict.fromkeys(c.net for c in wires)
    made = []
    for net in build.nets:
        sounds = net.name in order and not net.keys
        if net.name in node_of and net.name != ground and sounds:
            made.append((net, node_of[net.name]))
    letters = "abcdefghijklmnopqrstuvwxyz"
    return tuple(
        Point(letters[k], node, _where(found, net.name, net.contacts))
        for k, (net, node) in enumerate(made[: len(letters)])
    )


def _where(found: Verdict, name: str, contacts: tuple[At, ...]) -> str:
    """A net by what a probe touches there."""
    said: list[str] = []
    for contact in contacts:
        end = found.build.end_of(contact)
        if end is None:
            said.append(contact)
            continue
        form = SHELLS[end.connector.shell].form
        said.append(f"{form} {contact.label}")
    return ", ".join(dict.fromkeys(said)) or name
