"""The desk: which sound devices a computer has, who holds which role, what the radio's chain needs.

Everything is read from the station: boxes at the computer's USB, what its settings say.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from tonleiter.core.gear.line_sources import LineSource
from tonleiter.core.gear.sockets import LineInput
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.computer import Computer, SystemRole, Way
from tonleiter.core.station.devices import Device
from tonleiter.core.station.model import Station
from tonleiter.core.words import listed, the

OUT_OF: dict[SystemRole, Way] = {
    "system-out": "out",
    "calls-out": "out",
    "system-in": "in",
    "calls-in": "in",
}
ROLE_WORDS: dict[SystemRole, str] = {
    "system-out": "default loudspeaker",
    "calls-out": "loudspeaker for calls",
    "system-in": "default microphone",
    "calls-in": "microphone for calls",
}


def roles_words(roles: Iterable[SystemRole]) -> str:
    """Several roles in few words: what all of them are to a system is said once."""
    held = set(roles)
    ways = [
        ("loudspeaker", {"system-out", "calls-out"}),
        ("microphone", {"system-in", "calls-in"}),
    ]
    found = []
    for word, both in ways:
        mine = held & both
        if mine == both:
            found.append(f"default {word}")
        else:
            found += [ROLE_WORDS[r] for r in ROLE_WORDS if r in mine]
    return listed(found)


class NoDeskError(RefusedError):
    """A chain that does not come from a computer; one line says what is missing."""


@dataclass(frozen=True)
class SoundDevice:
    """A device in the system's list: its name there, which ways it goes, whether it is there now.

    ``box`` is true for one at USB; ``asleep`` for a radio that is off while USB feeds its codec.
    """

    id: str
    called: str
    out: bool
    into: bool
    box: bool = False
    plugged: bool = True
    asleep: bool = False

    def goes(self, way: Way) -> bool:
        """Whether it is a loudspeaker (out) or a microphone (in) to the computer."""
        return self.out if way == "out" else self.into


@dataclass(frozen=True)
class Desk:
    """A computer in front of a chain.

    ``out`` is the device by which the chain is sent into the radio, ``into`` the one by which its
    receiver comes back (None: nothing leads back). ``radio`` is the radio's name.
    """

    computer: Device
    state: Computer
    devices: tuple[SoundDevice, ...]
    out: str
    into: str | None
    radio: str

    def device(self, device_id: str | None) -> SoundDevice | None:
        """A device by its id, whether it is plugged in or not."""
        return next((d for d in self.devices if d.id == device_id), None)

    def there(self, way: Way) -> tuple[SoundDevice, ...]:
        """What the system lists that way, in its order."""
        return tuple(d for d in self.devices if d.plugged and d.goes(way))

    def holder(self, role: SystemRole) -> SoundDevice | None:
        """Who holds a role: as set while that is there, else the first listed; None: nobody."""
        way = OUT_OF[role]
        found = self.device(self.state.roles.get(role))
        if found is not None and found.plugged and found.goes(way):
            return found
        return next(iter(self.there(way)), None)

    def nowhere(self) -> tuple[SystemRole, ...]:
        """Roles that point to what is not there."""
        return tuple(
            role
            for role, held in self.state.roles.items()
            if (d := self.device(held)) is None or not d.plugged or not d.goes(OUT_OF[role])
        )

    def program(self, way: Way) -> SoundDevice | None:
        """Where the data program sends to, or hears from: its choice, else the default."""
        chosen = self.device(self.state.program.get(way))
        if chosen is not None and chosen.plugged and chosen.goes(way):
            return chosen
        return self.holder("system-out" if way == "out" else "system-in")

    def chose(self, way: Way) -> bool:
        """Whether the data program names a device of its own that is there."""
        found = self.device(self.state.program.get(way))
        return found is not None and found.plugged and found.goes(way)

    @property
    def of_radio(self) -> frozenset[str]:
        """The devices by which the radio is heard and sent into."""
        return frozenset(d for d in (self.out, self.into) if d is not None)

    @property
    def sends(self) -> SoundDevice:
        """The device by which the chain is sent."""
        found = self.device(self.out)
        assert found is not None
        return found

    @property
    def is_own(self) -> bool:
        """Whether the chain comes from the computer's own socket: no box between."""
        return not self.sends.box

    @property
    def taken(self) -> tuple[SystemRole, ...]:
        """Roles that the radio's devices hold."""
        return tuple(
            role
            for role in OUT_OF
            if (h := self.holder(role)) is not None and h.id in self.of_radio
        )

    def twice(self) -> tuple[SoundDevice, ...]:
        """Devices of one name with another one, the same way, of which one is the radio's."""
        found = []
        for one in self.devices:
            if not one.plugged or one.id not in self.of_radio:
                continue
            others = (d for d in self.devices if d.plugged and d.id != one.id)
            if any(
                d.called == one.called and (d.out, d.into) == (one.out, one.into) for d in others
            ):
                found.append(one)
        return tuple(found)


