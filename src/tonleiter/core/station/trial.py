"""A blind trial that is kept: what was held against what, how often, with what result."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.gear.base import Id, Name
from tonleiter.core.station.value import Day, Value

MOST_TRIALS = 2_000


class Trial(Value):
    """``told``: how often X was told right; ``liked``: how many votes were for the second."""

    id: Id
    kind: Literal["told", "liked"]
    day: Day
    one: Name
    other: Name
    hits: int = Field(ge=0, le=1_000)
    count: int = Field(ge=1, le=1_000)
    listeners: tuple[Name, ...] = Field((), max_length=60)

    @model_validator(mode="after")
    def _no_more_hits(self) -> Trial:
        if self.hits > self.count:
            raise PydanticCustomError("hits", "hits: no more than count are wanted")
        return self
