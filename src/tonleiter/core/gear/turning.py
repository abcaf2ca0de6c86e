"""Turning the control that a piece has, by so many decibels."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import typical


@dataclass(frozen=True)
class Turn:
    """A control moved: its field, its new value, the piece with it, what that does to the level."""

    field: str
    value: float
    up: bool
    moved_db: float
    gear: Gear


def turned(
    gear: Gear, by_db: float, z_source_ohm: float = 0.0, z_load_ohm: float = math.inf
) -> Turn | None:
    """The control moved so that the level behind changes by ``by_db``, as far as it goes.

    Impedances as it meets them: a potentiometer's turn hangs on them. None for a piece without one.
    """
    if not gear.by_hand or gear.handle is None:
        return None
    now = gear.figure(gear.handle).value
    value = gear.pulled(by_db, z_source_ohm, z_load_ohm)
    return Turn(
        field=gear.handle,
        value=value,
        up=value > now,
        moved_db=gear.moved_db(now, value, z_source_ohm, z_load_ohm),
        gear=gear.model_copy(update={gear.handle: typical(value)}),
    )
