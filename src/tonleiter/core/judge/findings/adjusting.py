"""Turning what is there, before anything is added: controls first, then parts that are there."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.gear.pad_shapes import design_pad
from tonleiter.core.gear.turning import turned
from tonleiter.core.judge.findings import crystal
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import BUILD, CHANGE, REMOVE, TURN, Fix
from tonleiter.core.judge.findings.suggestions import leave_out
from tonleiter.core.units.quantity import OHM, format_quantity
from tonleiter.core.words import the

# a control is near its end in the last twelfth of its turn
NEAR_END = 1 / 12
# turned down by more than this, what comes behind a control adds too much noise
DEEP_DB = 20.0
# and by more than this it is nearly off: hum and hiss of the lead behind it are as loud as before,
# where a pad at the other end takes them down as well
NEARLY_OFF_DB = 30.0
LEAST_DB = 0.5


def turn(case: Case, index: int, delta_db: float) -> Fix | None:
    """Turn the control of a stage so that the level behind it moves by ``delta_db``, if it can.

    By so much, as on a scale: a compressor's level follows by less, and who turns sees that.
    """
    gear = case.rows[index].gear
    to = turned(gear, delta_db, *case.solution.around(index))
    if to is None or abs(to.moved_db) < LEAST_DB or to.up != (delta_db > 0):
        return None
    at = to.gear.control_at()
    near = at is not None and not NEAR_END < at < 1 - NEAR_END
    verb = "up" if delta_db > 0 else "down"
    return Fix(
        f"Turn {the(gear.name)} {verb} to {gear.setting_words(to.value)}",
        case.setting(index, {to.field: to.value}),
        "near the end of its control" if near else "",
        _effort(delta_db, near),
    )


def _through_squeeze_db(case: Case, index: int, delta_db: float) -> float:
    """How far a stage's gain goes so that the level behind it moves by ``delta_db``.

    Above a compressor's threshold its output follows by one in so many decibels.
    """
    row = case.rows[index]
    curve = row.gear.compression()
    if curve is None or curve.ratio <= 1.0 or row.speech_squeezed_db < LEAST_DB:
        return delta_db
    before_dbu = row.speech_dbu + row.speech_squeezed_db
    wanted_dbu = before_dbu - curve.reduction_db(before_dbu) + delta_db
    over_db = max(0.0, wanted_dbu - curve.threshold_dbu)
    return wanted_dbu + over_db * (curve.ratio - 1.0) - before_dbu


def _effort(delta_db: float, near: bool) -> int:
    """A pad is added before anybody turns a level nearly off."""
    if delta_db <= -NEARLY_OFF_DB:
        return BUILD
    return CHANGE if near or delta_db <= -DEEP_DB else TURN


def change_pad(case: Case, index: int, delta_db: float) -> Fix | None:
    """Other values for a pad that is there, so that the level behind it moves by ``delta_db``."""
    row = case.rows[index]
    if index == 0 or not row.gear.is_pad or row.gear.by_hand:
        return None
    if delta_db > 0 and crystal.is_bare(case, index):
        return None  # it keeps the crystal its bass
    before, after = case.solution.impedances[index - 1], case.solution.impedances[index]
    now_db = before.loading_loss_db - (row.gain_db or 0.0)
    wanted = now_db - delta_db
    if not math.isfinite(wanted) or wanted <= before.loading_loss_db + LEAST_DB:
        return None
    drawer = case.station.drawer
    designs = design_pad(
        row.kind, wanted, before.source_ohm, after.load_ohm, drawer.series, drawer.ohms()
    )
    if not designs:
        return None
    values = designs[0].values
    shown = " / ".join(format_quantity(v, OHM) for _, v in values)
    return Fix(
        f"Change the {row.gear.noun} to {shown}", case.setting(index, dict(values)), "", CHANGE
    )


def adjusted(case: Case, upto: int, delta_db: float, by_the_scale: bool = False) -> Iterator[Fix]:
    """Everything from stage ``upto`` back to the source that can move the level by ``delta_db``.

    ``by_the_scale``: a control goes by so much and a meter is looked at, whatever a compressor
    behind it makes of that; otherwise it goes as far as the level wants it.

    Controls first; then pads that are there; then, for more level, leaving a pad out: not one that
    keeps a crystal its bass.
    """
    stages = range(upto, -1, -1)
    for k in stages:
        by_db = delta_db if by_the_scale else _through_squeeze_db(case, k, delta_db)
        if fix := turn(case, k, by_db):
            yield fix
    for k in stages:
        if fix := change_pad(case, k, delta_db):
            yield fix
    if delta_db > 0:
        for k in stages:
            if may_leave_out(case, k):
                yield leave_out(case, k, effort=REMOVE)


def may_leave_out(case: Case, index: int) -> bool:
    """Whether a pad may go: not one that keeps a crystal its bass."""
    return index > 0 and case.rows[index].gear.is_pad and not crystal.is_bare(case, index)


def has_pad(case: Case, upto: int) -> bool:
    """Whether a pad stands before a stage: one in front of another is never the answer."""
    return pad_there(case, upto) is not None


def pad_there(case: Case, upto: int) -> int | None:
    """The pad before stage ``upto``, with nothing but leads and passive parts between."""
    for k in range(upto - 1, 0, -1):
        gear = case.rows[k].gear
        if gear.is_pad:
            return k
        if gear.is_box or gear.gain_is_chosen:
            return None
    return None
