"""A step of a guide: what to do, why, where it should end, what it means if nothing moves."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from tonleiter.core.guide.controls import Control
from tonleiter.core.judge.findings.model import Fix
from tonleiter.core.safety.cautions import AIR
from tonleiter.core.station.settings import KnobId, MeterId

# open: something is left that nothing here does; the guide has gone on
State = Literal["done", "now", "later", "open"]
__all__ = ["AIR", "Move", "State", "Step", "turn"]


@dataclass(frozen=True)
class Move:
    """The next move, in figures: knobs that it turns, or an edit of the chain, or a reading.

    ``asks``: a reading is wanted before anything can be said. ``at_end``: a knob stands at an end
    of its scale, and that is not enough.
    """

    says: str
    why: str
    knobs: Mapping[KnobId, float] = field(default_factory=dict)
    fix: Fix | None = None
    asks: bool = False
    at_end: bool = False

    @property
    def can_be_made(self) -> bool:
        """Whether somebody at this panel can do it."""
        return bool(self.knobs) or self.fix is not None or self.asks


@dataclass(frozen=True)
class Step:
    """One step. ``shown`` is what it comes to; ``move`` is None where nothing is left to do.

    ``controls`` are the knobs that it sets, ``meter`` the one that is looked at.
    """

    id: str
    title: str
    says: str
    shown: str
    move: Move | None
    controls: tuple[KnobId, ...] = ()
    meter: MeterId | None = None
    if_nothing: str = ""
    caution: str = ""
    state: State = "later"

    @property
    def done(self) -> bool:
        """Whether it needs nothing more."""
        return self.move is None

    @property
    def control(self) -> KnobId | None:
        """The knob that the hand is led to."""
        return self.controls[0] if self.controls else None


def turn(
    step_id: str,
    title: str,
    says: str,
    knobs: tuple[Control, ...],
    why: str = "",
    shown: str = "",
    meter: MeterId | None = None,
    if_nothing: str = "",
    caution: str = "",
    move_says: str = "",
) -> Step:
    """A step that turns knobs to their aims: done just when each of them fits."""
    off = [k for k in knobs if not k.fits()]
    move = None
    if off and all(k.stuck() for k in off):
        move = Move(
            f"{off[0].title.capitalize()} stands at its end, {off[0].said()}: that is not enough.",
            why,
            at_end=True,
        )
    elif off:
        to = {k.id: k.target() for k in off}
        parts = [f"{k.title if len(knobs) > 1 else ''} to {k.said(to[k.id])}".strip() for k in off]
        said = move_says or f"{', '.join(parts)}."
        move = Move(f"{said[0].upper()}{said[1:]}", why, to)
    return Step(
        step_id,
        title,
        says,
        shown or ", ".join(k.said() for k in knobs),
        move,
        tuple(k.id for k in knobs),
        meter,
        if_nothing,
        caution,
    )
