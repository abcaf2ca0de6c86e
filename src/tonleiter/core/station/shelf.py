"""What is on the shelf, in the order people look for it, and how much of it is known."""

from __future__ import annotations

from dataclasses import dataclass
from typing import get_args

from tonleiter.core.gear.base import Gear, Shelf
from tonleiter.core.station.devices import Device
from tonleiter.core.station.edits import uses_of
from tonleiter.core.station.model import Station
from tonleiter.core.words import count_of, the


@dataclass(frozen=True)
class Known:
    """Facts that somebody looked up or measured, of all the facts that matter."""

    known: int
    of: int


@dataclass(frozen=True)
class Group:
    """A heading and the gear under it."""

    title: str
    gear: tuple[Gear, ...]


def known_figures(gear: Gear) -> Known:
    """Facts of a piece that are not merely typical; its settings are no facts."""
    idle = gear.idle_fields()
    facts = [f for f in gear.figures() if f not in gear.choices and f not in idle]
    return Known(sum(gear.figure(f).basis != "typical" for f in facts), len(facts))


def several(station: Station) -> tuple[Device, ...]:
    """Boxes that are more than one piece: of several sockets, or of none."""
    return tuple(d for d in station.devices if len(d.ports) != 1)


def groups(station: Station) -> tuple[Group, ...]:
    """Headings in the order people look, each with the pieces that say they stand there.

    Sockets of a box that has several stand under that.
    """
    inside = {port for box in several(station) for port in box.ports}
    headings: tuple[Shelf, ...] = get_args(Shelf)
    return tuple(
        Group(
            title, tuple(g for g in station.gear if g.shelf_group() == title and g.id not in inside)
        )
        for title in headings
    )


def sentence(station: Station) -> tuple[str, str]:
    """What there is, and what is worth finding out."""
    mine = [g for g in station.gear if not g.guest]
    guests = len(station.gear) - len(mine)
    counted = [known_figures(g) for g in station.gear]
    known, of = sum(k.known for k in counted), sum(k.of for k in counted)
    pieces = f"{count_of(len(mine), 'piece')} on the shelf"
    if guests:
        pieces += f", {count_of(guests, 'guest')}"
    if not station.gear:
        return "The shelf is empty.", "Add what you speak into and what it should go to first."
    says = f"{pieces}; {known} of {of} figures are known."
    if known == of:
        return says, "All of them were looked up or measured."
    # what stands in a chain matters first
    used = [g for g in station.gear if uses_of(station, g.id)] or list(station.gear)
    poor = [(g.name, known_figures(g)) for g in used]
    least = min(poor, key=lambda p: (p[1].known / max(p[1].of, 1), -p[1].of))
    if least[1].known == least[1].of:
        return says, "All figures of what stands in a chain were looked up or measured."
    return says, f"Least is known of {the(least[0])}: the bench on the right finds figures."
