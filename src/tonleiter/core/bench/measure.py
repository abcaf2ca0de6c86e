"""All readings of a unit at once: ohms and junctions without power, DC, currents, tones."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.clipped import tone_left
from tonleiter.core.bench.junctions import tested
from tonleiter.core.bench.ohms import BEEPS_BELOW_OHM, resistances, unpowered
from tonleiter.core.bench.reading import RAIL, REST, SUPPLY, TONES_HZ, Reading, diode_id, nth
from tonleiter.core.bench.transmit import KEYER, PORT_OHM, Transmit, closes, driven
from tonleiter.core.bench.unit import COIL, GENERATOR, Unit
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import GROUND, Circuit, CircuitError, Element
from tonleiter.core.circuit.system import System
from tonleiter.core.station.contacts import by_thing

# a voltmeter's input, which loads what it is held to; for AC a capacitance lies beside it
METER_OHM, METER_F = 10e6, 100e-12
Floats = NDArray[np.float64]
UNREADABLE = math.nan


def measure(
    unit: Unit,
    elements: Sequence[Element],
    readings: Sequence[Reading],
    near: AtRest | None = None,
) -> Floats:
    """What the bench shows for these elements in the unit's place; shape (readings,).

    Ohms that are open are infinite; NaN where a circuit has no solution at all. ``near`` is a
    similar unit, from whose junction volts the search begins.
    """
    near = near or AtRest()
    values = dict[str, float]()
    build = unit.unplugged(elements)
    try:
        system = System(Circuit((*build, *unit.bench)))
    except CircuitError:
        return np.full(len(readings), UNREADABLE)
    values |= _dead(unit, system, unpowered(build, unit.plugged), near.tested)
    rest = next((r for r in readings if r.id == REST), None)
    if rest is not None:
        # a beeper tells no more than that
        least = min((values.get(i, math.inf) for i in rest.of), default=math.inf)
        values[REST] = least if least < BEEPS_BELOW_OHM else math.inf
    values |= _of_line(unit, system, build, near.line)
    if unit.is_driven:
        system = System(Circuit((*unit.sounding(elements), *unit.bench)))
    values |= _live(unit, system, near.live)
    if unit.source:
        values["dc plugged"] = _plugged(unit, elements, near.live)
    return np.array([values.get(r.id, UNREADABLE) for r in readings])


def _dead(
    unit: Unit, system: System, kept: Collection[int], near: Sequence[Mapping[str, Floats]]
) -> dict[str, float]:
    """Without power and unplugged: ohms between contacts, junctions on the diode range."""
    found = _ohms(unit, system, kept)
    shown = tested(system, kept, unit.junctions, near)
    return found | {diode_id(j): t.volts for j, t in zip(unit.junctions, shown, strict=True)}


def _ohms(unit: Unit, system: System, kept: Collection[int]) -> dict[str, float]:
    """Between contacts, at the battery's clip, of the source by itself."""
    names = [*unit.contacts, *unit.free]
    nodes = [*unit.contacts.values(), *unit.free.values()]
    extra = {nth(RAIL, k): (c.plus, c.minus) for k, c in enumerate(unit.clips)}
    extra["coil"] = (f"{COIL}:hot", f"{COIL}:cold")
    extra |= {f"in {p.letter}": (p.node, GROUND) for p in unit.points}
    for clip in unit.clips[:1]:
        extra |= {f"up {p.letter}": (p.node, clip.plus) for p in unit.points}
    there = {k: pair for k, pair in extra.items() if pair and pair[0] in system.node_row}
    at_node = len(nodes)
    ohm = resistances(system, kept, [*nodes, *(n for pair in there.values() for n in pair)])
    used = len(unit.contacts)
    found = {
        f"ohm {names[k]} {names[m]}": float(ohm[k, m]) for k, m in combinations(range(used), 2)
    }
    at = {ref: k for k, ref in enumerate(names)}
    for end, refs in by_thing(unit.free).items():
        found[f"free {end}"] = float(np.min(ohm[[at[r] for r in refs], :used]))
    for k, name in enumerate(there):
        found[name] = float(ohm[at_node + 2 * k, at_node + 2 * k + 1])
    return found


def _of_line(
    unit: Unit,
    system: System,
    build: Sequence[Element],
    near: Mapping[bool, Mapping[str, Floats]],
) -> dict[str, float]:
    """The transmit line at the plug, let go and pressed."""
    line = unit.transmit
    if line is None:
        return {}
    found = {}
    kept = unpowered(build, unit.plugged)
    for pressed, token in enumerate(("released", "pressed")):
        op = _driven(line, build, bool(pressed), near) if line.powered else None
        if line.works != "line":
            shut = closes(line, build, bool(pressed), op)
            found[f"transmit {token}"] = float(resistances(system, kept, line.nodes, shut)[0, 1])
        elif op is not None:
            found[f"transmit {token}"] = op.volts(*line.nodes)
        if line.powered and pressed and op is not None:
            found["transmit drive"] = op.volts("bench:port", "port-line") / PORT_OHM
    return found


