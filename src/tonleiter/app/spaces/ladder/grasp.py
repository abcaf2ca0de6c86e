"""Taking hold of a stage on the ladder: which of its values a drag or an arrow key moves."""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.grip import MOST_DB
from tonleiter.core.gear.voice import distance_for_mm
from tonleiter.core.judge.assess import Assessment

VOICE_INDEX = -1
NEAREST_MM, FARTHEST_MM = 10.0, 600.0
VOICE_STEP_MM = 5.0


@dataclass(frozen=True)
class Move:
    """A new value for a field of a stage; stage −1 is the voice, its field ``distance_mm``."""

    stage: int
    field: str
    value: float


def pull(start: Assessment, stage: int, up_db: float) -> Move | None:
    """The value that lifts the level behind ``stage`` by ``up_db`` from where it was at ``start``.

    None where nothing can be pulled.
    """
    if stage == VOICE_INDEX:
        now = start.solution.compiled.chain.distance_mm.value
        return _voice(round(distance_for_mm(now, min(max(up_db, -MOST_DB), MOST_DB))))
    gear = start.rows[stage].gear
    if gear.handle is None:
        return None
    source, load = start.solution.around(stage)
    return Move(stage, gear.handle, gear.pulled(up_db, source, load))


def nudge(now: Assessment, stage: int, steps: int) -> Move | None:
    """The value ``steps`` places up or down from the present one: arrow keys and wheel."""
    if stage == VOICE_INDEX:
        return _voice(now.solution.compiled.chain.distance_mm.value - VOICE_STEP_MM * steps)
    gear = now.rows[stage].gear
    return None if gear.handle is None else Move(stage, gear.handle, gear.stepped(steps))


def _voice(wanted_mm: float) -> Move:
    return Move(VOICE_INDEX, "distance_mm", min(max(wanted_mm, NEAREST_MM), FARTHEST_MM))
