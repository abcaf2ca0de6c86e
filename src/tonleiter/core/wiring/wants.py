"""The parts list of a build: what is soldered, plugs, lead by the metre, the case, the switch.

Ratings are computed from what stands on each part in the solved circuit, with a margin, and said.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

from tonleiter.core.circuit.elements import Capacitor, Resistor
from tonleiter.core.gear.parts import COINS, NOTE, Part
from tonleiter.core.gear.passives import Cable
from tonleiter.core.gear.shopping import Item, listed, merged
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.station.pinout import End
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.station.wiring import Wiring
from tonleiter.core.units.quantity import METRE, VOLT, WATT, format_quantity
from tonleiter.core.wiring.keyed import KeyedLine
from tonleiter.core.wiring.metal import Metal
from tonleiter.core.wiring.model import Span

if TYPE_CHECKING:
    from tonleiter.core.wiring.model import Span

QUARTER_W = 0.25


def wanted_parts(
    metal: Metal, spans: Iterable[Span], line: KeyedLine, cores: Mapping[str, int]
) -> tuple[Part, ...]:
    """Everything to get, soldered parts first."""
    solution, stages, wiring = metal.solution, metal.stages, metal.wiring
    made = [_rated(i, solution) for i in metal.items]
    found = list(listed([*made, *line.items], {**metal.refs, **line.refs}))
    for span in spans:
        leads = [s for s in span.between(stages) if s.gear.lead]
        for stage in leads:
            found.append(_lead(stage, cores.get(stage.id, 1), wiring))
        found += [p for end in (span.left, span.right) for p in _plug(end, wiring)]
        inside = span.between(stages)
        if any(not s.gear.lead for s in inside):
            found.append(Part(1, "case", wiring.box, COINS, "two strain reliefs"))
    if line.keying is not None and line.is_built:
        found += line.keying.parts
        if line.gear is not None:
            note = "female; to the computer's port, or to a serial adapter"
            found.append(Part(1, "plug", SHELLS["de-9"].title, COINS, note))
        if line.end is not None and all(line.end not in (s.left, s.right) for s in spans):
            found += _plug(line.end, wiring)
    return merged(found)


def _plug(end: End, wiring: Wiring) -> Iterator[Part]:
    """The half that goes on the lead; nothing where wires end bare."""
    own = wiring.plug(end.id)
    facts = SHELLS[own or end.connector.shell]
    if facts.usual_for == "loose":
        return
    half = "" if not facts.has_sides else "male" if own is not None else end.lead_half
    check = "check it: nobody entered this connector" if end.guessed else ""
    yield Part(1, "plug", facts.title, COINS, "; ".join(filter(None, (half, check))))


def _lead(stage: PlacedStage, cores: int, wiring: Wiring) -> Part:
    length = format_quantity(stage.gear.figure("length_m").value, METRE)
    form = stage.gear.form if isinstance(stage.gear, Cable) else "one-core"
    count = max(wiring.cores or 0, cores, {"one-core": 1, "two-core": 2, "star-quad": 4}[form])
    inside = "star-quad, four cores" if form == "star-quad" and count <= 4 else f"{count} cores"
    inside = "one core" if inside == "1 cores" else inside
    return Part(1, "screened lead", length, NOTE, f"{inside} and a screen")


def _rated(item: Item, solution: ChainSolution) -> Item:
    """A part with what it bears in this circuit: a resistor's watts, a capacitor's volts."""
    if len(item.elements) != 1:
        return item
    name = next(iter(item.elements))
    element = next(e for e in solution.compiled.circuit.elements if e.name == name)
    if not isinstance(element, Resistor | Capacitor):
        return item
    volts = abs((solution.node_v(element.p) or 0.0) - (solution.node_v(element.n) or 0.0))
    part = item.part
    if isinstance(element, Resistor):
        watts = volts**2 / element.ohm
        rating = part.note or "¼ W"
        if watts > 0 and math.isfinite(watts) and watts > 1e-9:
            rating = f"{rating}: {format_quantity(watts, WATT, 2)} in it"
        return replace(item, part=replace(part, note=rating))
    seen = f": {format_quantity(volts, VOLT, 2)} over it" if volts > 1e-3 else ""
    return replace(item, part=replace(part, note=f"{part.note}{seen}"))
