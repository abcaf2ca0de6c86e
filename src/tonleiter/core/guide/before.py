"""What is set before the radio: lips and capsule, boxes outside, the way down to its socket."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.gear.acoustics import LIPS_MM, Pattern, SpokenInto
from tonleiter.core.gear.voice import nearer_db
from tonleiter.core.guide.controls import Zone
from tonleiter.core.guide.gain import before_it, looked_at
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.step import Move, Step
from tonleiter.core.judge.findings.adjusting import adjusted
from tonleiter.core.judge.findings.adjusting import turn as turn_stage
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import CHANGE, MOVE, Fix
from tonleiter.core.solve.levels import UNHEARD_DB, noise_added_db
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.words import sentence, the

# lips to capsule: at half of where they belong breath and bass win, at twice as far the room does
TOO_NEAR, TOO_FAR = 0.5, 2.0
# what to say of it, by what the capsule hears
BELONG: dict[Pattern, str] = {
    "all-round": "Speak across the capsule, not into it, from two or three fingers.",
    "directional": "Speak across the capsule, not into it, from four fingers: nearer it booms.",
    "noise-cancelling": "Nearly touch it, at the corner of the mouth: it hears only what is near.",
}
# how far peaks should stay under a box's end
BOX_ROOM_DB: Zone = (4.0, 30.0)
# a level at the radio that is off by less is not seen
SEEN_DB = 0.5
# nor is it set here to the decibel where the socket has no gain: the meter says how much it is
METER_SAYS_DB = 6.0


def distance(case: OnAir) -> Step:
    """Lips and capsule, before any knob."""
    chain = case.assessment.solution.compiled.chain
    mm, across = chain.distance_mm.value, chain.speaks == "across-it"
    shown = f"{mm / 10:g} cm, {'across' if across else 'into'} the capsule"
    if not case.assessment.solution.compiled.acoustic:
        return Step("distance", "Distance and angle", "", "a line, no microphone", None)
    microphone = case.assessment.rows[0].gear
    hears = microphone.hears if isinstance(microphone, SpokenInto) else "all-round"
    says, right_mm = BELONG[hears], LIPS_MM[hears]
    there = f"{right_mm / 10:g} cm"
    move = None
    if mm > TOO_FAR * right_mm:
        gains = nearer_db(mm, right_mm)
        move = Move(
            f"Come closer: to about {there}.",
            f"speech rises {gains:.0f} dB over the room",
            fix=_changed(case, f"Speak from {there}", distance_mm=right_mm),
        )
    elif mm < TOO_NEAR * right_mm:
        move = Move(
            f"Back off to about {there}.",
            "so close breath and bass win",
            fix=_changed(case, f"Speak from {there}", distance_mm=right_mm),
        )
    elif not across:
        move = Move(
            "Turn it aside: speak across the capsule.",
            "breath goes past it: no pops",
            fix=_changed(case, "Speak across it", speaks="across-it"),
        )
    return Step(
        "distance",
        "Distance and angle",
        says,
        shown,
        move,
        if_nothing="It stands in the chain, on the Ladder (3), in its sentence.",
    )


def _changed(case: OnAir, title: str, **changes: object) -> Fix:
    """An edit of the chain that is set."""
    chain_id = case.basis.chain

    def apply(station: Station) -> Station:
        return edits.change_chain(station, chain_id, **changes)

    return Fix(title, apply, "", MOVE)


def _box_move(case: Case, at: int, name: str, by_db: float, why: str) -> Move:
    """A box's own knob, or what can be turned before it; said where there is neither."""
    if fix := turn_stage(case, at, by_db):
        word = "Up" if by_db > 0 else "Down"
        return Move(f"{word} {abs(by_db):.0f} dB at {the(name)}.", why, fix=fix)
    for fix in adjusted(case, at - 1, by_db, by_the_scale=True):
        if fix.effort <= CHANGE:
            return Move(f"{fix.title}: {the(name)} has no way left.", why, fix=fix)
    more = "more" if by_db > 0 else "less"
    return Move(
        f"{sentence(the(name))} stands at its end: {abs(by_db):.0f} dB {more} must come"
        " from before it.",
        f"{why}; nothing before it can be turned: see the Ladder (3)",
        at_end=True,
    )


def outboard(case: OnAir) -> Iterator[Step]:
    """Boxes before the radio: each at its own best level first, then what brings it down."""
    assessment = case.assessment
    boxes = [
        (k, r)
        for k, r in enumerate(assessment.rows[:-1])
        if k > 0 and r.gear.bought_whole and r.headroom_db is not None
    ]
    if not boxes:
        return
    for k, row in boxes:
        head = row.headroom_db
        assert head is not None
        says = "Set the box by its own meter first: peaks well under its end, well over its noise."
        shown = f"{head:.0f} dB under its end"
        low, high = BOX_ROOM_DB
        if row.gear.compression() is not None:
            high = math.inf  # it holds its own peaks down: what comes out says nothing of its level
        if head > high and noise_added_db(assessment.rows, k) < UNHEARD_DB:
            # turned up it would only have to be brought down again behind it
            high, shown = math.inf, f"{shown}; its own noise is not heard"
        by = head - high if head > high else head - low if head < low else 0.0
        move = None
        if by != 0:
            why = "so low it adds its own noise" if by > 0 else "so high it has no room for peaks"
            move = _box_move(looked_at(case), k, row.name, by, why)
        yield Step(
            f"box-{row.id}",
            f"{sentence(the(row.name))} first",
            says,
            shown,
            move,
            if_nothing="Its knob is on the Ladder (3).",
        )
    window, level = assessment.rows[-1].window, assessment.rows[-1].speech_dbu
    if window is None:
        return
    off = max(window.low_dbu - level, 0.0) + min(window.high_dbu - level, 0.0)
    shown = f"{level:.0f} dBu at the radio".replace("-", "−")
    move = None
    if abs(off) >= (METER_SAYS_DB if case.figures.fixed_gain else SEEN_DB):
        why = f"it works from {window.low_dbu:.0f} to {window.high_dbu:.0f} dBu".replace("-", "−")
        move = Move(
            f"{abs(off):.0f} dB {'more' if off > 0 else 'less'} at its socket.",
            why,
            fix=before_it(case, off),
        )
    yield Step(
        "pad",
        "Then the way down to the radio",
        "Then the pad: from the box's level down to what the radio wants.",
        shown,
        move,
        if_nothing="The Ladder (3) offers pads that do it.",
    )
