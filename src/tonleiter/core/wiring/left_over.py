"""Contacts that nothing uses, and decisions by hand about what is not there any more."""

from __future__ import annotations

from collections.abc import Iterable

from tonleiter.core.station.contacts import At
from tonleiter.core.station.devices import Role
from tonleiter.core.station.pinout import End
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.station.wiring import TransmitWay, Wiring
from tonleiter.core.wiring.model import LEG_WORDS, Conductor, Leftover


def leftovers(
    ends: Iterable[End], used: set[At], wiring: Wiring, way: TransmitWay | None
) -> tuple[Leftover, ...]:
    """Contacts that nothing uses, of connectors that somebody entered; ``way`` keys the radio."""
    do = _DO | _INTERFACE_KEYS if way == "interface-vox" else _DO
    return tuple(
        Leftover(
            end.ref(c.label),
            c.role,
            do.get(c.role, "leave free"),
            end.ref(c.label) in wiring.insulated,
        )
        for end in dict.fromkeys(ends)
        for c in end.connector.contacts
        if end.ref(c.label) not in used and not end.guessed
    )


def stale(ends: Iterable[End], wires: Iterable[Conductor], w: Wiring) -> tuple[str, ...]:
    """Decisions by hand about an end or a wire that is not here any more."""
    known = {e.id: e for e in ends}
    keys = {c.key for c in wires}
    gone = [
        f"{LEG_WORDS.get(x.leg, x.leg)} at {x.end}"
        for x in w.landings
        if x.end not in known or (x.contact is not None and not _has(known[x.end], x.contact, w))
    ]
    gone += [
        f"bridge of {' and '.join(b.contacts)} at {b.end}"
        for b in w.bridges
        if b.end not in known or not all(_has(known[b.end], c, w) for c in b.contacts)
    ]
    gone += [f"plug at {p.end}" for p in w.plugs if p.end not in known]
    gone += [f"colour of {d.wire}" for d in w.dresses if d.wire not in keys]
    return tuple(gone)


def _has(end: End, label: str, wiring: Wiring) -> bool:
    shell = wiring.plug(end.id) or end.connector.shell
    return label in SHELLS[shell].labels or any(c.label == label for c in end.connector.contacts)


_DO: dict[Role, str] = {
    "bias": "carries a supply that nothing uses: insulate it, it must not meet the screen",
    "transmit": "the transmit line: no switch of this build uses it; insulate it",
    "transmit-ground": "leave free: the switch has no wire here",
    "up-down": "leave free",
    "squelch": "leave free",
    "audio-out": "leave free; it gives receive audio",
    "unknown": "nobody knows what it carries: insulate it and leave it free",
    "screen": "to the case of the plug",
}
# an interface keys by an output of its own: what is insulated here would never key
_INTERFACE_KEYS: dict[Role, str] = {
    "transmit": "to the key output of the interface, as its manual names it",
    "transmit-ground": "to the return of the interface's key output",
}
