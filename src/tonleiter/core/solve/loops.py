"""Which way the currents go that hum: loops through chassis, screens, leads and earths.

Every current that hums is followed through the solved network from where it enters to where it goes
back, by way of the conductor of the chain in which it does most harm. Currents on one way are one
loop; its share is that of the hum's power that they leave at the radio.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from tonleiter.core.circuit.ac import Complexes, Floats, Linear
from tonleiter.core.circuit.elements import GROUND, Capacitor, Element, Inductor, Resistor
from tonleiter.core.circuit.joined import Joined
from tonleiter.core.circuit.readings import Readings, read
from tonleiter.core.gear.net import Between
from tonleiter.core.solve.compiled import CompiledChain
from tonleiter.core.solve.hum import JOINS_BELOW_OHM, Injection, injections, power_of

EdgeKind = Literal["earth", "link", "stage", "joint"]
# what belongs to the chain itself: its pieces, and the contacts that they meet at
_OF_CHAIN: tuple[EdgeKind, ...] = ("stage", "joint")


@dataclass(frozen=True)
class Edge:
    """What lies between two nodes of the grounds: a way to earth, a lead, a stage, a joint.

    ``owner`` is the id of its box, link or stage (of a joint: the one behind it); a galvanic one is
    metal all through.
    """

    kind: EdgeKind
    owner: str
    p: str
    n: str
    elements: tuple[Element, ...]

    @property
    def galvanic(self) -> bool:
        """Whether it is a conductor, and no capacitance or insulation."""
        return any(
            isinstance(e, Inductor) or (isinstance(e, Resistor) and e.ohm < JOINS_BELOW_OHM)
            for e in self.elements
        )

    def admittance(self, f_hz: Floats) -> Complexes:
        """In siemens at each frequency, shape (frequencies,)."""
        omega = 2 * np.pi * f_hz
        total = np.zeros(f_hz.size, complex)
        for element in self.elements:
            match element:
                case Resistor(ohm=ohm):
                    total += 1 / ohm
                case Capacitor(farad=farad):
                    total += 1j * omega * farad
                case Inductor(henry=henry):
                    total += 1 / (1j * omega * henry)
        return total

    def other(self, node: str) -> str:
        """The end that is not ``node``."""
        return self.n if node == self.p else self.p


@dataclass(frozen=True)
class HumLoop:
    """A way that currents take, as edges in their order from earth (or its EMF) and back.

    ``nodes`` lie between them, one fewer than edges and earth at both ends, or as many where the
    way does not touch earth. ``share`` is its part of the hum's power at the end, ``hum_v`` what it
    leaves there, ``current_a`` what flows in it, both RMS over all frequencies.
    """

    edges: tuple[Edge, ...]
    nodes: tuple[str, ...]
    share: float
    hum_v: float
    current_a: float

    @property
    def galvanic(self) -> bool:
        """Whether it is closed by metal, as opposed to leakage."""
        return all(edge.galvanic for edge in self.edges)

    def owners(self, kind: EdgeKind) -> tuple[str, ...]:
        """Ids of its parts of a kind, in order."""
        return tuple(e.owner for e in self.edges if e.kind == kind)


def ground_edges(compiled: CompiledChain) -> tuple[Edge, ...]:
    """The network of chassis, screens, leads and earths in a chain's circuit."""
    nodes = _nodes(compiled)
    owner_of = {k: s.id for s in (*compiled.stages, *compiled.beside) for k in s.elements}
    joints = {e.name for s in compiled.stages for e in s.joints}
    box_at = {node: box for box, node in compiled.grounds.chassis.items()}
    found: dict[tuple[EdgeKind, str, frozenset[str]], list[Element]] = {}
    for k, element in enumerate(compiled.circuit.elements):
        if not isinstance(element, Resistor | Capacitor | Inductor):
            continue
        p, n = element.p, element.n
        if p == n or p not in nodes or n not in nodes:
            continue
        kind: EdgeKind
        if GROUND in (p, n):
            chassis = n if p == GROUND else p
            kind, owner = "earth", box_at.get(chassis, owner_of.get(k, chassis))
        elif element.name.startswith("&"):
            kind, owner = "link", element.name[1:].partition(":")[0]
        else:
            kind = "joint" if element.name in joints else "stage"
            owner = owner_of.get(k, "")
        found.setdefault((kind, owner, frozenset((p, n))), []).append(element)
    return tuple(
        Edge(kind, owner, made[0].p, made[0].n, tuple(made))  # type: ignore[union-attr]
        for (kind, owner, _), made in found.items()
    )


