"""How a value is taken hold of: what a pull by some decibels, or a step, makes of it.

``pull`` is for a drag on a ladder: the level behind the piece should follow the hand. ``step`` is a
place up or down, for arrow keys and wheels.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from tonleiter.core.units import preferred

# a wheel that is spun, or a hand that runs off the screen, asks for no more than this
MOST_DB, MOST_STEPS = 200.0, 60


class Grip(Protocol):
    """The value after a pull of so many decibels up, or some steps up."""

    def pull(self, value: float, up_db: float) -> float:
        """After a pull."""
        ...

    def step(self, value: float, steps: int) -> float:
        """After steps."""
        ...


def _bounded_db(up_db: float) -> float:
    return min(max(up_db, -MOST_DB), MOST_DB)


def _bounded_steps(steps: int) -> int:
    return min(max(steps, -MOST_STEPS), MOST_STEPS)


@dataclass(frozen=True)
class Decibels:
    """A gain or volume in decibels: follows the hand one to one, in half decibels."""

    by_db: float = 0.5

    def pull(self, value: float, up_db: float) -> float:
        """To the nearest half."""
        return round((value + _bounded_db(up_db)) / self.by_db) * self.by_db

    def step(self, value: float, steps: int) -> float:
        """A whole decibel a step, or a place where its places lie further apart."""
        return self.pull(value, max(1.0, self.by_db) * _bounded_steps(steps))


@dataclass(frozen=True)
class Turned:
    """A control from 0 to 1, its output in proportion."""

    by: float = 0.01

    def pull(self, value: float, up_db: float) -> float:
        """In ratio, to the nearest hundredth."""
        wanted = value * 10 ** (_bounded_db(up_db) / 20)
        return min(max(round(wanted / self.by) * self.by, self.by), 1.0)

    def step(self, value: float, steps: int) -> float:
        """A fiftieth of the turn a step."""
        return min(max(round(value / self.by + 2 * _bounded_steps(steps)) * self.by, self.by), 1.0)


@dataclass(frozen=True)
class Places:
    """A part from preferred values.

    ``louder`` is +1 where a larger value gives more level, −1 where it gives less, and 0 where
    level does not follow: then a place for every 2 dB of travel.
    """

    series: preferred.Series
    louder: int

    def pull(self, value: float, up_db: float) -> float:
        """In ratio, to the nearest preferred value."""
        if self.louder == 0:
            return self.step(value, round(_bounded_db(up_db) / 2))
        return preferred.nearest(value * 10 ** (self.louder * _bounded_db(up_db) / 20), self.series)

    def step(self, value: float, steps: int) -> float:
        """A place of the series; up is louder."""
        return preferred.step(value, (self.louder or 1) * _bounded_steps(steps), self.series)


@dataclass(frozen=True)
class Metres:
    """A length: a metre for a decibel of travel, between a patch lead and a hall."""

    low_m: float = 0.5
    high_m: float = 100.0

    def pull(self, value: float, up_db: float) -> float:
        """Whole metres."""
        return self.step(value, round(_bounded_db(up_db)))

    def step(self, value: float, steps: int) -> float:
        """A metre a step."""
        return min(max(value + steps, self.low_m), self.high_m)


_FRACTIONS = (
    (0.1, "a tenth"),
    (0.125, "an eighth"),
    (0.2, "a fifth"),
    (0.25, "a quarter"),
    (1 / 3, "a third"),
    (0.5, "half"),
    (2 / 3, "two thirds"),
    (0.75, "three quarters"),
    (0.9, "nine tenths"),
)


def turned_words(turn: float) -> str:
    """A turn from 0 to 1 as people say it: within a tenth of a simple fraction, else in percent."""
    if turn >= 0.97:
        return "its end"
    near = min(_FRACTIONS, key=lambda f: abs(f[0] - turn))
    if abs(near[0] - turn) <= 0.1 * near[0]:
        return f"about {near[1]}"
    return f"{turn:.0%}"
