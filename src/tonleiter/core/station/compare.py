"""What differs between two stations, in the words of their fields."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.labels import label_of
from tonleiter.core.station.model import Chain, Station
from tonleiter.core.words import cut


def differences(old: Station, new: Station, most: int = 5) -> list[str]:
    """Short phrases, the most telling first; the last one counts what was left out."""
    found = [*_pieces(old, new), *_chains(old, new), *_boxes(old, new), *_around(old, new)]
    if len(found) > most:
        found = [*found[: most - 1], f"{len(found) - most + 1} more"]
    return found


def _pieces(old: Station, new: Station) -> Iterable[str]:
    before, after = old.gear_by_id, new.gear_by_id
    for gear_id, piece in after.items():
        was = before.get(gear_id)
        if was is None:
            yield f"{piece.name} added"
        elif was is not piece and was != piece:
            yield f"{piece.name}: {_changed(was, piece)}"
    yield from (f"{p.name} removed" for i, p in before.items() if i not in after)


def _changed(was: Gear, now: Gear) -> str:
    if type(was) is not type(now):
        return f"now a {now.noun}"
    fields = [f for f in type(now).model_fields if getattr(was, f) != getattr(now, f)]
    figures = now.figures()
    words = []
    for field in fields:
        if field in figures:
            quantity, info = figures[field]
            words.append(f"{info.title or field} {quantity.show(now.figure(field))}")
        else:
            title, value = type(now).model_fields[field].title, getattr(now, field)
            words.append(f"{title} {label_of(value)}" if title else field)
    return cut(", ".join(words), 80)


def _chains(old: Station, new: Station) -> Iterable[str]:
    before = {c.id: c for c in old.chains}
    for chain in new.chains:
        was = before.pop(chain.id, None)
        if was is None:
            yield f"chain “{chain.name}” added"
        elif was != chain:
            yield f"chain “{chain.name}”: {_of_chain(was, chain)}"
    yield from (f"chain “{c.name}” removed" for c in before.values())


def _of_chain(was: Chain, now: Chain) -> str:
    fields = [f for f in Chain.model_fields if getattr(was, f) != getattr(now, f)]
    return ", ".join(_FIELDS.get(f, f) for f in fields)


_FIELDS = {
    "variants": "its wiring or settings",
    "shown": "what is shown",
    "distance_mm": "distance",
    "band_hz": "band",
    "speaks": "how it is spoken into",
    "stays_plugged": "whether it stays plugged in",
}


def _boxes(old: Station, new: Station) -> Iterable[str]:
    """What changed in a box that its pieces do not tell, and leads."""
    alone = {d.id for d in (*old.devices, *new.devices) if len(d.ports) == 1}
    before = {d.id: d for d in old.devices}
    for device in new.devices:
        was = before.pop(device.id, None)
        if was is None and device.id not in alone:
            yield f"box {device.name} added"
        elif was is not None and was != device:
            yield f"{device.name}: its {'sockets' if was.ports != device.ports else 'box'}"
    yield from (f"box {d.name} removed" for d in before.values() if d.id not in alone)
    leads = {x.id: x for x in old.links}
    for link in new.links:
        old_link = leads.pop(link.id, None)
        if old_link is None:
            yield f"{link.name} added"
        elif old_link != link:
            yield f"{link.name} changed"
    yield from (f"{x.name} removed" for x in leads.values())


def _around(old: Station, new: Station) -> Iterable[str]:
    names: dict[str, Any] = {
        "title": "title",
        "mains_hz": "mains",
        "room_noise_dba": "noise of the room",
        "operators": "people",
        "drawer": "parts drawer",
        "open_chain": "which chain is open",
    }
    yield from (word for f, word in names.items() if getattr(old, f) != getattr(new, f))
