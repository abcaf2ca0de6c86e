"""What one can look at to find a cause: how it is done, how long it takes, how it is compared.

What a look shows under a cause is computed by whoever knows the station; here it is only told how
near two things that were seen are to each other.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.units.levels import signed

Seen = float | str
# what must be seen to before somebody looks so: a dummy load before anything is keyed, no power
# before ohms, headphones down before anything is switched on
Care = Literal["dummy-load", "power-off", "headphones-down"]
CARE_WORDS: dict[Care, str] = {
    "dummy-load": "Dummy load on, lowest power",
    "power-off": "Power off, unplugged",
    "headphones-down": "Headphones down",
}
# a word that is another one is hardly ever a slip; a figure has tails as wide as a rough hand
OTHER_WORD, TAIL = 0.02, 1e-3


@dataclass(frozen=True)
class Look:
    """One thing to look at. ``sigma`` is how far two equal things may read apart, in its unit.

    ``relative``: sigma is a share of the figure, for what spans decades. ``said_by_others``: words
    of listeners, who differ and are kind. ``where`` is the space of the application that knows how
    it is done.
    """

    id: str
    title: str
    how: str
    minutes: float
    where: str
    unit: str = ""
    sigma: float = 1.0
    relative: bool = False
    care: tuple[Care, ...] = ()
    said_by_others: bool = False
    power: bool = False
    """Whether it wants power on: with it off nothing shows."""

    def likeness(self, one: Seen, other: Seen) -> float:
        """How well one thing seen agrees with another that was expected; one at best."""
        if self.said_by_others:
            return _overlap(str(one), str(other))
        if isinstance(one, str) or isinstance(other, str):
            return 1.0 if one == other else OTHER_WORD
        if math.isinf(one) or math.isinf(other):
            return 1.0 if one == other else TAIL
        sigma = self.sigma
        if self.relative:
            sigma = self.sigma * max(abs(one), abs(other), 1e-12)
        z = (one - other) / sigma
        return max(math.exp(-0.5 * z * z), TAIL)

    def tells(self, one: Seen, other: Seen) -> bool:
        """Whether the two cannot be mistaken for each other."""
        return self.likeness(one, other) < APART

    def said(self, seen: Seen) -> str:
        """What was seen, in words."""
        if isinstance(seen, str):
            return seen
        if math.isinf(seen):
            return "open"
        figure = signed(seen) if self.unit.startswith("dB") else _short(seen)
        return f"{figure} {self.unit}".strip()


# two reports that share no word still may be of the same thing
KIND = 0.12


def _overlap(one: str, other: str) -> float:
    """How far two reports agree: the share of their words that both have."""
    a, b = (set(x.split(", ")) for x in (one, other))
    return KIND + (1 - KIND) * len(a & b) / len(a | b)


# what is less alike than this nobody takes for the other
APART = 0.05


def _short(value: float) -> str:
    size = abs(value)
    digits = 0 if size >= 100 or size == 0 else 2 if size >= 1 else 4
    return f"{value:.{digits}f}".replace("-", "−")
