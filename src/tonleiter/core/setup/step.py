"""A step of a guide: what to do, why, where it should end, what it means if nothing moves."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from tonleiter.core.station.settings import KnobId

# open: something is left that no knob of the panel does; the guide has gone on
State = Literal["done", "now", "later", "open"]
AIR = (
    "Dummy load on, low power. Say who you are when you do go on the air, and stay in the licence."
)


@dataclass(frozen=True)
class Move:
    """The next move, in figures; ``knobs`` is where it puts them, empty where no knob does it.

    ``at_end``: a knob stands at an end of its scale, and that is not enough.
    """

    says: str
    why: str
    knobs: Mapping[KnobId, float] = field(default_factory=dict)
    at_end: bool = False


@dataclass(frozen=True)
class Step:
    """One step. ``shown`` is what it comes to; ``move`` is None where nothing is left to do."""

    id: str
    title: str
    says: str
    shown: str
    move: Move | None
    control: KnobId | None = None
    meter: str | None = None
    if_nothing: str = ""
    caution: str = ""
    state: State = "later"

    @property
    def done(self) -> bool:
        """Whether it needs nothing more."""
        return self.move is None
