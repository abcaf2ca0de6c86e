"""Faults of plugs and leads: joints, solder where none belongs, wires astray, broken cores."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from functools import partial
from itertools import combinations

from tonleiter.core.bench.unit import Unit
from tonleiter.core.circuit.elements import GROUND, Resistor
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.prove.edits import OPEN_OHM, bridge, in_series, joint, swapped
from tonleiter.core.prove.fault import Fault, degrees
from tonleiter.core.station.contacts import At, by_thing
from tonleiter.core.station.shells import SHELLS, Shell, mirrored_label
from tonleiter.core.words import the

# what a joint has that only looks soldered
DRY_OHMS = (100.0, 1e3, 10e3, 100e3)
_CORES = {"core": "core", "cold_core": "second core", "screen": "screen"}


def _of_cores(unit: Unit) -> Iterator[Fault]:
    """A core that broke at the relief reads right until it is moved."""
    for e in unit.elements:
        lead, _, part = e.name.partition(":")
        if isinstance(e, Resistor) and part in _CORES:
            says = f"the {_CORES[part]} of the lead “{lead}” broken where it leaves its plug"
            yield Fault(f"broken-{lead}-{part}", says, "broken", lead, in_series(e, "p", OPEN_OHM))


def of_wires(found: Verdict, unit: Unit) -> Iterator[Fault]:
    """Joints, bridges, contacts of others, and cores that broke."""
    yield from _of_cores(unit)
    ends = by_thing(unit.contacts)
    plugs = {e.id: f"{the(e.name)}'s plug" for e in found.build.ends}
    shells = {e.id: e.connector.shell for e in found.build.ends}
    for end, refs in ends.items():
        labels = {r.label: r for r in refs}
        for one, other in _in_order(shells[end], labels):
            a, b = unit.contacts[labels[one]], unit.contacts[labels[other]]
            if a != b:
                strand = " or a strand of the screen" if GROUND in (a, b) else ""
                yield Fault(
                    f"bridge-{end}-{one}-{other}",
                    f"solder{strand} between {one} and {other} of {plugs[end]}",
                    "bridge",
                    end,
                    bridge(a, b),
                )
    for ref, node in unit.contacts.items():
        end, label = ref.thing, ref.label
        kind = "ground" if node == GROUND else "open"
        says = f"{label} of {plugs[end]}"
        yield Fault(f"open-{ref}", f"{says} not soldered", kind, end, joint(str(ref), OPEN_OHM))
        yield from degrees(
            f"dry-{ref}",
            f"{says} a dry joint, some",
            "dry",
            end,
            DRY_OHMS,
            partial(joint, str(ref)),
        )
    everywhere = {**unit.contacts, **unit.free}
    for ref in unit.free:
        end, label = ref.thing, ref.label
        near = _nearest(shells[end], label, [r.label for r in ends.get(end, ())])
        if near is None:
            continue
        wired = At(end, near)
        yield Fault(
            f"bridge-{end}-{near}-{label}",
            f"solder between {near} and the free {label} of {plugs[end]}",
            "bridge",
            end,
            bridge(unit.contacts[wired], unit.free[ref]),
        )
        yield Fault(
            f"moved-{end}-{near}-{label}",
            f"{near} of {plugs[end]} soldered to {label} beside it",
            "moved",
            end,
            swapped({wired: ref}, everywhere),
        )
    for end, refs in ends.items():
        for one, other in combinations(refs, 2):
            a, b = one.label, other.label
            change = swapped({one: other, other: one}, everywhere)
            yield Fault(
                f"swapped-{end}-{a}-{b}",
                f"{a} and {b} of {plugs[end]} swapped",
                "swapped",
                end,
                change,
            )
        turned = {r: mirrored_label(shells[end], r.label) for r in refs}
        moved = {r: At(end, m) for r, m in turned.items() if m is not None and r.label != m}
        if moved:
            yield Fault(
                f"mirrored-{end}",
                f"{plugs[end]} wired as seen from the other side: mirrored",
                "mirrored",
                end,
                swapped(moved, everywhere),
            )


def _in_order(shell: Shell, labels: Mapping[str, At]) -> Iterator[tuple[str, str]]:
    """Pairs of contacts, in the order of the face."""
    return combinations([s.label for s in SHELLS[shell].face("front") if s.label in labels], 2)


def _nearest(shell: Shell, label: str, among: list[str]) -> str | None:
    """Of some contacts the one that lies nearest to another on the face."""
    # of a round shell it is the same either way its figures run
    place = {s.label: (s.x, s.y) for s in SHELLS[shell].face("front", counted="clockwise")}
    return min(among, key=lambda a: math.dist(place[a], place[label]), default=None)
