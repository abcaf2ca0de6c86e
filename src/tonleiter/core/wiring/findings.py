"""What is wrong, or easily overlooked, in the wiring of a build."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.station.boxes import set_connector
from tonleiter.core.station.model import Station
from tonleiter.core.wiring.build import Build
from tonleiter.core.wiring.pinout import End, mirrored, turned

Severity = Literal["stop", "mind", "fine"]


@dataclass(frozen=True)
class WiringFinding:
    """One thing found: where, in one sentence, why; ``fix`` is the edit that mends it, if any."""

    code: str
    severity: Severity
    place: str
    says: str
    proof: str
    remedy: str = ""
    fix: Callable[[Station], Station] | None = None


def findings_of(station: Station, build: Build) -> tuple[WiringFinding, ...]:
    """All of them, the gravest first."""
    order = ("stop", "mind", "fine")
    found = [f for rule in RULES for f in rule(station, build)]
    return tuple(sorted(found, key=lambda f: order.index(f.severity)))


def supply_left_open(_: Station, build: Build) -> Iterator[WiringFinding]:
    """A contact that carries a supply and is not used shorts it by one strand."""
    for left in build.leftovers:
        if left.role == "bias":
            yield WiringFinding(
                "supply-contact-free", "mind", left.contact,
                f"Contact {left.contact.rpartition('.')[2]} carries a supply that nothing uses",
                "a loose strand or the screen's tail on it shorts the set's regulator",
                "Insulate it, and cut the tail of the screen short",
            )  # fmt: skip


def pinout_unknown(_: Station, build: Build) -> Iterator[WiringFinding]:
    """A leg that no contact is known to carry cannot be soldered."""
    for leg in build.unknown:
        yield WiringFinding(
            "pinout-unknown", "stop", leg,
            f"It is not known which contact carries the {leg}",
            "its connector has no pinout: the manual of the box has one, or a meter finds it",
            "Enter the pinout of the box in Gear",
        )  # fmt: skip


def read_from_the_other_side(station: Station, build: Build) -> Iterator[WiringFinding]:
    """A pinout that is another one's mirror image was read from the wrong face."""
    known = [
        c
        for device in station.devices
        for c in device.connectors
        if c.contacts and c.basis != "typical"
    ]
    for end in {e.ref(""): e for e in build.ends if not e.guessed}.values():
        others = [c for c in known if c is not end.connector]
        other = mirrored(end.connector, others)
        if other is not None:
            yield WiringFinding(
                "pinout-mirrored", "stop", end.ref("")[:-1],
                f"The pinout of {end.connector.name} on the {end.name} is the mirror of"
                f" {other.name}'s",
                "same shell, same roles, every contact on the other side: one of the two was read"
                " from the solder side",
                "Turn the pinout over", _turned_over(end),
            )  # fmt: skip


def _turned_over(end: End) -> Callable[[Station], Station]:
    def turn(station: Station) -> Station:
        return set_connector(station, end.device, turned(end.connector))

    return turn


RULES = (pinout_unknown, read_from_the_other_side, supply_left_open)