def _nodes(compiled: CompiledChain) -> set[str]:
    placed = (*compiled.stages, *compiled.beside)
    nodes = {port.chassis for s in placed for port in (s.inlet, s.outlet)}
    nodes |= {m.node for s in placed for m in s.marks if isinstance(m, Between)}
    nodes |= {s.chassis for s in placed if s.chassis is not None}
    nodes |= {node for lead in compiled.grounds.leads for node in (lead.p, lead.n)}
    nodes |= set(compiled.grounds.chassis.values()) | {GROUND}
    return nodes | _behind_joints(compiled, nodes)


def _behind_joints(compiled: CompiledChain, nodes: set[str]) -> set[str]:
    """Contacts that soldered joints put between the nodes of the grounds."""
    joints = [e for s in compiled.stages for e in s.joints if isinstance(e, Resistor)]
    known, grown = set(nodes), True
    while grown:
        new = {e.n for e in joints if e.p in known} | {e.p for e in joints if e.n in known}
        grown = bool(new - known)
        known |= new
    return known


def closes_a_loop(compiled: CompiledChain) -> bool:
    """Whether a conductor of the chain closes a loop of metal with earths and leads."""
    edges = [e for e in ground_edges(compiled) if e.galvanic]
    joined = Joined[str]()
    for edge in edges:
        if edge.kind not in _OF_CHAIN:
            joined.join(edge.p, edge.n)
    for edge in edges:
        if edge.kind in _OF_CHAIN:
            if joined.are(edge.p, edge.n):
                return True
            joined.join(edge.p, edge.n)
    return False


def hum_loops(compiled: CompiledChain, linear: Linear) -> tuple[HumLoop, ...]:
    """The ways of all currents that hum, what leaves most first."""
    edges = ground_edges(compiled)
    nodes = sorted({node for e in edges for node in (e.p, e.n)} - {GROUND})
    last = compiled.stages[-1].outlet
    f_hz, currents = injections(compiled)
    readings = read(linear, f_hz, [(last.hot, last.cold), *((node, GROUND) for node in nodes)])
    network = _Network(edges, nodes, f_hz, readings)
    known = {*nodes, GROUND}
    total = 0.0
    ways: dict[frozenset[int], list[tuple[_Way, float]]] = {}
    for at in currents:
        power = float(power_of(readings, at)[0])
        total += power
        if at.own or at.p not in known or at.n not in known:
            continue
        way = network.way_of(at)
        if way is not None:
            ways.setdefault(frozenset(way.edges), []).append((way, power))
    loops = [
        HumLoop(
            edges=tuple(edges[k] for k in members[0][0].edges),
            nodes=members[0][0].nodes,
            share=sum(p for _, p in members) / total if total > 0 else 0.0,
            hum_v=sum(p for _, p in members) ** 0.5,
            current_a=sum(w.current_a**2 for w, _ in members) ** 0.5,
        )
        for members in ways.values()
    ]
    return tuple(sorted(loops, key=lambda loop: -loop.share))


@dataclass(frozen=True)
class _Way:
    """Edges by number, from the EMF's own on; the nodes between; amperes in the harmful one."""

    edges: tuple[int, ...]
    nodes: tuple[str, ...]
    current_a: float


