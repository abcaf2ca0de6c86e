"""All readings of a unit at once: ohms and junctions without power, DC, currents, tones."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.clipped import tone_left
from tonleiter.core.bench.junctions import tested
from tonleiter.core.bench.ohms import BEEPS_BELOW_OHM, resistances, unpowered
from tonleiter.core.bench.transmit import KEYER, PORT_OHM, Transmit, closes, driven
from tonleiter.core.bench.unit import COIL, GENERATOR, Junction, Unit
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import GROUND, Circuit, CircuitError, Element
from tonleiter.core.circuit.system import System
from tonleiter.core.station.contacts import At, by_thing

Step = Literal["ring", "dc", "tone"]
# speech's middle and its edges; where a coupling capacitor too small shows, and a bypass too large
TONES_HZ = (1000.0, 100.0, 300.0, 2700.0, 6000.0)
# a voltmeter's input, which loads what it is held to; for AC a capacitance lies beside it
METER_OHM, METER_F = 10e6, 100e-12
Floats = NDArray[np.float64]
UNREADABLE = math.nan
# readings that stand by themselves: where the battery goes, and all that must not beep
RAIL, REST, SUPPLY = "rail", "rest", "supply"
_WHERE = "where the battery goes"


@dataclass(frozen=True)
class Reading:
    """One thing to read: its step, what it says, its unit, minutes that it takes.

    ``first`` is what must be read before there is power; ``of`` the readings that it stands for,
    of which it shows the least: they are taken one by one where it is not open.
    """

    id: str
    step: Step
    says: str
    unit: str
    minutes: float
    first: bool = False
    of: tuple[str, ...] = ()

    @property
    def order(self) -> int:
        """When it is due: ohms without power, then volts, then current, then a tone."""
        return {"ring": 0, "dc": 2 if self.unit == "A" else 1, "tone": 3}[self.step]


def nth(reading: str, k: int) -> str:
    """The same reading of the k-th battery: “supply”, “supply 2”."""
    return reading if k == 0 else f"{reading} {k + 1}"


def readings_of(unit: Unit) -> tuple[Reading, ...]:
    """Every reading of a unit, in the order of the path."""
    pairs = [
        Reading(f"ohm {a} {b}", "ring", _pair(unit, a, b), "Ω", 0.5)
        for a, b in combinations(unit.contacts, 2)
    ]
    for end, refs in by_thing(unit.free).items():
        marks = ", ".join(r.label for r in refs)
        says = f"{unit.plugs[refs[0]]}: from the free {marks} to all the others, the least"
        pairs.append(Reading(f"free {end}", "ring", says, "Ω", 0.5 + 0.2 * len(refs)))
    found = [r for r in pairs if r.id not in (silent := _silent(unit, pairs))]
    for k, clip in enumerate(unit.clips):
        which = f"where the battery {clip.ref} goes" if len(unit.clips) > 1 else _WHERE
        says = f"{which}, it taken out: plus to minus"
        found.append(Reading(nth(RAIL, k), "ring", says, "Ω", 0.5, first=True))
    if len(silent) > 1:
        says = "every other pair of contacts, the free ones too: nothing beeps"
        minutes = 0.5 + 0.04 * len(silent)
        found.append(Reading(REST, "ring", says, "Ω", minutes, True, tuple(silent)))
    found += [r for r in pairs if r.id in silent]
    found += _inside(unit)
    found += _of_source(unit)
    found += [r for r in _of_transmit(unit) if r.step == "ring"]
    for j in unit.junctions:
        says = f"{j.ref} on the diode range: red on {j.red}, black on {j.black}"
        found.append(Reading(_diode(j), "ring", says, "V", 0.4))
    for k, clip in enumerate(unit.clips):
        says = "current from the supply" + (f" {clip.ref}" if len(unit.clips) > 1 else "")
        found.append(Reading(nth(SUPPLY, k), "dc", says, "A", 1.0))
    found += [
        Reading(f"dc {p.letter}", "dc", f"{p.letter}: {p.says}", "V", 0.7) for p in unit.points
    ]
    if unit.source:
        found.append(
            Reading("dc plugged", "dc", "at the microphone's contacts, it plugged in", "V", 1.5)
        )
    found += [r for r in _of_transmit(unit) if r.step == "dc"]
    for hertz in TONES_HZ:
        found.append(Reading(f"tone {hertz:g}", "tone", f"out, {hertz:g} Hz", "V", 1.0))
    found.append(Reading("tone in", "tone", "in, 1000 Hz", "V", 1.0))
    return tuple(found)


def _silent(unit: Unit, pairs: Sequence[Reading]) -> list[str]:
    """Of pairs those that are open in a right build, by their ids."""
    shown = _without_power(unit)
    return [r.id for r in pairs if math.isinf(shown.get(r.id, 0.0))]


def _inside(unit: Unit) -> Iterator[Reading]:
    """Ohms in the circuit: to common, or to the battery's plus where nothing leads to common."""
    touched = set(unit.contacts.values())
    shown = _without_power(unit)
    for p in unit.points:
        if p.node not in touched:
            says = f"{p.letter}, to common: {p.says}"
            yield Reading(f"in {p.letter}", "ring", says, "Ω", 0.7)
        up = shown.get(f"up {p.letter}", math.inf)
        if math.isinf(shown.get(f"in {p.letter}", 0.0)) and 0 < up < math.inf:
            says = f"{p.letter}, to where the battery's plus goes: {p.says}"
            yield Reading(f"up {p.letter}", "ring", says, "Ω", 0.7)


def _without_power(unit: Unit) -> dict[str, float]:
    """Ohms of a right build; nothing if it has no solution."""
    build = unit.unplugged(unit.elements)
    try:
        system = System(Circuit((*build, *unit.bench)))
    except CircuitError:
        return {}
    return _ohms(unit, system, unpowered(build, unit.plugged))


def _of_source(unit: Unit) -> Iterator[Reading]:
    if unit.coil and unit.coil[0].name == COIL:
        yield Reading("coil", "ring", "the microphone by itself, at its own plug", "Ω", 0.5)


def _of_transmit(unit: Unit) -> Iterator[Reading]:
    """Every way to transmit is read twice at the plug: let go and pressed."""
    line = unit.transmit
    if line is None:
        return
    one, other = line.contacts
    at = f"{line.names[0]}: {one.label} to {other.label}"
    if one.thing != other.thing:
        at = f"{line.names[0]} {one.label} to {line.names[1]} {other.label}"
    step: Step = "dc" if line.powered else "ring"
    pressed, released = ("on", "off") if line.latches else ("held down", "let go")
    pressed, released = f"the switch {pressed}", f"the switch {released}"
    if line.powered:
        pressed, released = "the port's line on", "the port's line off"
    if line.works == "line":
        at += f", {line.line_v:g} V there through {line.line_ohm / 1e3:.2g} kΩ"
    for token, said in (("released", released), ("pressed", pressed)):
        yield Reading(f"transmit {token}", step, f"{at}, {said}", line.unit, 0.5)
    if line.powered:
        says = "current from the port's control line, on"
        yield Reading("transmit drive", "dc", says, "A", 1.0)


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
    return found | {_diode(j): t.volts for j, t in zip(unit.junctions, shown, strict=True)}


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
            line[pressed] = driven(unit.transmit, build, pressed).junctions()
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
