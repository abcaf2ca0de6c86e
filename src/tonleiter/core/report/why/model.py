"""An answer to "why?": a few lines that lead to figures which can be edited."""

from __future__ import annotations

from dataclasses import dataclass, replace

MOST_STEPS = 8


@dataclass(frozen=True)
class Step:
    """One line: in words, its figure as printed, and where that can be edited.

    ``db`` is what the step adds to a sum of decibels, where it is part of one. ``gear`` and
    ``field`` name an editable figure of a piece; without ``field`` the piece as such.
    """

    says: str
    value: str = ""
    gear: str = ""
    field: str = ""
    db: float | None = None


@dataclass(frozen=True)
class Why:
    """A question, the lines that answer it, and the figures that it hangs on most."""

    asks: str
    steps: tuple[Step, ...]
    hangs: tuple[Step, ...] = ()
    code: str = ""
    """The finding that it is of, where it is of one."""

    def with_hangs(self, hangs: tuple[Step, ...]) -> Why:
        """The same with what it hangs on, as much as there is room for."""
        room = max(MOST_STEPS - len(self.steps), 1)
        return replace(self, hangs=hangs[:room])
