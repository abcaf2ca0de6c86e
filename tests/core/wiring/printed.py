"""Somebody solders the printed rows of a sheet: is that the circuit that was solved?"""

from __future__ import annotations

from collections.abc import Iterable

from tonleiter.core.circuit.joined import Joined
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.worksheet import worksheets


def soldered(rows: Iterable) -> Joined[str]:
    """Somebody solders the printed rows, and nothing else."""
    joined = Joined[str]()
    for row in rows:
        if not row.end.startswith("air") and not row.start.startswith("air"):
            joined.join(row.start, row.end)
    return joined


def printed(build, contact):
    """A contact as a reader of the sheet finds it: the plug of a box and its mark, or a leg."""
    if contact.thing in ("switch", "port", "supply", "second switch"):
        return f"{contact.thing} {contact.label}"
    for end in build.ends:
        if end.id == contact.thing:
            several = len({e.id for e in build.ends if e.device == end.device}) > 1
            which = f", {end.connector.name}" if several else ""
            return f"{end.name}{which} {contact.label}"
    key = build.key_end
    if key is not None and key.id == contact.thing:
        return f"{key.name}, {key.connector.name} {contact.label}"
    return str(contact)


def _inside_boxes(build, joined):
    """A box joins its own sockets inside, for instance their grounds: nobody solders that."""
    box = {e.id: e.device for e in build.ends}
    for net in build.nets:
        for one in net.contacts:
            for other in net.contacts:
                if one.thing != other.thing and box.get(one.thing, 0) == box.get(other.thing, 1):
                    joined.join(printed(build, one), printed(build, other))


def differences(of):
    """The same of a station that is still to be solved."""
    return differences_of(verdict_of(of))


def differences_of(found):
    """Contacts that the rows leave apart though they are one net, and nets that they join."""
    rows = [r for s in worksheets(found, "2026-03-14") for r in s.rows]
    joined = soldered(rows)
    _inside_boxes(found.build, joined)
    homes = {}
    for net in found.build.nets:
        names = {printed(found.build, c) for c in net.contacts}
        ways = {joined.of(n) for n in names}
        if len(ways) > 1:
            yield f"apart: {sorted(names)}"
        for way in ways:
            if homes.setdefault(way, net.name) != net.name:
                yield f"joined: {homes[way]} and {net.name}"