class _Network:
    """The grounds with what flows in them."""

    def __init__(
        self, edges: tuple[Edge, ...], nodes: list[str], f_hz: Floats, readings: Readings
    ) -> None:
        self._edges, self._readings = edges, readings
        self._column = {node: k + 1 for k, node in enumerate(nodes)}
        self._y = np.array([e.admittance(f_hz) for e in edges]).reshape(len(edges), f_hz.size)
        # what a volt in series with each edge leaves at the end
        self._harm = np.array(
            [np.abs(readings.from_current(e.p, e.n)[:, 0]) for e in edges]
        ).reshape(len(edges), f_hz.size)
        self._at: dict[str, list[int]] = {}
        for k, edge in enumerate(edges):
            for node in (edge.p, edge.n):
                self._at.setdefault(node, []).append(k)

    def way_of(self, at: Injection) -> _Way | None:
        """The way of one current; None where it finds none through the grounds."""
        own = self._own(at)
        if own is None:
            return None
        volts = self._readings.from_current(at.p, at.n) * at.amps[:, None]
        f = int(np.argmax(np.abs(volts[:, 0])))
        flows = self._flows(volts)
        source = at.amps[f] - flows[own, f] * (1 if self._edges[own].p == at.p else -1)
        if abs(source) == 0:
            return None
        # along the way of the source's current; what flows across it in phase is no part of it
        along = np.real(flows[:, f] * np.conj(source)) / abs(source)
        along[own] = 0.0
        in_chain = [k for k, e in enumerate(self._edges) if e.kind in _OF_CHAIN and k != own]
        harm = {k: abs(flows[k, f]) * float(self._harm[k, f]) for k in in_chain}
        key = max(harm, key=lambda k: harm[k], default=None)
        path = self._through(at, key, along, own)
        if path is None:
            path = self._widest(at.p, at.n, along, {own}, oriented=False)
        if path is None:
            return None
        worst = key if key is not None and key in path else own
        amps = flows[worst] if worst != own else at.amps - flows[own]
        return _Way(
            (own, *path), self._passed(at.p, path), float(np.sqrt((np.abs(amps) ** 2).sum()))
        )

    def _own(self, at: Injection) -> int | None:
        """The edge that a current's EMF works in."""
        ends = {at.p, at.n}
        own = (k for k in self._at.get(at.p, ()) if {self._edges[k].p, self._edges[k].n} == ends)
        return next(own, None)

    def _flows(self, volts: Complexes) -> Complexes:
        """Current from p to n in each edge, shape (edges, frequencies)."""

        def at(node: str) -> Complexes | float:
            return 0.0 if node == GROUND else volts[:, self._column[node]]

        return np.array(
            [(at(e.p) - at(e.n)) * y for e, y in zip(self._edges, self._y, strict=True)]
        )

    def _through(
        self, at: Injection, key: int | None, along: Floats, own: int
    ) -> tuple[int, ...] | None:
        """The widest way that passes the edge in which the current does most harm."""
        if key is None:
            return None
        edge = self._edges[key]
        first, then = (edge.p, edge.n) if along[key] >= 0 else (edge.n, edge.p)
        before = self._widest(at.p, first, along, {own, key})
        if before is None:
            return None
        used = set(self._passed(at.p, before)) - {first}
        after = self._widest(then, at.n, along, {own, key, *before}, avoid=used | {first})
        return None if after is None else (*before, key, *after)

    def _widest(
        self,
        start: str,
        end: str,
        along: Floats,
        closed: set[int],
        oriented: bool = True,
        avoid: Iterable[str] = (),
    ) -> tuple[int, ...] | None:
        """The way whose least current is the largest, downstream only if ``oriented``."""
        avoid = set(avoid)
        waiting: list[tuple[float, int, str, tuple[int, ...]]] = [(-np.inf, 0, start, ())]
        seen: set[str] = set()
        count = 0
        flow: Callable[[int, str], float]
        if oriented:

            def flow(k: int, node: str) -> float:
                return float(along[k] if self._edges[k].p == node else -along[k])
        else:

            def flow(k: int, node: str) -> float:
                return abs(float(along[k])) + 1e-30

        while waiting:
            width, _, node, path = heapq.heappop(waiting)
            if node == end:
                return path
            if node in seen:
                continue
            seen.add(node)
            for k in self._at.get(node, ()):
                other = self._edges[k].other(node)
                through = flow(k, node)
                if k in closed or other in seen or other in avoid or through <= 0:
                    continue
                count += 1
                heapq.heappush(waiting, (max(width, -through), count, other, (*path, k)))
        return None

    def _passed(self, start: str, path: tuple[int, ...]) -> tuple[str, ...]:
        nodes = [start]
        for k in path:
            nodes.append(self._edges[k].other(nodes[-1]))
        return tuple(nodes)
