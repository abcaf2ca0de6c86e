"""How a sheet calls things: a contact by its box and its mark, what belongs to a part."""

from __future__ import annotations

from tonleiter.core.gear.shopping import Item
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.wiring import AIR
from tonleiter.core.station.contacts import At
from tonleiter.core.wiring.keyed import PORT, RAIL, SECOND
from tonleiter.core.wiring.model import SWITCH


def place_in(found: Verdict, at: int, item: Item) -> bool:
    """Whether an item is soldered in a part of the chain."""
    span = found.build.spans[at]
    stages = found.assessment.solution.compiled.stages[span.first + 1 : span.last]
    return item.place.partition(":")[0] in {s.id for s in stages}


def named(found: Verdict, contact: At | None) -> str:
    """A contact as the sheet calls it: the plug of a box, and its mark."""
    if contact is None:
        return f"{AIR}: cut back, insulate"
    end = found.build.end_of(contact)
    if end is not None:
        several = len({e.id for e in found.build.ends if e.device == end.device}) > 1
        return f"{end.name}{f', {end.connector.name}' if several else ''} {contact.label}"
    key = found.build.key_end
    if key is not None and contact.thing == key.id:
        return f"{key.name}, {key.connector.name} {contact.label}"
    if contact.thing in (SWITCH, PORT, SECOND, RAIL):
        return f"{contact.thing} {contact.label}"
    return contact
