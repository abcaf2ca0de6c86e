"""All readings of a unit at once: ohms without power, DC and currents, a tone at frequencies."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import (
    GROUND,
    Circuit,
    CircuitError,
    Element,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import NOWHERE, System
from tonleiter.core.prove.unit import Unit

Step = Literal["ring", "dc", "tone"]
# speech's middle and its edges, and where a bypass capacitor ten times too large shows
TONES_HZ = (1000.0, 300.0, 2700.0, 6000.0)
# an ohmmeter shows more than this as open; what gives every node a potential meanwhile
OPEN_OHM, DAMP_S = 20e6, 1e-12
# a DC voltmeter's input, which loads what it is held to
METER_OHM = 10e6
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
    if unit.supply:
        found.append(Reading("supply", "dc", "current from the supply", "A", 1.0))
    found += [
        Reading(f"dc {p.letter}", "dc", f"{p.letter}: {p.says}", "V", 0.7) for p in unit.points
    ]
    for hertz in TONES_HZ:
        found.append(Reading(f"tone {hertz:g}", "tone", f"out, {hertz:g} Hz", "V", 1.0))
    found.append(Reading("tone in", "tone", "in, 1000 Hz", "V", 1.0))
    return tuple(found)


def _pair(unit: Unit, one: str, other: str) -> str:
    """Two contacts as they are called at the bench: the plug once where both are its own."""
    plug, _, mark = one.rpartition(".")
    far_plug, _, far_mark = other.rpartition(".")
    if plug == far_plug:
        return f"{unit.plugs[one]}: {mark} to {far_mark}"
    return f"{unit.plugs[one]} {mark} to {unit.plugs[other]} {far_mark}"


def measure(
    unit: Unit,
    elements: Sequence[Element],
    readings: Sequence[Reading],
    near: Mapping[str, Floats] | None = None,
) -> Floats:
    """What the bench shows for these elements in the unit's place; shape (readings,).

    Ohms that are open are infinite; NaN where a circuit has no solution at all. ``near`` has the
    junction volts of a similar unit, from which the search begins.
    """
    values = dict[str, float]()
    values |= _ohms(unit, elements)
    values |= _live(unit, elements, near)
    return np.array([values.get(r.id, UNREADABLE) for r in readings])


def _ohms(unit: Unit, elements: Iterable[Element]) -> dict[str, float]:
    """Every pair of contacts, from one inverse: R = Zaa + Zbb − 2 Zab; batteries are out."""
    kept = [e for e in elements if not isinstance(e, VoltageSource)]
    names = list(unit.contacts)
    nodes = {unit.contacts[n] for n in names} - {GROUND}
    kept += [Resistor(f"probe:{n}", n, GROUND, 1 / DAMP_S, noisy=False) for n in sorted(nodes)]
    try:
        system = System(Circuit(tuple(kept)))
    except CircuitError:
        return {}
    matrix = system.G.copy()
    for placed in system.devices:
        state = placed.device.evaluate(np.zeros_like(placed.device.start()))
        placed.add_to(matrix, state.conductances)
    count = len(system.node_row)
    matrix[range(count), range(count)] += DAMP_S
    rows = [system.row(unit.contacts[n]) for n in names]
    columns = np.zeros((system.size, len(names)))
    for k, row in enumerate(rows):
        if row != NOWHERE:
            columns[row, k] = 1.0
    try:
        z = columns.T @ np.linalg.solve(matrix, columns)
    except np.linalg.LinAlgError:
        return {}
    found = {}
    for (k, a), (m, b) in combinations(enumerate(names), 2):
        ohm = float(z[k, k] + z[m, m] - 2 * z[k, m])
        found[f"ohm {a} {b}"] = math.inf if ohm > OPEN_OHM else max(ohm, 0.0)
    return found


def at_rest(unit: Unit, elements: Iterable[Element]) -> dict[str, Floats]:
    """Junction volts of a unit by device; empty where it has no operating point."""
    try:
        return solve_dc(System(Circuit((*elements, *unit.bench)))).junctions()
    except CircuitError:
        return {}


def _live(
    unit: Unit, elements: Iterable[Element], near: Mapping[str, Floats] | None
) -> dict[str, float]:
    """DC at the points, the supply's current, and the tone."""
    try:
        system = System(Circuit((*elements, *unit.bench)))
        op = solve_dc(system, near)
    except CircuitError:
        return {}
    matrix = op.conductances()
    found = _volts(unit, system, op, matrix)
    if unit.supply in system.branch_row:
        found["supply"] = -op.branch_a(unit.supply)
    f_hz = np.array(TONES_HZ)
    full = matrix[None] + 2j * np.pi * f_hz[:, None, None] * system.C[None]
    try:
        x = np.linalg.solve(
            full, np.broadcast_to(system.b_ac[:, None], (f_hz.size, system.size, 1))
        )
    except np.linalg.LinAlgError:
        return found
    out, into = system.unit(*unit.outlet), system.unit(*unit.inlet)
    for k, hertz in enumerate(TONES_HZ):
        found[f"tone {hertz:g}"] = float(abs(out @ x[k, :, 0]))
    found["tone in"] = float(abs(into @ x[0, :, 0]))
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
