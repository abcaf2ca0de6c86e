"""What people do about a loop through leads that are not of the chain, and about its earths."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import MOVE, Fix
from tonleiter.core.solve.loops import HumLoop
from tonleiter.core.station.boxes import add_link, change_device, change_link
from tonleiter.core.station.devices import Device, Link, may_be
from tonleiter.core.station.model import Station
from tonleiter.core.words import the

# between two sockets of one outlet strip
ONE_OUTLET_V = 5e-4
TELLING_V = 1e-3


def link_fixes(case: Case, loop: HumLoop) -> Iterator[Fix]:
    """Isolators, open screens, ring cores; a computer on its battery; one outlet for all."""
    links = {link.id: link for link in case.station.links}
    for owner in dict.fromkeys(loop.owners("link")):
        yield from _at_the_lead(links[owner])
    earthed = [
        case.station.device_by_id[b]
        for b in dict.fromkeys(loop.owners("earth"))
        if b in case.station.device_by_id
    ]
    for device in earthed:
        if device.kind == "computer":
            title = f"Run {the(device.name)} from its battery"
            yield Fix(
                title, _device(device, supply="battery"), "nothing then joins it to the mains", MOVE
            )
    yield from _bonds(case, earthed)
    apart = [d for d in earthed if d.kind != "other" and abs(d.earth_emf_v.value) > TELLING_V]
    for device in apart:
        title = f"Run {the(device.name)} from the radio's own outlet"
        yield Fix(title, _device(device, earth_emf_v=ONE_OUTLET_V), "one earth for both", MOVE)


def _bonds(case: Case, earthed: list[Device]) -> Iterator[Fix]:
    """An earth rod far from the house's earth is bonded to it, as codes ask for anyway."""
    houses = [d for d in earthed if d.kind != "other"]
    for rod in (d for d in earthed if d.kind == "other"):
        for house in houses[:1]:
            title = f"Bond {the(rod.name)} to {the(house.name)} by a heavy strap"
            yield Fix(title, _bonded(rod, house), "one earth for both, by local codes")


def _bonded(rod: Device, house: Device) -> Callable[[Station], Station]:
    return lambda station: add_link(station, "strap", rod.id, house.id, "bonding strap")


def _at_the_lead(link: Link) -> Iterator[Fix]:
    ways = may_be(link.kind)
    if link.joins != "both-ends":
        return
    if link.kind == "usb":
        title = f"Put a USB isolator into {the(link.name)}"
        yield Fix(title, _link(link, joins="isolated"), "breaks the loop there")
    elif "one-end" in ways:
        title = f"Open the screen of {the(link.name)} at one end"
        yield Fix(title, _link(link, joins="one-end"), "no current along it")
    if link.core == "none" and link.kind in ("usb", "data", "supply", "coax"):
        title = f"Wind {the(link.name)} on a ring core"
        why = "the loop stays, its hum meets an inductance"
        yield Fix(title, _link(link, core="ring-core"), why)


def _link(link: Link, **values: object) -> Callable[[Station], Station]:
    return lambda station: change_link(station, link.id, **values)


def _device(device: Device, **values: object) -> Callable[[Station], Station]:
    return lambda station: change_device(station, device.id, **values)
