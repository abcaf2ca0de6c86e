"""A set's gain, by decibels; where it has none, what else of the chain can be turned."""

from __future__ import annotations

from tonleiter.core.guide.controls import Control, Zone, control, driven
from tonleiter.core.guide.follows import MEANS
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.step import Move, Step
from tonleiter.core.judge.assess import Assessment, with_fix
from tonleiter.core.judge.findings.adjusting import adjusted
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import CHANGE, TURN, Fix
from tonleiter.core.judge.findings.suggestions import leave_out
from tonleiter.core.station.settings import MeterId, PanelState
from tonleiter.core.units.levels import volts_from_dbu
from tonleiter.core.units.quantity import VOLT, format_quantity

# of its hundred, a gain that is worked where it should be: in the upper middle
WORKED_AT = 65.0
# so near its ends nothing is left for somebody who speaks lower, or louder
WORKED_TO: Zone = (10.0, 90.0)
# what of its range it may have to take back when a pad is left out
LEFT_OUT_SHARE = 0.8


def hundredths(case: OnAir) -> float:
    """How far the gain is turned for a decibel."""
    return 100.0 / case.figures.gain_range_db


def gain(
    case: OnAir,
    panel: PanelState,
    reading: float | None = None,
    zone: Zone | None = None,
    note: str = "",
) -> Control | None:
    """The set's gain control, driven by a meter in decibels; None where the path has none."""
    if case.figures.fixed_gain:
        return None
    made = control(panel, "gain", note=note, marked_to=case.figures.marked_to)
    if reading is None or zone is None or case.sounds != "speech":
        return made
    return driven(made, reading, zone, hundredths(case))


def level_step(
    case: OnAir,
    step_id: str,
    title: str,
    says: str,
    knob: Control | None,
    by_db: float,
    why: str,
    shown: str,
    meter: MeterId,
    caution: str = "",
    lost: bool = False,
) -> Step:
    """A step that brings the level to where a meter reads right, by what there is to turn.

    ``by_db`` is what is wanted, zero where the meter is content. The set's own knob first; where
    there is none, or it stands at its end, what stands before it in the chain. A meter that is
    ``lost`` did not follow the knob: nothing is turned for it again.
    """
    ids = (knob.id,) if knob is not None else ()
    made = Step(step_id, title, says, shown, None, ids, meter, nothing_moves(case), caution)
    if case.sounds != "speech":
        return made
    if not lost and (move := _back_from_the_end(case, knob)) is not None:
        return _with(made, move)
    if by_db == 0:
        return made
    if lost and knob is not None:
        return _with(made, Move(f"The meter does not follow the {knob.title}.", MEANS, at_end=True))
    if knob is not None and not knob.fits() and not knob.stuck():
        to = knob.target()
        word = "Up" if to > knob.value else "Down"
        moved = abs(to - knob.value) / hundredths(case)
        said = f"{word} {moved:.0f} dB: to about {knob.said(to)}."
        return _with(made, Move(said, why, {knob.id: to}))
    fix = _roomy(case, knob, by_db) or before_it(case, by_db)
    if fix is not None:
        end = "" if knob is None else f"The {knob.title} stands at its end. "
        return _with(made, Move(f"{end}{fix.title}.", why, fix=fix))
    word = "more" if by_db > 0 else "less"
    there = (
        "This path has no gain control"
        if knob is None
        else f"The {knob.title} stands at its end, {knob.said()}"
    )
    return _with(
        made,
        Move(
            f"{there}, and nothing before it can be turned: {abs(by_db):.0f} dB {word} are wanted.",
            "the chain itself must change: see the Ladder (3)",
            at_end=True,
        ),
    )


def _with(step: Step, move: Move) -> Step:
    return Step(
        step.id,
        step.title,
        step.says,
        step.shown,
        move,
        step.controls,
        step.meter,
        step.if_nothing,
        step.caution,
    )


def looked_at(case: OnAir) -> Case:
    """The chain that is set, as rules of the verdict see it."""
    assessment = case.assessment
    return Case(assessment.station, assessment.solution, assessment.rows)


def before_it(case: OnAir, by_db: float, effort: int = CHANGE) -> Fix | None:
    """What of the chain before the radio is turned or changed for so many decibels."""
    assessment = case.assessment
    for fix in adjusted(looked_at(case), len(assessment.rows) - 2, by_db, by_the_scale=True):
        if fix.effort <= effort and not _brings_a_stop(assessment, fix):
            return fix
    return None


def _brings_a_stop(before: Assessment, fix: Fix) -> bool:
    """Whether the chain must not be plugged in with it: a source that then clips by itself."""
    known = {f.key for f in before.stops()}
    return any(f.key not in known for f in with_fix(before, fix).stops())


def _back_from_the_end(case: OnAir, knob: Control | None) -> Move | None:
    """A control before the radio that brings its gain back from the end where it will stand."""
    if knob is None or knob.stuck():
        return None
    to = knob.target() if not knob.fits() else knob.value
    if WORKED_TO[0] <= to <= WORKED_TO[1]:
        return None
    # all the way back to where it is worked, or at least well off its end
    aims = (WORKED_AT, 80.0) if to > WORKED_AT else (WORKED_AT, 35.0)
    tried = (before_it(case, (to - aim) / hundredths(case), TURN) for aim in aims)
    fix = next((f for f in tried if f is not None), None)
    if fix is None:
        return None
    end = "less loud" if to > WORKED_AT else "louder"
    return Move(
        f"{fix.title}: the {knob.title} would end at {knob.said(to)}.",
        f"so near its end nothing is left for a word that is {end}",
        fix=fix,
    )


def _roomy(case: OnAir, knob: Control | None, by_db: float) -> Fix | None:
    """What before a knob at its end brings it back to where people work it."""
    if knob is None:
        return None
    back = (knob.value - WORKED_AT) / hundredths(case)
    wanted = by_db + (max(back, 0.0) if by_db > 0 else min(back, 0.0))
    if (fix := before_it(case, wanted)) is not None or by_db < 0:
        return fix
    # a pad that is left out gives all that it took: the knob must be able to take that back
    rows = case.assessment.rows
    for k in range(len(rows) - 2, 0, -1):
        row = rows[k]
        lost_db = -(row.gain_db or 0.0)
        if row.gear.is_pad and 0 <= lost_db - by_db <= LEFT_OUT_SHARE * case.figures.gain_range_db:
            return leave_out(looked_at(case), k, effort=CHANGE)
    return None


def nothing_moves(case: OnAir) -> str:
    """What it means if the meter does not follow."""
    volts = format_quantity(volts_from_dbu(case.assessment.rows[-2].speech_dbu), VOLT, 2)
    return (
        "If it does not move: the capsule may be turned away, or the chain gives less than it"
        f" should; the Ladder expects {volts} here."
    )
