"""Boxes: one chassis with several sockets, and the leads that join one chassis to another.

A socket of a box (its port) is a piece of gear. A lead here carries no sound of a chain: what it
does is to join two chassis through its own resistance.
"""

from __future__ import annotations

from collections.abc import Container, Iterable
from typing import Literal

from pydantic import Field

from tonleiter.core.gear.base import DeviceKind, Gear, Id, Lines, Name
from tonleiter.core.gear.figure import Basis, Ohms, Volts, Watts, typical
from tonleiter.core.gear.net import Supply
from tonleiter.core.safety.cautions import Hazard
from tonleiter.core.station.computer import Computer, VoiceSwitch
from tonleiter.core.station.shells import Counted, Half, Shell
from tonleiter.core.station.transmitter import Transmitter
from tonleiter.core.station.value import Value

MOST_PORTS, MOST_CONNECTORS = 64, 64

Role = Literal[
    "microphone",
    "cold",
    "microphone-ground",
    "bias",
    "transmit",
    "transmit-ground",
    "up-down",
    "squelch",
    "audio-out",
    "audio-ground",
    "data-in",
    "data-out",
    "data-ground",
    "screen",
    "free",
    "unknown",
]

Inside = Literal["low-voltage", "lethal-voltage"]


class Contact(Value):
    """A contact of a connector, as it is marked, and what it is for.

    ``open_v`` stands on it with nothing plugged in, behind ``through_ohm``; where nobody said it,
    both are what is usual for its role.
    """

    label: Name
    role: Role = "unknown"
    open_v: Volts | None = None
    through_ohm: Ohms | None = None
    negative: bool = False
    """Whether its volts are below its ground: some old sets key a line that stands negative."""


class Connector(Value):
    """A shell on a box, and the sockets of the box whose wires end in it."""

    id: Id
    name: Name
    shell: Shell
    ports: tuple[Id, ...] = Field((), max_length=MOST_PORTS)
    contacts: tuple[Contact, ...] = Field((), max_length=64)
    way: Literal["in", "out"] | None = None
    """Which way sound goes by it; None where the order says: the input's comes first."""
    half: Half | None = None
    """Which half stands on the box, by pins or by holes; None for what is usual for the shell."""
    counted: Counted | None = None
    """How the figures run on a round shell, seen where one solders, from the key on."""
    basis: Basis = "typical"
    read_on: str | None = Field(None, pattern=r"^\d{4}-\d{2}-\d{2}$")


class Device(Value):
    """A box: one chassis, one supply, one way to earth; its ports are pieces of gear by id."""

    id: Id
    name: Name
    kind: DeviceKind = "other"
    supply: Supply = "battery"
    earth_emf_v: Volts = typical(0.0)
    power_w: Watts = typical(100.0)
    """Peak envelope power of a transmitter; nothing else asks for it."""
    transmitter: Transmitter = Transmitter()
    inside: Inside = "low-voltage"
    """What is met by who opens it: valve sets hold lethal voltage, also after switch-off."""
    ports: tuple[Id, ...] = Field((), max_length=MOST_PORTS)
    connectors: tuple[Connector, ...] = Field((), max_length=MOST_CONNECTORS)
    switch: VoiceSwitch = VoiceSwitch()
    """What keys by itself in an interface; nothing else asks for it."""
    computer: Computer | None = None
    """Of a computer: its sound settings, once somebody looked at them."""
    notes: Lines = ""

    @property
    def hazards(self) -> frozenset[Hazard]:
        """What to beware of, by what it is."""
        return frozenset({"lethal-volts"} if self.inside == "lethal-voltage" else ())


LinkKind = Literal["usb", "supply", "data", "coax", "screws", "strap"]
Joins = Literal["both-ends", "one-end", "isolated"]

# resistance of the ground conductor of a usual lead of each kind, with its plugs; typical
LINK_OHM: dict[LinkKind, float] = {
    "usb": 0.1,
    "supply": 0.02,
    "data": 0.15,
    "coax": 0.03,
    "screws": 0.005,
    "strap": 0.005,
}
LINK_NAMES: dict[LinkKind, str] = {
    "usb": "USB lead",
    "supply": "supply lead",
    "data": "data lead",
    "coax": "coax",
    "screws": "rack screws",
    "strap": "earth strap",
}


class Link(Value):
    """A lead between two chassis: its resistance, how it joins them, a ring core if it has one.

    A screen may be open at one end; an isolator leaves a capacitance only.
    """

    id: Id
    name: Name
    kind: LinkKind
    a: Id
    b: Id
    ohm: Ohms = typical(0.1)
    joins: Joins = "both-ends"
    core: Literal["none", "ring-core"] = "none"


def link_of(kind: LinkKind, a: str, b: str, link_id: str, name: str = "") -> Link:
    """A usual lead of a kind."""
    return Link(
        id=link_id,
        name=name or LINK_NAMES[kind],
        kind=kind,
        a=a,
        b=b,
        ohm=typical(LINK_OHM[kind]),
    )


def may_be(kind: LinkKind) -> tuple[Joins, ...]:
    """How a lead of a kind may join.

    USB and supply leads need their ground, screws have no end, and the screen of a coax carries the
    transmitter's current: nobody opens it.
    """
    if kind == "usb":
        return ("both-ends", "isolated")
    if kind == "data":
        return ("both-ends", "one-end", "isolated")
    return ("both-ends",)


def with_ports(device: Device, kept: Container[str]) -> Device:
    """The box with only those of its sockets whose ids are in ``kept``."""
    if all(p in kept for p in device.ports):
        return device
    connectors = tuple(
        c.model_copy(update={"ports": tuple(p for p in c.ports if p in kept)})
        for c in device.connectors
    )
    ports = tuple(p for p in device.ports if p in kept)
    return device.model_copy(update={"ports": ports, "connectors": connectors})


def alone(gear: Gear) -> Device | None:
    """The box that a piece is by itself; None for leads and loose parts."""
    if gear.device is None:
        return None
    return Device(
        id=gear.id,
        name=gear.name,
        kind=gear.device,
        supply=gear.own_supply() or "battery",
        earth_emf_v=gear.own_earth_emf() or typical(0.0),
        ports=(gear.id,),
    )


def completed(devices: tuple[Device, ...], gear: Iterable[Gear]) -> tuple[Device, ...]:
    """The devices, and one more for each piece with a chassis that none of them holds."""
    held = {port for device in devices for port in device.ports}
    taken = {device.id for device in devices}
    more = []
    for piece in gear:
        if piece.id in held or (device := alone(piece)) is None:
            continue
        if device.id in taken:
            count = 2
            while f"{device.id[:50]}-box-{count}" in taken:
                count += 1
            device = device.model_copy(update={"id": f"{device.id[:50]}-box-{count}"})
        taken.add(device.id)
        more.append(device)
    return (*devices, *more) if more else devices
