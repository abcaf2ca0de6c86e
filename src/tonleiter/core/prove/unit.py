"""A build on the bench: what was soldered, with generator, load and supply in place of its boxes.

The generator stands where the sound comes from, with the impedance of what will be there; the load
is the input that the build is for, with that input's bias. Ground is the radio's side of the build.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from tonleiter.core.circuit.elements import (
    GROUND,
    Capacitor,
    Element,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.gear.net import BiasRail, OwnSupply
from tonleiter.core.judge.wired import Wired
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.units.levels import volts_from_dbu
from tonleiter.core.units.preferred import nearest

# a soldered joint, by the contact and the wire that it joins
JOINT, JOINT_OHM = "joint:", 2e-3
GENERATOR, GENERATOR_R, LOAD = "bench:generator", "bench:generator_r", "bench:load"
# a generator floats: what it leaks to the bench; a switch that is open
FLOATS_OHM, DAMP_OHM = 1e9, 1e10
LEAST_OHM, MOST_OHM = 10.0, 1e6
LEAST_V, MOST_V, READABLE_V = 1e-3, 1.0, 10e-3


@dataclass(frozen=True)
class Point:
    """A lettered place to put a probe: its node, and what is there."""

    letter: str
    node: str
    says: str


@dataclass(frozen=True)
class Unit:
    """The circuit on the bench. ``elements`` are the build's own, ``bench`` what is put to it.

    ``contacts`` gives the node of each contact, ``plugs`` the name of the device it belongs to.
    """

    elements: tuple[Element, ...]
    bench: tuple[Element, ...]
    points: tuple[Point, ...]
    contacts: Mapping[str, str]
    plugs: Mapping[str, str]
    supply: str
    tone_v: float
    inlet: tuple[str, str]
    outlet: tuple[str, str]

    def battery(self) -> VoltageSource | None:
        """Its own supply."""
        return next((e for e in self.elements if isinstance(e, VoltageSource)
                     and e.name == self.supply), None)  # fmt: skip


def unit_of(found: Wired, at: int) -> Unit:
    """What is soldered in one part of a chain, on the bench. Raises IndexError."""
    build, solution = found.build, found.assessment.solution
    span = build.spans[at]
    stages = solution.compiled.stages
    left = build.splices[stages[span.first].id, "out"]
    right = build.splices[stages[span.last].id, "in"]
    kept = span.own_elements(solution.compiled)
    contacts: dict[str, str] = {}
    plugs: dict[str, str] = {}
    pins: dict[tuple[str, str], str] = {}
    for side, splice in (("left", left), ("right", right)):
        for leg, label in splice.landed.items():
            wire = splice.wires[leg]
            if label is None:
                pins[side, leg] = wire
                continue
            ref = splice.end.ref(label)
            pin = contacts.setdefault(ref, f"pin:{ref}")
            plugs[ref] = splice.end.name
            pins[side, leg] = pin
            kept.append(Resistor(f"{JOINT}{ref}:{leg}", pin, wire, JOINT_OHM, noisy=False))
    common = pins.get(("right", "screen"), pins["right", "cold"])
    hot, cold = pins["left", "hot"], pins["left", "cold"]
    z = solution.impedances[span.first]
    source_ohm = nearest(min(max(z.source_ohm, LEAST_OHM), MOST_OHM), "E12")
    rows = found.assessment.rows
    tone = volts_from_dbu(rows[span.first].speech_dbu)
    # so much that what comes out of a pad can still be read
    lost_db = rows[span.first].speech_dbu - rows[span.plug_at - 1].speech_dbu
    tone = min(max(tone, LEAST_V, READABLE_V * 10 ** (lost_db / 20)), MOST_V)
    load_ohm = min(max(solution.impedances[span.plug_at - 1].load_ohm, LEAST_OHM), MOST_OHM)
    out = pins["right", "hot"], pins["right", "cold"]
    bench: list[Element] = [
        VoltageSource(GENERATOR, "bench:emf", cold, ac=tone),
        Resistor(GENERATOR_R, "bench:emf", hot, source_ohm, noisy=False),
        Resistor("bench:floats", cold, common, FLOATS_OHM, noisy=False),
        *_load(found, span.last, out, load_ohm),
    ]
    # what hangs on no part of the build still has a potential
    bench += [Resistor(f"bench:damp {n}", n, common, DAMP_OHM, noisy=False)
              for n in dict.fromkeys(contacts.values()) if n != common]  # fmt: skip
    if out[1] != common:
        bench.append(Resistor("bench:tie", out[1], common, 1e-3, noisy=False))
    elements = tuple(_grounded(e, common) for e in kept)
    supply = next(
        (m.source for s in span.between(stages) for m in s.marks if isinstance(m, OwnSupply)), ""
    )
    ground = {n: GROUND if n == common else n for n in
              (*contacts.values(), hot, cold, *out)}  # fmt: skip
    return Unit(
        elements=elements,
        bench=tuple(_grounded(e, common) for e in bench),
        points=_points(found, at, elements, right.wires.get("screen", right.wires["cold"])),
        contacts={ref: ground[node] for ref, node in contacts.items()},
        plugs=plugs,
        supply=supply,
        tone_v=tone,
        inlet=(ground[hot], ground[cold]),
        outlet=(ground[out[0]], ground[out[1]]),
    )


def _load(found: Wired, last: int, out: tuple[str, str], ohm: float) -> list[Element]:
    """The input's impedance, and its bias where it has one, as its own resistor gives it."""
    stage = found.assessment.solution.compiled.stages[last]
    circuit = found.assessment.solution.compiled.circuit.elements
    rail = next((m for m in stage.marks if isinstance(m, BiasRail) and m.open_v > 0), None)
    if rail is None:
        return [Resistor(LOAD, *out, ohm, noisy=False)]
    feed = next(e for e in circuit if e.name == rail.resistor)
    assert isinstance(feed, Resistor)
    rest = 1 / max(1 / ohm - 1 / feed.ohm, 1e-9)
    return [
        VoltageSource("bench:bias", "bench:rail", out[1], dc=rail.open_v),
        Resistor("bench:bias_r", "bench:rail", out[0], feed.ohm, noisy=False),
        Capacitor("bench:load_c", out[0], "bench:in", 100e-6),
        Resistor(LOAD, "bench:in", out[1], rest, noisy=False),
    ]


def _grounded(element: Element, common: str) -> Element:
    """The element with the common node as the bench's ground."""
    fields = element.__dataclass_fields__
    moved = {f: GROUND for f in fields if f != "name" and getattr(element, f) == common}
    return replace(element, **moved) if moved else element  # type: ignore[arg-type]


def _points(
    found: Wired, at: int, elements: tuple[Element, ...], ground_wire: str
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
        sounds = net.name in order and not net.name.startswith("transmit")
        if net.name in node_of and net.name != ground and sounds:
            made.append((net, node_of[net.name]))
    letters = "abcdefghijklmnopqrstuvwxyz"
    return tuple(
        Point(letters[k], node, _where(found, net.name, net.contacts))
        for k, (net, node) in enumerate(made[: len(letters)])
    )


def _where(found: Wired, name: str, contacts: tuple[str, ...]) -> str:
    """A net by what a probe touches there."""
    ends = {e.id: e for e in found.build.ends}
    said = []
    for contact in contacts:
        end = next((e for i, e in ends.items() if contact.startswith(f"{i}.")), None)
        if end is None:
            said.append(contact)
            continue
        form = SHELLS[end.connector.shell].title.partition(",")[0]
        said.append(f"{form} {contact[len(end.id) + 1 :]}")
    return ", ".join(dict.fromkeys(said)) or name
