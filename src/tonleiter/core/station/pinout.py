"""Pinouts: which contact of a connector carries which leg of a socket's joint.

A pinout belongs to a device's connector, not to a shell. One that was read from the wrong face is
the mirror image of the right one; where a connector of the same shell is known, that is recognised.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.gear.base import Gear
from tonleiter.core.station.contacts import At
from tonleiter.core.station.devices import Connector, Contact, Device, Role
from tonleiter.core.station.model import Station
from tonleiter.core.station.shells import SHELLS, Half, Leg, Shell, mirrored_label, usual_shell

Side = Literal["plug", "in", "out"]

# the roles that carry each leg, by what the socket is, the first that is there counts
_HOT_IN: tuple[Role, ...] = ("microphone", "data-in")
_DATA_IN: tuple[Role, ...] = ("data-in", "microphone")
# of what is only listened to: an earphone's contact is called by what the radio gives there
_HEARD_IN: tuple[Role, ...] = ("data-in", "audio-out", "microphone")
_HOT_OUT: tuple[Role, ...] = ("audio-out", "data-out", "microphone")
_SPOKEN_OUT: tuple[Role, ...] = ("microphone", "data-out", "audio-out")
_GROUNDS: tuple[Role, ...] = ("microphone-ground", "data-ground", "audio-ground")
# each sound comes back by its own ground, where the plug has several
_GROUND_OF: dict[Role, Role] = {
    "microphone": "microphone-ground",
    "data-in": "data-ground",
    "data-out": "data-ground",
    "audio-out": "audio-ground",
}


@dataclass(frozen=True)
class End:
    """A connector as it takes part in a build; one that nobody entered is guessed, and says so.

    ``feeds``: sound leaves the box by it. ``lead_half`` is the half that belongs on the lead.
    ``hot``: roles of contacts that may carry its sound, the likeliest first.
    """

    device: str
    name: str
    connector: Connector
    guessed: bool
    feeds: bool = False
    lead_half: Half = "male"
    hot: tuple[Role, ...] = _HOT_IN

    @property
    def id(self) -> str:
        """The connector as a station names it."""
        return f"{self.device}.{self.connector.id}"

    def ref(self, label: str) -> At:
        """A contact as a net list names it."""
        return At(self.id, label)

    def roles_for(self, leg: Leg) -> tuple[Role, ...]:
        """Roles of contacts that may carry a leg, the likeliest first."""
        if leg == "hot":
            return self.hot
        sound = self._first_of(self.hot)
        own = None if sound is None else _GROUND_OF.get(sound.role)
        grounds = sorted(_GROUNDS, key=lambda role: role != own)
        carries: dict[Leg, tuple[Role, ...]] = {
            "cold": ("cold", *grounds, "screen"),
            "screen": ("screen", *grounds),
            "transmit": ("transmit",),
            # what keys the radio comes back by the cold wire of the sound only without a ground
            "transmit-ground": ("transmit-ground", *grounds, "screen", "cold"),
        }
        return carries[leg]

    def contact_of(self, leg: Leg) -> Contact | None:
        """The contact that carries a leg; None where the pinout does not say."""
        return self._first_of(self.roles_for(leg))

    def _first_of(self, roles: tuple[Role, ...]) -> Contact | None:
        for role in roles:
            found = next((c for c in self.connector.contacts if c.role == role), None)
            if found is not None:
                return found
        return None


def has_plugs(gear: Gear) -> bool:
    """Whether a piece is a box with sockets or a plug of its own, and not soldered or a lead."""
    return not gear.lead and (gear.bought_whole or gear.role != "between")


def plug_place(pieces: Sequence[Gear]) -> int:
    """Place of what stands first behind the radio's socket: itself, or what was built into it."""
    at = len(pieces) - 1
    while at > 1 and pieces[at - 1].cut_into_radio:
        at -= 1
    return at


def end_of(station: Station, gear: Gear, balanced: bool, side: Side = "plug") -> End:
    """The connector of a socket: as entered, or a usual one for what it is.

    A piece that is gone through has two: ``side`` is ``in`` or ``out`` there.
    """
    device = station.device_by_port.get(gear.id)
    feeds = side == "out" or (side == "plug" and gear.role == "microphone")
    name = gear.name if device is None else device.name
    box = gear.id if device is None else device.id

    def made_of(connector: Connector, guessed: bool) -> End:
        computer = device is not None and device.kind == "computer"
        half = SHELLS[connector.shell].on_lead("out" if feeds else "in", computer, connector.half)
        hot = _sent_by(gear) if feeds else _taken_by(station, gear, connector)
        return End(box, name, connector, guessed, feeds, half, hot)

    entered = None if device is None else _entered(device, gear.id, side)
    if entered is not None and entered.contacts:
        return made_of(entered, False)
    shell: Shell = entered.shell if entered is not None else _usual_shell(gear, balanced)
    # a box with several sockets has a plug at each
    several = device is not None and len(device.ports) > 1
    usual_id = f"{side}-{gear.id}"[:60] if several else side
    made = Connector(
        id=entered.id if entered is not None else usual_id,
        name=entered.name if entered is not None else side,
        shell=shell,
        ports=(gear.id,),
        contacts=usual_contacts(shell, gear, balanced),
    )
    return made_of(made, True)


