"""On which figures a result hangs: each is moved a little, and the chain solved again."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from pydantic import ValidationError

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.judge.assess import Assessment, judge
from tonleiter.core.report.why.model import Step
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.solve.solution import DRAFT_POINTS
from tonleiter.core.stop import checkpoint
from tonleiter.core.words import within

# a figure in decibels is moved by one, every other one by a tenth
MOVED_DB, MOVED_SHARE = 1.0, 0.1
# what moves a result less than this share of the one that moves it most is not spoken of
LEAST_SHARE = 0.15
MOST = 3
# what is printed on a panel moves nothing
SCALES = ("marked_to",)
# less than rounding leaves of two solutions
STILL = 1e-6

Measure = Callable[[Assessment], float | None]
Spoken = Callable[[float], str]


@dataclass(frozen=True)
class _Moved:
    """A figure, moved, and what the result is then; None where it is not there any more."""

    says: str
    gear: str
    field: str
    after: float | None


def hangs_on(now: Assessment, measure: Measure, spoken: Spoken, gone: str = "") -> tuple[Step, ...]:
    """The figures that move a result most, each with what it would make of it.

    ``spoken`` prints a result; ``gone`` is what is said where a figure, moved, makes an end of it:
    without it such figures are left out. Raises StoppedError.
    """
    before = measure(_solved(now, {}, None))
    if before is None or not math.isfinite(before):
        return ()
    printed = spoken(before)

    def by(moved: _Moved) -> float:
        return math.inf if moved.after is None else abs(moved.after - before)

    moved = (
        (by(m), Step(m.says, gone if m.after is None else spoken(m.after), m.gear, m.field))
        for m in _all_moved(now, measure)
        if by(m) > STILL * max(abs(before), 1.0) and (m.after is not None or gone)
    )
    return strongest(moved, printed)


def strongest(moved: Iterable[tuple[float, Step]], printed: str) -> tuple[Step, ...]:
    """Of steps with how far each moves a result: those that move it most, each said once.

    ``printed`` is the result as it is: what cannot be seen in the figure is not worth a line.
    """
    tried = list(moved)
    most = max((by for by, _ in tried if math.isfinite(by)), default=0.0)
    strong = sorted((m for m in tried if m[0] >= LEAST_SHARE * most), key=lambda m: -m[0])
    seen = {step.says: step for _, step in reversed(strong) if step.value != printed}
    kept = [step for _, step in strong if seen.get(step.says) is step]
    return tuple(kept[:MOST])


def _all_moved(now: Assessment, measure: Measure) -> Iterator[_Moved]:
    if now.voice.acoustic:
        further = now.voice.distance_mm * (1 + MOVED_SHARE)
        found = _measured(now, measure, {}, further)
        yield _Moved("a tenth further from the microphone", VOICE, "distance_mm", found)
    for stage in now.solution.compiled.stages:
        gear = stage.gear
        idle = {*gear.idle_fields(), *SCALES}
        for field, (quantity, info) in gear.figures().items():
            checkpoint()
            other = None if field in idle else _moved(gear, field, quantity)
            if other is None:
                continue
            how = "1 dB more" if _in_decibels(quantity) else "a tenth more"
            title = within(info.title or field.replace("_", " "))
            found = _measured(now, measure, {stage.id: other}, None)
            if found is None or math.isfinite(found):
                yield _Moved(f"{gear.name}, {title}: {how}", gear.id, field, found)


def _in_decibels(quantity: Quantity) -> bool:
    return quantity.unit.symbol.startswith("dB")


def _moved(gear: Gear, field: str, quantity: Quantity) -> Gear | None:
    """The piece with one figure moved; None where it could not be so."""
    value = gear.figure(field).value
    by = MOVED_DB if _in_decibels(quantity) else MOVED_SHARE * value
    if by == 0:
        return None
    try:
        return gear.with_values({field: Figure(value=value + by)})
    except ValidationError:
        return None


def _measured(
    now: Assessment, measure: Measure, instead: dict[str, Gear], distance_mm: float | None
) -> float | None:
    """The result then; not finite where the chain has no solution."""
    try:
        return measure(_solved(now, instead, distance_mm))
    except CircuitError:
        return math.inf


def _solved(now: Assessment, instead: dict[str, Gear], distance_mm: float | None) -> Assessment:
    again = now.solution.compiled.again(now.station, instead, distance_mm)
    return judge(now.station, again, DRAFT_POINTS)
