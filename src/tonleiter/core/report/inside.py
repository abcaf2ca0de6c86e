"""A microphone that one builds oneself: what is soldered in its case, drawn, wired and listed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

from tonleiter.core.circuit.joined import Joined
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.gear.parts import Part
from tonleiter.core.gear.shopping import items_of, listed, numbered
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.station.contacts import At
from tonleiter.core.words import the


@dataclass(frozen=True)
class Inside:
    """The circuit of a source: its name, its drawing, wires from pin to pin, its parts.

    ``wires`` end at the contacts of its own plug where sound leaves it.
    """

    name: str
    sheet: Sheet
    wires: tuple[tuple[At, At], ...]
    parts: tuple[Part, ...]


def inside_of(found: Verdict, at: int) -> Inside | None:
    """What is soldered in the source of a chain; None for one that is got whole, or elsewhere."""
    stage = found.assessment.solution.compiled.stages[0]
    gear = stage.gear
    if at % len(found.build.spans) or gear.bought_whole or not gear.acoustic:
        return None
    net = gear.built_alone()
    items = items_of(gear, net)
    if len(items) < 2:
        return None
    names = numbered((*found.build.items, *items))
    refs = {i.place: names[i.place] for i in items}
    sheet = draw_stage(gear, net, items=items).named(refs)
    tied: Joined[str] = Joined()
    pins: dict[str, list[At]] = {}
    for symbol in sheet.symbols:
        for pin in symbol.pins:
            label = ("+" if pin.name == symbol.plus else "−") if symbol.plus else pin.name
            pins.setdefault(tied.of(pin.node), []).append(At(symbol.ref, label))
    landed = found.build.splices[stage.id, "out"].landed
    ends = _ends(found, {"hot": net.outlet.hot, "cold": net.outlet.chassis}, landed)
    wires = tuple(
        pair
        for node, own in pins.items()
        for pair in pairwise([*dict.fromkeys(own), *ends.get(node, ())])
    )
    where = f"in the case of {the(gear.name)}"
    parts = tuple(
        replace(p, note="; ".join(filter(None, (p.note, where)))) for p in listed(items, refs)
    )
    return Inside(gear.name, sheet, wires, parts)


def _ends(
    found: Verdict, nodes: Mapping[str, str], landed: Mapping[str, str | None]
) -> dict[str, tuple[At, ...]]:
    """The contact of the source's plug at each node that leaves it."""
    end = found.build.spans[0].left
    return {
        node: (end.ref(label),)
        for leg, node in nodes.items()
        if (label := landed.get(leg)) is not None
    }
