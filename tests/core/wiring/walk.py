"""Every source of the library on every input, coupled by each school: is the suggestion complete?

Run as a module it walks over all pairs, says what it found, and ends with 1 if anything is wrong.
"""

from __future__ import annotations

import math
import sys
import time
from collections.abc import Iterator

from tests.core.wiring.benches import IDS, lead, station
from tests.core.wiring.printed import differences_of
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.judge.wiring.schools import possible, school_now, schools
from tonleiter.core.station.model import Station
from tonleiter.core.station.transmit import ways_for
from tonleiter.core.station.wirings import change_wiring

MIC_PINS = (
    ("1", "microphone"),
    ("2", "transmit"),
    ("3", "transmit-ground"),
    ("4", "microphone-ground"),
)
DATA_PINS = (
    ("1", "data-in"),
    ("2", "data-ground"),
    ("3", "transmit"),
    ("4", "data-out"),
    ("5", "free"),
    ("6", "squelch"),
)
# what a pair may have of itself, however well it is wired
# that nobody entered the source's plug is said of each that has one
OF_THE_PAIR = frozenset({"cable-too-long", "connector-assumed"})
# what a way to transmit has of itself: it is chosen in spite of that, or with another lead
OF_THE_WAY = frozenset({"switch-latches", "too-few-cores"})


def sources() -> list[Gear]:
    """Everything that a chain can begin with."""
    return [g for g in parts_library().values() if g.role == "microphone"]


def inputs() -> list[Gear]:
    """Everything that it can end in."""
    return [g for g in parts_library().values() if g.role == "input"]


def pair(source: Gear, target: Gear) -> Station:
    """The two with two metres of lead, as somebody has them who begins to wire."""
    data = target.kind_id == "data-socket"
    return station(
        source.model_dump(mode="json"),
        lead("walk-lead"),
        target.model_dump(mode="json"),
        pins=DATA_PINS if data else MIC_PINS,
        shell="mini-din-6" if data else "round-4",
        purpose="ssb-chat" if source.acoustic else "data-weak",
    )


def suggestions(source: Gear, target: Gear) -> Iterator[tuple[str, Verdict | None]]:
    """The pair as it is, and coupled by each other school; None where a school was not offered."""
    found = verdict_of(pair(source, target))
    yield school_now(found, 0), found
    made = {s.id: s.found for s in schools(found, 0)}
    for school in possible(found, 0):
        if school != school_now(found, 0):
            yield school, made.get(school)


def keyings(source: Gear, target: Gear) -> Iterator[tuple[str, Verdict]]:
    """The pair by each way to transmit that makes sense for it."""
    of = pair(source, target)
    for way in ways_for(source, target):
        yield way, verdict_of(change_wiring(of, *IDS, transmit=way))


def faults(found: Verdict) -> Iterator[str]:
    """What a suggestion lacks, in words."""
    build = found.build
    yield from (f"nobody knows the {leg}" for leg in build.unknown)
    for wire in build.conductors:
        open_screen = wire.leg == "screen" and bool(wire.start) != bool(wire.end)
        if not (wire.start and wire.end) and not open_screen:
            yield f"{wire.key} ends in air"
    for leg in ("hot", "cold"):
        if not any(c.leg == leg for c in build.conductors):
            yield f"no wire carries the {leg}"
    for net in build.nets:
        if not math.isfinite(net.dc_v):
            yield f"no DC on {net.name}"
    if build.keying is not None and build.keying.wired:
        keyed = {c.leg for c in build.conductors if c.of_switch}
        if not keyed >= {"transmit", "transmit-ground"}:
            yield "the switch is not wired"
    pins = [c for n in build.nets for c in n.contacts]
    if len(pins) != len(set(pins)):
        yield "a contact stands in two nets"
    for finding in found.of_wiring():
        if finding.severity != "fine" and finding.code not in OF_THE_PAIR:
            yield f"{finding.code}: {finding.says}"


def main() -> int:
    """Walk over all pairs."""
    began, count, wrong, left_out = time.perf_counter(), 0, 0, 0
    for source in sources():
        for target in inputs():
            try:
                for school, found in suggestions(source, target):
                    if found is None:
                        left_out += 1
                        continue
                    count += 1
                    for fault in faults(found):
                        wrong += 1
                        print(f"{source.id} on {target.id}, {school}: {fault}")
                for way, found in keyings(source, target):
                    count += 1
                    said = (f for f in faults(found) if f.partition(":")[0] not in OF_THE_WAY)
                    for fault in (*said, *differences_of(found)):
                        wrong += 1
                        print(f"{source.id} on {target.id}, {way}: {fault}")
            except CircuitError as error:
                wrong += 1
                print(f"{source.id} on {target.id}: {error}")
    print(
        f"{count} suggestions in {time.perf_counter() - began:.0f} s, {wrong} faults;"
        f" {left_out} times a school cannot serve the source"
    )
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
