"""Every reading of a unit, in the order of the path: what is held to what, and in which step."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from itertools import combinations

from tonleiter.core.bench.measure import ohms_of_right
from tonleiter.core.bench.reading import RAIL, REST, SUPPLY, TONES_HZ, Reading, Step, diode_id, nth
from tonleiter.core.bench.unit import COIL, Unit
from tonleiter.core.station.contacts import At, by_thing

_WHERE = "where the battery goes"


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
    shown = ohms_of_right(unit)
    silent = [r.id for r in pairs if math.isinf(shown.get(r.id, 0.0))]
    found = [r for r in pairs if r.id not in silent]
    for k, clip in enumerate(unit.clips):
        which = f"where the battery {clip.ref} goes" if len(unit.clips) > 1 else _WHERE
        says = f"{which}, it taken out: plus to minus"
        found.append(Reading(nth(RAIL, k), "ring", says, "Ω", 0.5, first=True))
    if len(silent) > 1:
        says = "every other pair of contacts, the free ones too: nothing beeps"
        minutes = 0.5 + 0.04 * len(silent)
        found.append(Reading(REST, "ring", says, "Ω", minutes, True, tuple(silent)))
    found += [r for r in pairs if r.id in silent]
    found += _inside(unit, shown)
    found += _of_source(unit)
    found += [r for r in _of_transmit(unit) if r.step == "ring"]
    for j in unit.junctions:
        says = f"{j.ref} on the diode range: red on {j.red}, black on {j.black}"
        found.append(Reading(diode_id(j), "ring", says, "V", 0.4))
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


def _inside(unit: Unit, shown: Mapping[str, float]) -> Iterator[Reading]:
    """Ohms in the circuit: to common, or to the battery's plus where nothing leads to common."""
    touched = set(unit.contacts.values())
    for p in unit.points:
        if p.node not in touched:
            says = f"{p.letter}, to common: {p.says}"
            yield Reading(f"in {p.letter}", "ring", says, "Ω", 0.7)
        up = shown.get(f"up {p.letter}", math.inf)
        if math.isinf(shown.get(f"in {p.letter}", 0.0)) and 0 < up < math.inf:
            says = f"{p.letter}, to where the battery's plus goes: {p.says}"
            yield Reading(f"up {p.letter}", "ring", says, "Ω", 0.7)


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
