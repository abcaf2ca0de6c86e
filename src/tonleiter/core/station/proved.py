"""What was read while a build was proven, kept with its day and with what the build was then."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from tonleiter.core.station.value import Value

MOST_READ = 600
StepId = Literal["look", "ring", "dc", "tone", "listen", "dummy-load", "air"]
# what is read or looked at, by the names of boxes and contacts
Said = Annotated[str, StringConstraints(min_length=1, max_length=500)]
Typed = Annotated[str, StringConstraints(min_length=1, max_length=40)]


class Proved(Value):
    """One part's bring-up: readings as they were typed, things looked at, steps left out.

    ``build`` is the fingerprint of what was proven: another one means that it was changed since.
    """

    part: int = Field(0, ge=0, le=100)
    day: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")
    build: str = Field("", max_length=64)
    readings: dict[Said, Typed] = Field(default_factory=dict, max_length=MOST_READ)
    seen: tuple[Said, ...] = Field((), max_length=MOST_READ)
    left_out: tuple[StepId, ...] = Field((), max_length=10)
