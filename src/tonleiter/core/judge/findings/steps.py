"""Louder and quieter: what is there, then the lips, then a stage more or one less."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.judge.findings import crystal
from tonleiter.core.judge.findings.adjusting import adjusted, has_pad
from tonleiter.core.judge.findings.amplifying import insert_preamp, up_and_down
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.lips import FAR_MM, closer, farther
from tonleiter.core.judge.findings.model import BUILD, MOVE, Fix
from tonleiter.core.judge.findings.parts import LEAST_PAD_DB
from tonleiter.core.judge.findings.suggestions import (
    change_divider,
    insert_pad,
    leave_out,
)
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.words import the, within

# a box that gets so much too little is the wrong box there
HOPELESS_DB = 25.0
# less room than this is tight: loud words come near
TIGHT_DB = 3.0
# a stage that gives so much amplifies; one too many gives, within this, what is too much
AMPLIFIES_DB, NEEDLESS_DB = 6.0, 8.0


def louder(case: Case, index: int, step_db: float, far_db: float) -> Iterator[Fix]:
    """What is there, then the lips, then a stage more."""
    if case.distance_mm >= FAR_MM:
        yield from closer(case, step_db)
    yield from adjusted(case, index if index < case.last else index - 1, step_db)
    if case.distance_mm < FAR_MM:
        yield from closer(case, step_db)
    yield from change_divider(case, far_db)
    if index == case.last and crystal.is_bare(case, index):
        yield from crystal.buffered(case)
    if index > 0:
        yield insert_preamp(case, index, far_db)
        yield from up_and_down(case, index, far_db)
    if 0 < index < case.last and step_db > HOPELESS_DB:
        yield leave_out(case, index, why="it works at another level", effort=BUILD)


def quieter(
    case: Case, index: int, step_db: float, far_db: float, own: bool = False
) -> Iterator[Fix]:
    """What is there, then a pad: not before another one, nor where it takes a source its feed."""
    yield from adjusted(case, index if own and index < case.last else index - 1, -step_db)
    pad_helps = index > 0 and not (has_pad(case, index) or case.feeds_capsule(index))
    if pad_helps and (fix := insert_pad(case, index, far_db)):
        yield fix
        yield from _relieved(case, index, far_db)
    yield from _one_too_many(case, index, far_db)
    yield from farther(case, index, step_db)


def _relieved(case: Case, index: int, far_db: float) -> Iterator[Fix]:
    """A stage that the pad relieves of its load swings further: what stands before it goes down.

    Where nothing there can be turned, or it is as much as is too much at the end, the pad is it.
    """
    driver = case.piece(index - 1, -1)
    row, z = case.rows[driver], case.solution.impedances[index - 1]
    if not row.gear.drives or row.headroom_db is None:
        return
    short_db = z.loading_loss_db - row.headroom_db + TIGHT_DB + 1.0
    if short_db <= 0.0:
        return
    if short_db < far_db - LEAST_PAD_DB:
        pad = insert_pad(case, index, far_db - short_db, the(case.rows[index].name))
        down = next(adjusted(case, driver - 1, -short_db), None)
        if pad is not None and down is not None:
            title = f"{down.title}, and {within(pad.title)}"
            why = "it swings further then"
            yield Fix(title, lambda station: down.apply(pad.apply(station)), why)
            return
    if driver > 0 and not (has_pad(case, driver) or case.feeds_capsule(driver)):
        before = insert_pad(case, driver, far_db, the(row.name))
        yield from () if before is None else (before,)


def _one_too_many(case: Case, index: int, delta_db: float) -> Iterator[Fix]:
    """Of amplifiers that somebody built the one without which the level is right: none needs it.

    Where all of them together give no more than is too much, as before a line, none is needed.
    """
    built = [
        (k, gain_db)
        for k, row in enumerate(case.rows[:index])
        if (gain_db := _built_gain_db(row)) is not None
    ]
    if not built:
        return
    off_db, k = min((abs(delta_db - gain_db), k) for k, gain_db in built)
    if off_db <= NEEDLESS_DB:
        yield leave_out(case, k, why="without it the level is right")
    elif sum(gain_db for _, gain_db in built) < delta_db:
        all_of_them = (k for k, _ in built)
        yield leave_out(case, *all_of_them, why="so much level needs none", effort=MOVE)


def not_needed(case: Case, index: int) -> Iterator[Fix]:
    """An amplifier that is driven too hard where the end would get its level without it."""
    gain_db, last = _built_gain_db(case.rows[index]), case.rows[-1]
    if gain_db is None or last.window is None:
        return
    if last.window.holds(last.speech_dbu - gain_db):
        yield leave_out(case, index, why="without it the level is right")


def _built_gain_db(row: StageLevels) -> float | None:
    """What an amplifier gives that somebody built; None of anything else."""
    if row.gear.role != "between" or row.gear.bought_whole or row.gain_db is None:
        return None
    return row.gain_db if row.gain_db >= AMPLIFIES_DB else None
