"""The parts list of a build: what is soldered, plugs, lead by the metre, the case, the switch.

Ratings are computed from what stands on each part in the solved circuit, with a margin, and said.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import TYPE_CHECKING

from tonleiter.core.gear.parts import BATTERY, COINS, LEAD, NOTE, Part
from tonleiter.core.gear.passives import Cable
from tonleiter.core.gear.shopping import listed, merged
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import End
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.station.wiring import Wiring
from tonleiter.core.units.quantity import METRE, format_quantity
from tonleiter.core.wiring.keyed import KeyedLine
from tonleiter.core.wiring.keying import second_switch
from tonleiter.core.wiring.metal import Metal
from tonleiter.core.wiring.model import Span
from tonleiter.core.wiring.ratings import Worst

if TYPE_CHECKING:
    from tonleiter.core.wiring.model import Span

QUARTER_W = 0.25


def wanted_parts(
    station: Station,
    metal: Metal,
    spans: Iterable[Span],
    line: KeyedLine,
    cores: Mapping[str, int],
) -> tuple[Part, ...]:
    """Everything to get, soldered parts first."""
    stages, wiring = metal.stages, metal.wiring
    worst = Worst(station, metal.solution)
    made = [worst.rated(i) for i in metal.items]
    found = list(listed([*made, *line.items], {**metal.refs, **line.refs}))
    for span in spans:
        leads = [s for s in span.between(stages) if s.gear.lead]
        for stage in leads:
            found.append(_lead(stage, cores.get(stage.id, 1), wiring))
        found += [p for end in (span.left, span.right) for p in _plug(end, wiring)]
        inside = span.between(stages)
        own = {s.id for s in inside}
        items = [i for i in metal.items if i.place.partition(":")[0] in own]
        if any(i.part.has_socket for i in items):
            found.append(Part(1, "board and a socket", "8 pins", COINS))
        if any(i.letter == BATTERY for i in items):
            found.append(Part(1, "switch, slide", "for the battery", COINS))
        if any(not s.gear.lead for s in inside):
            found.append(Part(1, "case", wiring.box, COINS, "two strain reliefs"))
    if line.keying is not None and line.is_built:
        found += line.keying.parts
        if wiring.also is not None and line.gear is None:
            found += second_switch(wiring.also, line.keying)
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
    return Part(1, LEAD, length, NOTE, f"{inside} and a screen")