def _driven(
    line: Transmit,
    build: Sequence[Element],
    pressed: bool,
    near: Mapping[bool, Mapping[str, Floats]],
) -> OperatingPoint | None:
    try:
        return driven(line, build, pressed, near.get(pressed))
    except CircuitError:
        return None


def ohms_of_right(unit: Unit) -> dict[str, float]:
    """Ohms of a right build without power, by reading; nothing if it has no solution."""
    build = unit.unplugged(unit.elements)
    try:
        system = System(Circuit((*build, *unit.bench)))
    except CircuitError:
        return {}
    return _ohms(unit, system, unpowered(build, unit.plugged))


@dataclass(frozen=True)
class AtRest:
    """Junction volts of a unit, by device: under power, and at each junction that was tested.

    ``line`` has those of what keys it, by whether it is pressed.
    """

    live: Mapping[str, Floats] = field(default_factory=dict)
    tested: tuple[Mapping[str, Floats], ...] = ()
    line: Mapping[bool, Mapping[str, Floats]] = field(default_factory=dict)


def at_rest(unit: Unit, elements: Sequence[Element]) -> AtRest:
    """Where a unit's devices are; nowhere if it has no operating point."""
    build = unit.unplugged(elements)
    try:
        system = System(Circuit((*build, *unit.bench)))
        sounds = System(Circuit((*unit.sounding(elements), *unit.bench)))
        found = solve_dc(sounds).junctions()
        if unit.source:
            found |= _with_source(unit, elements, found).junctions()
    except CircuitError:
        return AtRest()
    shown = tested(system, unpowered(build, unit.plugged), unit.junctions)
    line = {}
    if unit.transmit is not None and unit.transmit.powered:
        for pressed in (False, True):
            if (op := _driven(unit.transmit, build, pressed, {})) is not None:
                line[pressed] = op.junctions()
    return AtRest(found, tuple(t.at for t in shown), line)


def _with_source(
    unit: Unit, elements: Iterable[Element], near: Mapping[str, Floats] | None
) -> OperatingPoint:
    """The source plugged in where the generator was. Raises CircuitError."""
    rest = [e for e in unit.bench if not e.name.startswith(GENERATOR)]
    here = [e for e in elements if not e.name.startswith(KEYER)]
    return solve_dc(System(Circuit((*here, *rest))), near)


def _plugged(unit: Unit, elements: Iterable[Element], near: Mapping[str, Floats] | None) -> float:
    """Volts that are left over the source."""
    try:
        return _with_source(unit, elements, near).volts(*unit.inlet)
    except CircuitError:
        return UNREADABLE


def _live(unit: Unit, system: System, near: Mapping[str, Floats] | None) -> dict[str, float]:
    """DC at the points, the supply's current, and the tone."""
    try:
        op = solve_dc(system, near)
    except CircuitError:
        return {}
    matrix = op.conductances()
    found = _volts(unit, system, op, matrix)
    for k, clip in enumerate(unit.clips):
        if clip.source in system.branch_row:
            found[nth(SUPPLY, k)] = -op.branch_a(clip.source)
    f_hz = np.array(TONES_HZ)
    full = matrix[None] + 2j * np.pi * f_hz[:, None, None] * system.C[None]
    ends = np.stack([system.unit(*unit.outlet), system.unit(*unit.inlet)], axis=1)
    right = np.concatenate([system.b_ac[:, None], ends], axis=1)
    try:
        x = np.linalg.solve(full, np.broadcast_to(right, (f_hz.size, *right.shape)))
    except np.linalg.LinAlgError:
        return found
    # ends: out and in; the meter lies beside what it is held to
    volts = np.einsum("ie,fi->fe", ends, x[:, :, 0])
    z = np.einsum("ie,fie->fe", ends, x[:, :, 1:])
    shown = np.abs(volts / (1 + z * (1 / METER_OHM + 2j * np.pi * f_hz[:, None] * METER_F)))
    for k, hertz in enumerate(TONES_HZ):
        found[f"tone {hertz:g}"] = float(shown[k, 0]) * tone_left(op, x[k, :, 0])
    found["tone in"] = float(shown[0, 1])
    return found


def _volts(unit: Unit, system: System, op: OperatingPoint, matrix: Floats) -> dict[str, float]:
    """What a voltmeter shows at each point: its own resistance loads what it is held to."""
    points = [p for p in unit.points if p.node in system.node_row]
    units = np.zeros((system.size, len(points)))
    for k, p in enumerate(points):
        units[system.node_row[p.node], k] = 1.0
    try:
        z = np.einsum("ik,ik->k", units, np.linalg.solve(matrix, units))
    except np.linalg.LinAlgError:
        z = np.zeros(len(points))
    return {
        f"dc {p.letter}": op.volts(p.node) * METER_OHM / (METER_OHM + max(float(ohm), 0.0))
        for p, ohm in zip(points, z, strict=True)
    }
