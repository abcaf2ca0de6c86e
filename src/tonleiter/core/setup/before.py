"""What is set before the radio: lips and capsule, boxes outside, the way down to its socket."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.gear.voice import nearer_db
from tonleiter.core.setup.onair import OnAir
from tonleiter.core.setup.panel import Zone
from tonleiter.core.setup.step import Move, Step

# lips to capsule: closer than this breath and bass win, farther the room does
NEAR_MM, FAR_MM = 15.0, 60.0
# how far peaks should stay under a box's end
BOX_ROOM_DB: Zone = (4.0, 30.0)


def distance(case: OnAir) -> Step:
    """Lips and capsule, before any knob."""
    chain = case.assessment.solution.compiled.chain
    mm = chain.distance_mm.value
    across = chain.speaks == "across-it"
    shown = f"{mm / 10:g} cm, {'across' if across else 'into'} the capsule"
    says = "Speak across the capsule, not into it, from two or three fingers."
    move = None
    if not case.assessment.solution.compiled.acoustic:
        return Step("distance", "Distance and angle", "", "a line, no microphone", None)
    if mm > FAR_MM:
        gains = nearer_db(mm, 30.0)
        move = Move("Come closer: to about 3 cm.", f"speech rises {gains:.0f} dB over the room")
    elif mm < NEAR_MM:
        move = Move("Back off to about 3 cm.", "so close breath and bass win")
    elif not across:
        move = Move("Turn it aside: speak across the capsule.", "breath goes past it: no pops")
    return Step(
        "distance", "Distance and angle", says, shown, move,
        if_nothing="It is set where the chain is: on the Ladder (3), in its sentence.",
    )  # fmt: skip


def outboard(case: OnAir) -> Iterator[Step]:
    """Boxes before the radio: each at its own best level first, then what brings it down."""
    rows = case.assessment.rows
    boxes = [r for r in rows[1:-1] if r.gear.bought_whole and r.headroom_db is not None]
    if not boxes:
        return
    for row in boxes:
        head = row.headroom_db
        assert head is not None
        says = "Set the box by its own meter first: peaks well under its end, well over its noise."
        shown = f"{head:.0f} dB under its end"
        low, high = BOX_ROOM_DB
        by = head - high if head > high else head - low if head < low else 0.0
        move = None
        if by != 0:
            why = "so low it adds its own noise" if by > 0 else "so high it has no room for peaks"
            move = Move(f"{'Up' if by > 0 else 'Down'} {abs(by):.0f} dB at the {row.name}.", why)
        yield Step(f"box-{row.id}", f"The {row.name} first", says, shown, move,
                   if_nothing="Its knob is on the Ladder (3).")  # fmt: skip
    window = rows[-1].window
    level = rows[-1].speech_dbu
    says = "Then the pad: from the box's level down to what the radio wants."
    if window is None:
        return
    off = max(window.low_dbu - level, 0.0) + min(window.high_dbu - level, 0.0)
    shown = f"{level:.0f} dBu at the radio".replace("-", "−")
    move = None
    if off != 0:
        why = f"it works from {window.low_dbu:.0f} to {window.high_dbu:.0f} dBu".replace("-", "−")
        move = Move(f"{abs(off):.0f} dB {'more' if off > 0 else 'less'} at its socket.", why)
    yield Step("pad", "Then the way down to the radio", says, shown, move,
               if_nothing="The Ladder (3) offers pads that do it.")  # fmt: skip
