"""Blind trials: which is which nobody is told; what luck alone would do.

A, B, X: X is one of both, in a random order that no screen and no file shows before it is over.
What was heard is held against tossing a coin (binomial, one-sided).
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, replace
from typing import Literal

from tonleiter.core.refused import RefusedError

Side = Literal["A", "B"]
MOST_TRIALS = 50
# luck that is less likely settles it; so many more trials are looked ahead
SETTLED = 0.05


class TrialError(RefusedError):
    """An answer that cannot be taken: there were as many as there are."""

    def __init__(self) -> None:
        super().__init__("that was the last one: begin anew")


@dataclass(frozen=True)
class Trials:
    """Answers so far. The order is drawn from a seed that nobody sees: it is made anew each time.

    ``given`` has the answers; ``_order`` is what X was.
    """

    given: tuple[Side, ...] = ()
    _order: tuple[Side, ...] = ()

    @staticmethod
    def begun() -> Trials:
        """New ones, in an order from the system's own randomness."""
        source = random.SystemRandom()
        return Trials((), tuple(source.choice(("A", "B")) for _ in range(MOST_TRIALS)))

    def __repr__(self) -> str:
        """Without the order."""
        return f"Trials({len(self.given)} answers)"

    @property
    def x(self) -> Side:
        """What X is now: for who plays it, never for who listens. Raises TrialError."""
        if len(self.given) >= len(self._order):
            raise TrialError
        return self._order[len(self.given)]

    def answer(self, side: Side) -> Trials:
        """X was that. Raises TrialError after the last one."""
        if len(self.given) >= len(self._order):
            raise TrialError
        return replace(self, given=(*self.given, side))

    @property
    def right(self) -> int:
        """How many answers were right."""
        return sum(a == b for a, b in zip(self.given, self._order, strict=False))

    @property
    def by_luck(self) -> float:
        """How likely luck alone does so well or better."""
        return luck(self.right, len(self.given))

    @property
    def settled(self) -> bool:
        """Whether a difference is heard."""
        return self.by_luck < SETTLED

    @property
    def more(self) -> int | None:
        """How many more right ones in a row would settle it; None where it is, or cannot be."""
        if self.settled:
            return None
        for k in range(1, MOST_TRIALS - len(self.given) + 1):
            if luck(self.right + k, len(self.given) + k) < SETTLED:
                return k
        return None

    def said(self) -> str:
        """What it comes to, in one line."""
        count = len(self.given)
        if not count:
            return "nobody was asked yet"
        share = f"{self.right} of {count} right"
        if self.settled:
            return f"{share}: a difference is heard; luck does that in {_percent(self.by_luck)}"
        tail = "" if self.more is None else f"; {self.more} more in a row would settle it"
        return f"{share}: luck alone does that in {_percent(self.by_luck)} of such trials{tail}"


@dataclass(frozen=True)
class Preferences:
    """Votes of several listeners: which of two, heard as first and second, is liked better.

    Which of both comes first is drawn anew for each vote, and nobody sees it.
    """

    votes: tuple[tuple[str, Side], ...] = ()
    _first: Side = "A"

    @staticmethod
    def begun() -> Preferences:
        """None yet."""
        return Preferences((), _drawn())

    def __repr__(self) -> str:
        """Without the order."""
        return f"Preferences({len(self.votes)} votes)"

    def heard(self, second: bool) -> Side:
        """What comes first or second now: for who plays it, never for who listens."""
        other: Side = "B" if self._first == "A" else "A"
        return other if second else self._first

    def vote(self, listener: str, second: bool) -> Preferences:
        """Who likes which of both better. Raises TrialError where there are too many."""
        if len(self.votes) >= MOST_TRIALS:
            raise TrialError
        votes = (*self.votes, (listener.strip() or "somebody", self.heard(second)))
        return Preferences(votes, _drawn())

    @property
    def counts(self) -> tuple[int, int]:
        """Votes for A, and for B."""
        second = sum(side == "B" for _, side in self.votes)
        return len(self.votes) - second, second

    def said(self) -> str:
        """What it comes to, in one line."""
        first, second = self.counts
        if not self.votes:
            return "nobody was asked yet"
        people = len({who for who, _ in self.votes})
        share, low, high = preferred(first, second)
        whose = f"{people} listener{'s' if people > 1 else ''}"
        tail = "" if low > 0.5 or high < 0.5 else "; that may be luck"
        return (
            f"{second} of {first + second} votes of {whose} for B: {100 * share:.0f} %, between"
            f" {100 * low:.0f} and {100 * high:.0f} % (95 %){tail}"
        )


def _drawn() -> Side:
    return random.SystemRandom().choice(("A", "B"))


def luck(right: int, count: int) -> float:
    """How likely a coin is right so often or oftener: sum of the binomial's tail."""
    if count == 0:
        return 1.0
    return sum(math.comb(count, k) for k in range(right, count + 1)) / 2.0**count


def preferred(first: int, second: int) -> tuple[float, float, float]:
    """Share that prefers the second of two, with its 95 % interval (Wilson, JASA 22, 1927)."""
    n = first + second
    if n == 0:
        return 0.5, 0.0, 1.0
    p, z = second / n, 1.959964
    middle = (p + z * z / (2 * n)) / (1 + z * z / n)
    half = z / (1 + z * z / n) * math.sqrt(p * (1 - p) / n + z * z / (4 * n * n))
    return p, max(middle - half, 0.0), min(middle + half, 1.0)


def _percent(share: float) -> str:
    return f"{100 * share:.1f} %" if share < 0.1 else f"{100 * share:.0f} %"
