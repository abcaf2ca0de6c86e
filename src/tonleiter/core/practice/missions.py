"""Missions by family, kind and seed: the one place that makes them."""

from __future__ import annotations

import random
from collections.abc import Callable

from tonleiter.core.practice import build, computer, voice
from tonleiter.core.practice.riddle import Family, Riddle
from tonleiter.core.refused import RefusedError

_MAKERS: dict[Family, Callable[[int, str | None], Riddle | None]] = {
    "voice": voice.make,
    "computer": computer.make,
    "build": build.make,
}
# seeds that give none (a station whose guide does not end well) are followed by the next
TRIES, STRIDE = 12, 100_003


class MissionError(RefusedError):
    """A mission that cannot be made; one line says why."""


def mission(family: Family, seed: int, kind: str | None = None) -> Riddle:
    """The mission of a seed; the same one each time. Raises MissionError."""
    for k in range(TRIES):
        made = _MAKERS[family](seed + k * STRIDE, kind)
        if made is not None and made.causes and len(made.causes) > 1:
            return made
    raise MissionError("no mission comes of this seed: another one is wanted")


def any_mission(
    rng: random.Random, family: Family | None = None, kind: str | None = None
) -> Riddle:
    """Some mission: of a family, or any."""
    families: tuple[Family, ...] = ("voice", "computer", "build")
    chosen: Family = family if family is not None else rng.choice(families)
    return mission(chosen, rng.randrange(STRIDE), kind)
