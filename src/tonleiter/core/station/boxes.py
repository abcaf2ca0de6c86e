"""Edits of boxes and of the leads between them; invalid results raise ValidationError."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from tonleiter.core.gear.base import Gear
from tonleiter.core.station.devices import (
    LINK_NAMES,
    Connector,
    Device,
    Link,
    LinkKind,
    link_of,
    with_ports,
)
from tonleiter.core.station.edits import change_station, fresh_id, remove_gear
from tonleiter.core.station.model import Station
from tonleiter.core.words import the


def _with_device(station: Station, device: Device) -> tuple[Device, ...]:
    return tuple(device if d.id == device.id else d for d in station.devices)


def _changed(device: Device, **changes: Any) -> Device:  # noqa: ANN401
    fields = {name: getattr(device, name) for name in Device.model_fields}
    return Device.model_validate(fields | changes)


def change_device(station: Station, device_id: str, **changes: Any) -> Station:  # noqa: ANN401
    """Change fields of a box; its sockets take over its supply and its earth."""
    device = _changed(station.device_by_id[device_id], **changes)
    shared = {"supply": device.supply, "earth_emf_v": device.earth_emf_v}
    gear = tuple(_agreeing(g, shared) if g.id in device.ports else g for g in station.gear)
    return change_station(station, devices=_with_device(station, device), gear=gear)


def set_connector(station: Station, device_id: str, connector: Connector) -> Station:
    """Put a connector in the place of the one with its id; a new one comes last."""
    there = station.device_by_id[device_id].connectors
    if any(c.id == connector.id for c in there):
        connectors = tuple(connector if c.id == connector.id else c for c in there)
    else:
        connectors = (*there, connector)
    return change_device(station, device_id, connectors=connectors)


def _agreeing(gear: Gear, shared: dict[str, Any]) -> Gear:
    """A socket with the supply and earth of its box, as far as it has such fields."""
    differs = {f: v for f, v in shared.items() if getattr(gear, f, v) != v}
    return gear.with_values(differs) if differs else gear


def add_device(station: Station, device: Device, sockets: Iterable[Gear] = ()) -> Station:
    """Put a box on the shelf, with sockets that are new; ids that are taken get a number."""
    taken = set(station.gear_by_id)
    shared = {"supply": device.supply, "earth_emf_v": device.earth_emf_v}
    arrived: list[Gear] = []
    names: dict[str, str] = {}
    for socket in sockets:
        new = fresh_id(taken, socket.id)
        taken.add(new)
        names[socket.id] = new
        arrived.append(_agreeing(socket.with_values({"id": new}), shared))
    connectors = tuple(
        c.model_copy(update={"ports": tuple(names.get(p, p) for p in c.ports)})
        for c in device.connectors
    )
    device = _changed(
        device,
        id=fresh_id(set(station.device_by_id), device.id),
        ports=tuple(g.id for g in arrived),
        connectors=connectors,
    )
    return change_station(
        station, gear=(*station.gear, *arrived), devices=(*station.devices, device)
    )


def remove_device(station: Station, device_id: str) -> Station:
    """Take a box away with its sockets, what needs those, and the leads that go to it."""
    device = station.device_by_id[device_id]
    for port in device.ports:
        station = remove_gear(station, port)
    return change_station(
        station,
        devices=tuple(d for d in station.devices if d.id != device_id),
        links=tuple(x for x in station.links if device_id not in (x.a, x.b)),
    )


def put_into(station: Station, device_id: str, gear_id: str) -> Station:
    """Make a piece a socket of a box; the box that it was by itself goes, its leads move over."""
    device = station.device_by_id[device_id]
    was = station.device_by_port.get(gear_id)
    if was is None or was.id == device_id:
        return station
    device = _changed(device, ports=(*device.ports, gear_id))
    left = tuple(p for p in was.ports if p != gear_id)
    devices = tuple(
        device if d.id == device_id else _without(d, gear_id) if d.id == was.id else d
        for d in station.devices
        if left or d.id != was.id
    )
    links = station.links if left else _moved(station.links, was.id, device_id)
    shared = {"supply": device.supply, "earth_emf_v": device.earth_emf_v}
    gear = tuple(_agreeing(g, shared) if g.id == gear_id else g for g in station.gear)
    return change_station(station, devices=devices, links=links, gear=gear)


def take_out(station: Station, gear_id: str) -> Station:
    """Make a socket a box by itself again."""
    was = station.device_by_port[gear_id]
    devices = tuple(_without(d, gear_id) if d.id == was.id else d for d in station.devices)
    return change_station(station, devices=devices)


def _without(device: Device, port: str) -> Device:
    return with_ports(device, set(device.ports) - {port})


def _moved(links: tuple[Link, ...], was: str, now: str) -> tuple[Link, ...]:
    """Leads at another box; one that would then join a box to itself goes."""
    moved = []
    for link in links:
        a, b = (now if end == was else end for end in (link.a, link.b))
        if a != b:
            moved.append(link.model_copy(update={"a": a, "b": b}))
    return tuple(moved)


def add_link(station: Station, kind: LinkKind, a: str, b: str, name: str = "") -> Station:
    """Join two boxes by a lead. What USB feeds has no way to earth of its own then."""
    new = fresh_id({link.id for link in station.links}, f"{kind}-{a}-{b}")
    name = name or _lead_name(station, kind, a, b)
    station = change_station(station, links=(*station.links, link_of(kind, a, b, new, name)))
    if kind == "usb":
        for end in (a, b):
            if station.device_by_id[end].supply == "usb-computer":
                station = change_device(station, end, supply="lead")
    return station


def _lead_name(station: Station, kind: LinkKind, a: str, b: str) -> str:
    """A lead is called after the box that it is for: not the computer or the supply at its end."""
    ends = [station.device_by_id[end] for end in (a, b) if end in station.device_by_id]
    own = next((d for d in ends if d.kind not in ("computer", "supply")), ends[0] if ends else None)
    name = LINK_NAMES[kind] if own is None else f"{LINK_NAMES[kind]} of {the(own.name)}"
    taken, count, numbered = {link.name for link in station.links}, 2, name
    while numbered in taken:
        numbered, count = f"{name}, {count}", count + 1
    return numbered[:80]


def change_link(station: Station, link_id: str, **changes: Any) -> Station:  # noqa: ANN401
    """Change fields of a lead."""
    links = tuple(
        Link.model_validate({n: getattr(x, n) for n in Link.model_fields} | changes)
        if x.id == link_id
        else x
        for x in station.links
    )
    return change_station(station, links=links)


def remove_link(station: Station, link_id: str) -> Station:
    """Pull a lead out."""
    return change_station(station, links=tuple(x for x in station.links if x.id != link_id))
