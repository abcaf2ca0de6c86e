"""Chains that nobody chose: a source, up to two pieces, an input, all of the library."""

from __future__ import annotations

import random

from tonleiter.core.gear.base import Gear
from tonleiter.core.match.terms import lead_for
from tonleiter.core.station.adopt import adopt_path
from tonleiter.core.station.begin import begun
from tonleiter.core.station.edits import add_gear
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PURPOSES

DISTANCES_MM = (10.0, 30.0, 300.0)


def random_path(rng: random.Random, library: list[Gear]) -> list[Gear]:
    """Pieces from a source to an input."""
    between = [g for g in library if g.role == "between" and not g.lead]
    middle = rng.sample(between, rng.choice((0, 0, 1, 1, 2)))
    ends = [rng.choice([g for g in library if g.role == role]) for role in ("microphone", "input")]
    return [ends[0], *middle, ends[1]]


def chained(path: list[Gear], rng: random.Random) -> Station:
    """A station with them as its chain, for some purpose, spoken into from somewhere."""
    station = begun()
    for piece in path:
        station = add_gear(station, piece)
    pieces = (path[0], lead_for(path[0]), *path[1:])
    purpose, mm = rng.choice(list(PURPOSES)), rng.choice(DISTANCES_MM)
    made: Station = adopt_path(station, pieces, "x", purpose, "operator", mm)
    return made
