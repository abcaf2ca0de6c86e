"""Steps of the way back: volume at a mark, squelch open, strong signals under full scale."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tonleiter.core.desk.back import Back, lay_back
from tonleiter.core.guide.controls import Control
from tonleiter.core.guide.step import Move, Step, turn
from tonleiter.core.judge.findings.model import MOVE, Fix
from tonleiter.core.setup.loop.base import (
    STRONGEST,
    STRONGEST_AT_DB,
    LoopBase,
    under_end,
)
from tonleiter.core.words import listed, the


def back_steps(loop: LoopBase) -> Iterator[Step]:
    """Volume and squelch, then the level of what comes back."""
    back = loop.back
    if back is None:
        return
    marks = [c for c in loop.controls if c.id in ("volume", "squelch")]
    yield turn(
        "mark",
        "Receiver: volume at a mark, squelch open",
        "Put the radio's volume to a marked place and leave it there; squelch open, so that"
        " nothing is cut off.",
        tuple(c for c in marks if not c.fits()) or tuple(marks),
        "its own stage clips before the converter does"
        if any(c.id == "volume" and not c.fits() for c in marks)
        else "a shut squelch takes the beginning of each reply",
        _marked(marks, back),
    )
    yield _hears(loop, back)


def _hears(loop: LoopBase, back: Back) -> Step:
    knobs = [c for c in loop.controls if c.id in ("receive", "record")]
    reading = loop.reads("strongest", loop.strongest_db)
    says = (
        "Raise it until the display is busy: strong signals some 20 dB under full scale, so the"
        f" noise lies some {STRONGEST_AT_DB + max(back.under_strong_db, 0):.0f} under it."
    )
    made = Step(
        "receive",
        "Receive level",
        says,
        "read it" if reading is None else f"strong ones {under_end(reading)}",
        None,
        tuple(c.id for c in knobs),
        "strongest",
        "If nothing comes: the data program listens elsewhere; else see the chain"
        f" “{back.chain}” on the Ladder (3).",
    )
    if reading is None:
        return replace(
            made,
            move=Move(
                "Type how far a strong signal stays under full scale, in decibels.",
                "as the data program's meter shows it",
                asks=True,
            ),
        )
    off = [c for c in knobs if not c.fits()]
    if not off:
        return made
    to = {c.id: c.target() for c in off if abs(c.target() - c.value) >= c.step / 2}
    short = reading > STRONGEST[1]
    why = "weak signals drown in the converter" if short else "a strong one leaves no room"
    if not to:
        volume = loop.control("volume")
        up = reading - STRONGEST_AT_DB
        if volume is not None and short and (v := volume.held(volume.value + up)) > volume.value:
            return replace(
                made,
                move=Move(
                    f"{volume.title.capitalize()} up {v - volume.value:.0f} dB; mark it there.",
                    f"receive knob and slider stand at their ends; {why}",
                    {"volume": v},
                ),
            )
        word = "more" if short else "less"
        return replace(
            made,
            move=Move(
                f"Knob and slider stand at their ends: {abs(up):.0f} dB {word} are wanted.",
                "the lead back must change: its chain is on the Ladder (3)",
                at_end=True,
            ),
        )
    said = listed([f"{c.title} to {c.said(to[c.id])}" for c in off if c.id in to])
    return replace(made, move=Move(f"{said[:1].upper()}{said[1:]}.", why, to))


def no_way_back(loop: LoopBase) -> Step:
    """Nothing leads back yet: a lead to be laid, or what must be entered first."""
    desk, station = loop.desk, loop.there.station
    laid = lay_back(station, loop.case.basis.chain, desk)
    says = "What the receiver hears must come back into the computer: to it, a microphone."
    chain = loop.case.basis.chain
    if laid is None:
        move = Move(
            f"Enter what {the(desk.radio)} gives (loudspeaker socket or fixed output) and what"
            f" “{desk.sends.called}” listens with, in Gear (1).",
            "without both sockets nobody can say what arrives",
            at_end=True,
        )
    else:
        move = Move(
            f"Lay a lead from {the(desk.radio)}'s output to the input of {desk.sends.called}.",
            "the chain is then in the list, to look at on the Ladder (3)",
            fix=Fix(
                "Lay the way back",
                lambda s: lay_back(s, chain, desk) or s,
                "",
                MOVE,
            ),
        )
    return Step("way-back", "The way back", says, "nothing leads back", move)


def _marked(knobs: list[Control], back: Back) -> str:
    volume = next((c.said() for c in knobs if c.id == "volume"), "")
    squelch = next(c for c in knobs if c.id == "squelch")
    where = f"volume {volume}" if back.turns_volume else "fixed output"
    return f"{where}, {'open' if squelch.fits() else 'squelch shut'}"
