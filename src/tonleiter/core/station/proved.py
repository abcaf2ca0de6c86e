"""What was read while a build was proven, kept with its day and with what the build was then."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from tonleiter.core.gear.base import Id
from tonleiter.core.station.value import Day, Value

MOST_READ = 600
StepId = Literal["look", "ring", "dc", "tone", "listen", "dummy-load", "air"]
# a reading or a thing to look at: a token with the ids or letters that it speaks of
Token = Annotated[str, StringConstraints(min_length=1, max_length=500)]
Typed = Annotated[str, StringConstraints(min_length=1, max_length=40)]


class Proved(Value):
    """One part's bring-up: readings as they were typed, things looked at, steps left out.

    ``basis`` is the fingerprint of the build (``Basis.build``): another one means that it was
    changed since; empty: nobody knows, it was kept by an older version.
    """

    chain: Id
    variant: Id
    part: int = Field(0, ge=0, le=100)
    day: Day
    basis: str = Field("", max_length=64)
    readings: dict[Token, Typed] = Field(default_factory=dict, max_length=MOST_READ)
    seen: tuple[Token, ...] = Field((), max_length=MOST_READ)
    left_out: tuple[StepId, ...] = Field((), max_length=10)

    @property
    def of(self) -> tuple[str, str, int]:
        """Which part of which variant of which chain."""
        return self.chain, self.variant, self.part
