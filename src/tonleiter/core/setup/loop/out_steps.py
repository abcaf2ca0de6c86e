"""Steps of the way out: the slider until it keys, the level behind it, the tail."""

from __future__ import annotations

from dataclasses import replace

from tonleiter.core.guide.step import AIR, Move, Step, turn
from tonleiter.core.setup.loop.base import (
    LOST_S,
    NEAR_DB,
    PEAKS_UNDER_DB,
    SPARE,
    SPARE_AT_DB,
    LoopBase,
)
from tonleiter.core.station.settings import KnobId
from tonleiter.core.units.levels import signed
from tonleiter.core.words import listed

# a switch that is made less sensitive still has so much to spare
MIDDLE_SPARE_DB = 12.0


def slider(loop: LoopBase) -> Step:
    """Up until it keys and a little more; where nothing listens, well under the end."""
    program = loop.control("program")
    assert program is not None
    sent, knobs = loop.sent, [c for c in loop.controls if c.id == "slider"]
    if not program.fits():
        return turn(
            "program-level",
            "Level in the program",
            "Peaks of what is sent must stay under full scale.",
            (program,),
            "over full scale a converter cuts: every signal gets wider",
            f"peaks at {signed(sent.peak_dbfs, 0)} dBFS",
        )
    if not sent.listens:
        return turn(
            "slider",
            "Slider, well under full scale",
            "No switch listens to it: the slider stands well over the converter's noise and"
            " well under its end.",
            tuple(knobs),
            "the level is set behind it",
            f"{signed(sent.out_dbfs, 0)} dBFS",
        )
    spare = loop.reads("spare", loop.keyed.spare_db or 0.0)
    says = (
        "From zero up until the interface keys, and 6 dB more; then leave it, and set the level"
        " behind it."
    )
    made = Step(
        "slider",
        "Slider up until it keys, and 6 dB",
        says,
        "read it" if spare is None else _spare_words(spare),
        None,
        tuple(k.id for k in knobs) or ("level",),
        "spare",
        "If nothing keys at all: another device is sent to, or the switch of the interface is"
        " set to be keyed by a line.",
        AIR,
    )
    if spare is None:
        ask = Move(
            "Type by how many decibels the slider may come down until it keys no more.",
            "0 where it does not key",
            asks=True,
        )
        return replace(made, move=ask)
    if (move := _less_sensitive(loop, spare)) is not None:
        return replace(made, move=move)
    if spare >= SPARE[0] - NEAR_DB:
        return made
    return replace(made, move=_louder(loop, SPARE_AT_DB - spare, _why_spare(spare)))


def _less_sensitive(loop: LoopBase, spare: float) -> Move | None:
    """A switch that noise opens, or every click: its threshold goes up, if it has a knob."""
    sent, threshold = loop.sent, loop.control("threshold")
    by_noise = sent.noise_dbfs >= sent.switch.threshold_db
    if not by_noise and (spare <= SPARE[1] + NEAR_DB or threshold is None):
        return None
    if threshold is None:
        return Move(
            "Its switch cannot be made less sensitive: switch it off, and key by a line.",
            f"the converter's own noise, {signed(sent.noise_dbfs, 0)} dBFS, opens it",
            at_end=True,
        )
    to = round(threshold.value + spare - MIDDLE_SPARE_DB)
    if by_noise:
        to = max(to, round(sent.noise_dbfs + SPARE_AT_DB))
    why = "hiss keys it" if by_noise else "so far over, every click and beep keys it as well"
    to = int(threshold.held(to))
    return Move(
        f"{threshold.title.capitalize()} {threshold.said(to)}.", why, {"threshold": float(to)}
    )


def _louder(loop: LoopBase, by_db: float, why: str) -> Move:
    """Slider first, then the program, then the switch's threshold."""
    left = by_db
    knobs: dict[KnobId, float] = {}
    names: tuple[KnobId, ...] = ("slider", "program")
    for name in names:
        found = loop.control(name)
        if found is None or abs(left) < NEAR_DB:
            continue
        to = found.held(round((found.value + left) / found.step) * found.step)
        if to != found.value:
            knobs[found.id] = to
            left -= to - found.value
    threshold = loop.control("threshold")
    if abs(left) >= 1.0 and threshold is not None:
        to = threshold.held(round(threshold.value - left))
        if to != threshold.value:
            knobs["threshold"] = to
            left += to - threshold.value
    if not knobs:
        word = "more" if by_db > 0 else "less"
        return Move(
            f"Nothing is left to turn: {abs(by_db):.0f} dB {word} are wanted.",
            f"{why}; turn the program's own level, which Gear (1) has as “program against it”",
            at_end=True,
        )
    said = [f"{c.title} to {c.said(v)}" for n, v in knobs.items() if (c := loop.control(n))]
    text = listed(said)
    return Move(f"{text[:1].upper()}{text[1:]}.", why, knobs)


def level(loop: LoopBase) -> Step:
    """The radio's own step; where its knob is at its end, what lies before it first."""
    found = next((s for s in loop.radio.own_steps() if s.id == "level"), None)
    title = f"Level at the {loop.sent.knob_place}"
    if found is None:
        return Step("level", title, "", "", None)
    found = replace(found, title=title)
    knob = loop.radio.control("level")
    if found.move is not None and knob is not None and "level" in found.move.knobs:
        by = found.move.knobs["level"] - knob.value
        said = f"{'Up' if by > 0 else 'Down'} {abs(by):.1f} dB at the {loop.sent.knob_place}."
        found = replace(found, move=replace(found.move, says=said))
    if found.move is None or knob is None or not knob.stuck() or knob.aim is None:
        return found
    short = (knob.aim[0] + knob.aim[1]) / 2 - knob.value
    names: tuple[KnobId, ...] = ("slider", "program")
    room = [c for n in names if (c := loop.control(n)) is not None and c.value < c.high]
    peaks = -PEAKS_UNDER_DB - loop.sent.peak_dbfs
    if short <= 0 or not room or min(short, peaks) < NEAR_DB:
        return found
    made = _louder(loop, min(short, peaks), f"the {loop.sent.knob_title} stands at its end")
    return replace(found, move=made)


def hang(loop: LoopBase) -> Step:
    """The tail after sound, as short as the switch allows."""
    (knob,) = (c for c in loop.controls if c.id == "hang")
    if knob.aim is not None and not knob.fits():
        # its least, and not the middle of what would do
        knob = knob.with_aim((knob.low, knob.low))
    lost = loop.keyed.lost_s(loop.sent.answers_after_s)
    return turn(
        "hang",
        "Hang time to its least",
        f"The other station answers after some {loop.sent.answers_after_s:.2g} s: what the"
        " switch hangs on for is transmitted over the reply.",
        (knob,),
        f"the reply's first {lost:.1f} s are lost" if lost > LOST_S else "nothing is lost",
        if_nothing="It must be longer than gaps within what is sent: else it lets go there.",
    )


def _spare_words(spare: float) -> str:
    return f"{spare:.0f} dB to spare" if spare >= 0 else f"{-spare:.0f} dB short of keying"


def _why_spare(spare: float) -> str:
    if spare < 0:
        return "it does not key"
    return f"it keys with {spare:.0f} dB to spare: a little less, and it drops out"