def desk_of(station: Station, chain_id: str | None = None, variant_id: str | None = None) -> Desk:
    """The desk of a chain. Raises KeyError for unknown ids, NoDeskError where no computer is."""
    stages = station.chain(chain_id).variant(variant_id).stages
    source, socket = (station.placed(s) for s in (stages[0], stages[-1]))
    if not isinstance(source, LineSource):
        raise NoDeskError(f"{the(source.name)} is no computer: a {source.noun}")
    sends = station.device_by_port[source.id]
    computer = computer_of(station, sends)
    radio = station.device_by_port.get(socket.id)
    back = way_back(station, sends, computer, radio)
    return Desk(
        computer=computer,
        state=settings_of(station, computer),
        devices=devices_of(station, computer),
        out=sends.id,
        into=station.device_by_port[back[1]].id if back else None,
        radio=radio.name if radio is not None else socket.name,
    )


def has_desk(station: Station, chain_id: str | None = None) -> bool:
    """Whether a chain comes from a computer."""
    try:
        desk_of(station, chain_id)
    except NoDeskError:
        return False
    return True


def computer_of(station: Station, box: Device) -> Device:
    """The computer that a box is, or hangs on. Raises NoDeskError."""
    if box.kind == "computer":
        return box
    if box.kind == "other":
        # a source of its own that nobody called a player: what sends data is a computer
        return box
    for link in station.links:
        if link.kind == "usb" and box.id in (link.a, link.b):
            other = station.device_by_id[link.b if link.a == box.id else link.a]
            if other.kind == "computer":
                return other
    raise NoDeskError(
        f"no computer hangs on {the(box.name)}: lay its USB lead to one, in Gear (1), by its boxes"
    )


def boxes_at(station: Station, computer: Device) -> tuple[Device, ...]:
    """Boxes at a computer's USB that have converters: something to send by, or to hear with."""
    found = []
    for link in station.links:
        if link.kind != "usb" or computer.id not in (link.a, link.b):
            continue
        box = station.device_by_id[link.b if link.a == computer.id else link.a]
        if any(_converter(station, port) for port in box.ports) and box not in found:
            found.append(box)
    return tuple(found)


def settings_of(station: Station, computer: Device) -> Computer:
    """Its sound settings; where nobody looked at them yet, those with nothing at USB plugged in."""
    if computer.computer is not None:
        return computer.computer
    return Computer(unplugged=tuple(b.id for b in boxes_at(station, computer)))


def lines_back(station: Station, sends: Device, computer: Device) -> frozenset[str]:
    """Ports that are inputs of the box that sends, or of the computer itself."""
    ports = (*sends.ports, *computer.ports)
    return frozenset(p for p in ports if isinstance(station.gear_by_id[p], LineInput))


def _converter(station: Station, port: str) -> Way | None:
    piece = station.gear_by_id[port]
    if isinstance(piece, LineInput):
        return "in"
    return "out" if isinstance(piece, LineSource) else None


def devices_of(station: Station, computer: Device) -> tuple[SoundDevice, ...]:
    """What its system lists: what is built in, its own sockets, boxes at USB, plugged in or not."""
    state = settings_of(station, computer)
    at_usb = boxes_at(station, computer)
    taken = {computer.id, *(b.id for b in at_usb)}
    found = [
        SoundDevice(d.id, d.name, d.way == "out", d.way == "in")
        for d in state.own
        if d.id not in taken
    ]
    boxes = [computer] if any(_converter(station, p) for p in computer.ports) else []
    for box in (*boxes, *at_usb):
        ways = {_converter(station, p) for p in box.ports}
        called = state.called.get(box.id, box.name if box is not computer else "own sockets")
        found.append(
            SoundDevice(
                box.id,
                called,
                "out" in ways,
                "in" in ways,
                box=box is not computer,
                plugged=box.id not in state.unplugged,
                asleep=box.id in state.asleep,
            )
        )
    return tuple(found)


def way_back(
    station: Station, sends: Device, computer: Device, radio: Device | None
) -> tuple[str, ...]:
    """The chain from the radio's receiver into the computer, and its input's id; empty: none."""
    if radio is None:
        return ()
    inputs = lines_back(station, sends, computer)
    for chain in station.chains:
        stages = chain.variant().stages
        first, last = stages[0].gear, stages[-1].gear
        box = station.device_by_port.get(first)
        if last in inputs and box is not None and box.id == radio.id:
            return chain.id, last
    return ()