def transmit_end(station: Station, gear: Gear, own: End) -> End | None:
    """The connector of a radio's box that has its transmit contact: the sound's own, or another.

    None where no contact is known to key it.
    """
    if own.contact_of("transmit") is not None:
        return own
    device = station.device_by_port.get(gear.id)
    for connector in device.connectors if device is not None else ():
        if any(c.role == "transmit" for c in connector.contacts):
            half = SHELLS[connector.shell].on_lead("in", False, connector.half)
            return End(own.device, own.name, connector, False, False, half)
    return None


def _sent_by(gear: Gear) -> tuple[Role, ...]:
    """Roles by which its sound leaves a box."""
    return _SPOKEN_OUT if gear.acoustic else _HOT_OUT


def _taken_by(station: Station, gear: Gear, connector: Connector) -> tuple[Role, ...]:
    """Roles by which sound comes into a socket; not where another one of the plug sends its own."""
    if gear.role != "input" or gear.transmits:
        return _DATA_IN if gear.kind_id == "data-socket" else _HOT_IN
    there = {c.role for c in connector.contacts}
    pieces = (station.gear_by_id[port] for port in connector.ports)
    sent = [
        next((role for role in _sent_by(p) if role in there), None)
        for p in pieces
        if p.role == "microphone"
    ]
    return tuple(sorted(_HEARD_IN, key=lambda role: role in sent))


def _entered(device: Device, port: str, side: str) -> Connector | None:
    """The connector that serves a socket: of two that do not say it, the first is the input's."""
    found = [c for c in device.connectors if port in c.ports]
    said = next((c for c in found if c.way == side), None)
    if said is not None or side == "plug":
        return said or (found[0] if found else None)
    other = "out" if side == "in" else "in"
    if any(c.way is not None for c in found):
        return next((c for c in found if c.way != other), None)
    if side == "out":
        return found[1] if len(found) > 1 else None
    return found[0] if found else None


def _usual_shell(gear: Gear, balanced: bool) -> Shell:
    if balanced:
        return usual_shell("balanced")
    if gear.role == "microphone" and gear.acoustic:
        return usual_shell("loose")
    return usual_shell("computer" if gear.device == "computer" else "line")


def usual_contacts(shell: Shell, gear: Gear, balanced: bool) -> tuple[Contact, ...]:
    """What the contacts of a standard plug carry; where no standard says it, nothing is guessed."""
    hot: Role = "data-out" if gear.role == "microphone" and not gear.acoustic else "microphone"
    if gear.kind_id == "data-socket":
        hot = "data-in"
    cold: Role = "cold" if balanced else "microphone-ground"
    facts = SHELLS[shell]
    carries: dict[Leg, Role] = {"hot": hot, "cold": cold, "screen": "screen"}
    known = {label: carries[leg] for label, leg in facts.usual(balanced).items()}
    return tuple(
        Contact(label=label, role=known.get(label, "unknown"))
        for label in facts.labels
        if label in known or facts.usual_for != "loose"
    )


def mirrored(connector: Connector, known: Iterable[Connector]) -> Connector | None:
    """The known connector of the same shell whose mirror image this one is; None if it is none."""
    for other in known:
        if other.shell == connector.shell and _is_mirror(connector, other):
            return other
    return None


def _is_mirror(one: Connector, other: Connector) -> bool:
    mine = _known_roles(one)
    return len(mine) >= 2 and mine != _known_roles(other) and mine == _known_roles(turned(other))


def _known_roles(connector: Connector) -> dict[str, Role]:
    return {c.label: c.role for c in connector.contacts if c.role not in ("unknown", "free")}


def turned(connector: Connector) -> Connector:
    """The pinout as it is seen from the other face; every role that was entered is still there."""
    landed: dict[str, Role] = {}
    for contact in connector.contacts:
        place = mirrored_label(connector.shell, contact.label, connector.counted)
        landed[contact.label if place is None else place] = contact.role
    labels = dict.fromkeys((*(c.label for c in connector.contacts), *landed))
    contacts = tuple(Contact(label=x, role=landed.get(x, "unknown")) for x in labels)
    return connector.model_copy(update={"contacts": contacts})
