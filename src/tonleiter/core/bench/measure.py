"""All readings of a unit at once: ohms and junctions without power, DC, currents, tones."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.clipped import tone_left
from tonleiter.core.bench.junctions import tested
from tonleiter.core.bench.ohms import resistances, unpowered
from tonleiter.core.bench.unit import GENERATOR, Junction, Unit
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import Circuit, CircuitError, Element
from tonleiter.core.circuit.system import System
from tonleiter.core.station.contacts import At, by_thing

Step = Literal["ring", "dc", "tone"]
# speech's middle and its edges, and where a bypass capacitor ten times too large shows
TONES_HZ = (1000.0, 300.0, 2700.0, 6000.0)
# a voltmeter's input, which loads what it is held to; for AC a capacitance lies beside it
METER_OHM, METER_F = 10e6, 100e-12
Floats = NDArray[np.float64]
UNREADABLE = math.nan


@dataclass(frozen=True)
class Reading:
    """One thing to read: its step, what it says, its unit, minutes that it takes."""

    id: str
    step: Step
    says: str
    unit: str
    minutes: float


def readings_of(unit: Unit) -> tuple[Reading, ...]:
    """Every reading of a unit, in the order of the path."""
    found = [
        Reading(f"ohm {a} {b}", "ring", _pair(unit, a, b), "Ω", 0.5)
        for a, b in combinations(unit.contacts, 2)
    ]
    for end, refs in by_thing(unit.free).items():
        marks = ", ".join(r.label for r in refs)
        says = f"{unit.plugs[refs[0]]}: free {marks} to every wire, the least"
        found.append(Reading(f"free {end}", "ring", says, "Ω", 0.5 + 0.2 * len(refs)))
    for j in unit.junctions:
        says = f"{j.ref} on the diode range: red on {j.red}, black on {j.black}"
        found.append(Reading(_diode(j), "ring", says, "V", 0.4))
    if unit.supply:
        found.append(Reading("supply", "dc", "current from the supply", "A", 1.0))
    found += [
        Reading(f"dc {p.letter}", "dc", f"{p.letter}: {p.says}", "V", 0.7) for p in unit.points
    ]
    if unit.source:
        found.append(
            Reading("dc plugged", "dc", "at the microphone's contacts, it plugged in", "V", 1.5)
        )
    for hertz in TONES_HZ:
        found.append(Reading(f"tone {hertz:g}", "tone", f"out, {hertz:g} Hz", "V", 1.0))
    found.append(Reading("tone in", "tone", "in, 1000 Hz", "V", 1.0))
    return tuple(found)


def _pair(unit: Unit, one: At, other: At) -> str:
    """Two contacts as they are called at the bench: the plug once where both are its own."""
    if one.thing == other.thing:
        return f"{unit.plugs[one]}: {one.label} to {other.label}"
    return f"{unit.plugs[one]} {one.label} to {unit.plugs[other]} {other.label}"


def _diode(junction: Junction) -> str:
    return f"diode {junction.ref}.{junction.red} {junction.ref}.{junction.black}"


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
    values |= _live(unit, system, near.live)
    if unit.source:
        values["dc plugged"] = _plugged(unit, elements, near.live)
    return np.array([values.get(r.id, UNREADABLE) for r in readings])


def _dead(
    unit: Unit, system: System, kept: Collection[int], near: Sequence[Mapping[str, Floats]]
) -> dict[str, float]:
    """Without power and unplugged: ohms between contacts, junctions on the diode range."""
    names = [*unit.contacts, *unit.free]
    ohm = resistances(system, kept, [*unit.contacts.values(), *unit.free.values()])
    used = len(unit.contacts)
    found = {
        f"ohm {names[k]} {names[m]}": float(ohm[k, m]) for k, m in combinations(range(used), 2)
    }
    at = {ref: k for k, ref in enumerate(names)}
    for end, refs in by_thing(unit.free).items():
        found[f"free {end}"] = float(np.min(ohm[[at[r] for r in refs], :used]))
    shown = tested(system, kept, unit.junctions, near)
    return found | {_diode(j): t.volts for j, t in zip(unit.junctions, shown, strict=True)}


@dataclass(frozen=True)
class AtRest:
    """Junction volts of a unit, by device: under power, and at each junction that was tested."""

    live: Mapping[str, Floats] = field(default_factory=dict)
    tested: tuple[Mapping[str, Floats], ...] = ()


def at_rest(unit: Unit, elements: Iterable[Element]) -> AtRest:
    """Where a unit's devices are; nowhere if it has no operating point."""
    build = unit.unplugged(elements)
    try:
        system = System(Circuit((*build, *unit.bench)))
        found = solve_dc(system).junctions()
        if unit.source:
            found |= _with_source(unit, elements, found).junctions()
    except CircuitError:
        return AtRest()
    shown = tested(system, unpowered(build, unit.plugged), unit.junctions)
    return AtRest(found, tuple(t.at for t in shown))


def _with_source(
    unit: Unit, elements: Iterable[Element], near: Mapping[str, Floats] | None
) -> OperatingPoint:
    """The source plugged in where the generator was. Raises CircuitError."""
    rest = [e for e in unit.bench if not e.name.startswith(GENERATOR)]
    return solve_dc(System(Circuit((*elements, *rest))), near)


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
    if unit.supply in system.branch_row:
        found["supply"] = -op.branch_a(unit.supply)
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
