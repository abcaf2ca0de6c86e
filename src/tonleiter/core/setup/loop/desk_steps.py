"""Steps at the desk: which device the radio is, defaults, the data program, what alters."""

from __future__ import annotations

from collections.abc import Callable

from tonleiter.core.desk.devices import roles_words
from tonleiter.core.desk.plugging import alter, call, choose, give, plug_in, switch_box
from tonleiter.core.guide.step import Move, Step
from tonleiter.core.judge.findings.model import MOVE, Fix
from tonleiter.core.setup.loop.base import (
    LoopBase,
)
from tonleiter.core.station.computer import ALTERING_WORDS, Altering, Way
from tonleiter.core.station.model import Station
from tonleiter.core.words import count_of, listed, one_or, the


def _edit(title: str, change: Callable[[Station], Station]) -> Fix:
    return Fix(title, change, "", MOVE)


def names(loop: LoopBase) -> Step:
    """Which of the devices the radio is: plugged in, awake, of a name of its own."""
    desk, me = loop.desk, loop.desk.sends
    computer, made, clock = desk.computer.id, None, loop.there.clock
    says = (
        "Look at the system's list of sound devices, plug the lead in, look again: what is new"
        " is the radio."
    )
    if not me.plugged:
        made = Move(
            f"Plug in “{me.called}”.",
            "the radio is a loudspeaker and a microphone to the computer",
            fix=_edit(f"Plug in {me.called}", lambda s: plug_in(s, computer, me.id, clock)),
        )
    elif me.asleep:
        made = Move(
            f"Switch {the(desk.radio)} on.",
            f"“{me.called}” is in the list because USB feeds it: behind it nothing listens",
            fix=_edit(
                f"Switch {the(desk.radio)} on", lambda s: switch_box(s, computer, me.id, True)
            ),
        )
    elif desk.twice():
        other = f"{me.called}, {desk.radio}"[:80]
        made = Move(
            f"Two devices are called “{me.called}”. Name the radio's “{other}”.",
            "pull one lead and see which line goes: that is how one knows",
            fix=_edit(f"Call it “{other}”", lambda s: call(s, computer, me.id, other)),
        )
    shown = f"“{me.called}”" if me.plugged else "not plugged in"
    return Step("names", "Which one is the radio?", says, shown, made)


def defaults(loop: LoopBase) -> Step:
    """What the system gave to the radio goes back to the desk."""
    desk, made = loop.desk, None
    computer = desk.computer.id
    taken = desk.taken
    says = (
        "The system makes what was plugged in last its default. Give every default back to the"
        " desk: only the data program may know the radio."
    )
    if taken:
        made = Move(
            f"Give the {roles_words(taken)} back to the desk.",
            "your system's sounds stop going on the air; the data program keeps the radio",
            fix=_edit("Give it back to the desk", lambda s: give(s, computer, taken)),
        )
    elif lost := desk.nowhere():
        made = Move(
            f"Choose a device for: the {roles_words(lost)}.",
            "what was chosen is not there; the system takes the first of its list",
            fix=_edit("Give it to the desk", lambda s: give(s, computer, lost)),
        )
    shown = "taken by the radio" if taken else "at the desk"
    return Step("defaults", "Defaults back to the desk", says, shown, made)


def programs(loop: LoopBase) -> Step:
    """The data program names the radio, both ways."""
    desk, made = loop.desk, None
    computer = desk.computer.id
    wrong = _wrong_ways(loop)
    says = (
        "In the data program, and only there, name the radio: as its output, to send, and as"
        " its input, to receive."
    )
    if wrong:
        to: dict[Way, str | None] = {
            way: (desk.out if way == "out" else desk.into) for way in wrong
        }
        words = listed([f"{'output' if w == 'out' else 'input'}" for w in wrong])
        name = desk.sends.called
        made = Move(
            f"In the data program choose “{name}” as its {words}.",
            "to the computer the transmitter is a loudspeaker and the receiver a microphone",
            fix=_edit(f"Choose “{name}” in the data program", lambda s: choose(s, computer, to)),
        )
    shown = "named in the program" if not wrong else "not named there"
    return Step("program", "The data program uses it", says, shown, made)


def _wrong_ways(loop: LoopBase) -> tuple[Way, ...]:
    """Ways for which the data program does not name the radio's device itloop."""
    desk = loop.desk
    wanted: dict[Way, str | None] = {"out": desk.out, "in": desk.into}
    return tuple(
        way
        for way, device in wanted.items()
        if device is not None and desk.state.program.get(way) != device
    )


def altering(loop: LoopBase) -> Step:
    """Nothing alters what goes through."""
    on, computer, made = loop.desk.state.altering, loop.desk.computer.id, None
    if on:
        names = listed([ALTERING_WORDS[a] for a in on])
        made = Move(
            f"Switch off: {names}.",
            "a modem wants what it sent, and hears what the band sent: nothing in between",
            fix=_edit(
                "Switch all of it off",
                lambda s: alter(s, computer, dict.fromkeys(on, False)),
            ),
        )
    says = "Nothing of the system may alter, add to, or pass on what goes through the radio."
    return Step("off", "Everything that alters audio off", says, _on_words(on), made)


def _on_words(on: tuple[Altering, ...]) -> str:
    return (
        "all off" if not on else f"{count_of(len(on), 'thing')} {one_or(len(on), 'is', 'are')} on"
    )
