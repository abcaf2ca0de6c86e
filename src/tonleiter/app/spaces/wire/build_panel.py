"""The whole build, where nothing is chosen: how it is coupled and made, what stays free."""

from __future__ import annotations

from functools import partial

from tonleiter.app.spaces.wire.rows import Rows
from tonleiter.core.gear.figure import VOLTS
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.judge.wiring.schools import TITLES, SchoolId, school_now
from tonleiter.core.wiring.keying import Keying
from tonleiter.core.wiring.model import Build

_COUPLE: dict[SchoolId, str] = {
    "straight": "Couple it straight",
    "cold-to-ground": "Tie cold to ground at the far end",
    "transformer": "Couple it by a transformer",
}


def show_build(rows: Rows, found: Verdict) -> None:
    """Everything that can be decided about a build as a whole."""
    build = found.build
    rows.words("Press a wire or a contact", "title")
    rows.words(
        "Its net lights up: every joint, its DC and speech, what an ohmmeter finds."
        " Drag the end of a wire to another contact to solder it there."
    )
    if build.wiring.landings or build.wiring.bridges or build.wiring.plugs:
        rows.words("Changed by hand", "section")
        rows.link("Wire it as the pinouts say", rows.model.forget_hands)
    for gone in build.stale:
        rows.words(f"no longer there: {gone}", "caution")
    shared = rows.model.together
    if shared:
        rows.words("In the same plug", "section")
        for t in shared:
            rows.link(t.chain.name, partial(rows.model.open_chain, t.chain.id))
            rows.words(t.words(), "caption")
    if build.spans:
        _schools(rows, found)
        _made(rows, build)
    free = [x for x in build.leftovers if not any(x.contact in t.contacts for t in shared)]
    if free:
        rows.words("Contacts not used", "section")
        for left in free:
            rows.words(f"{rows.named(left.contact)}: {left.do}")
    rows.words("Parts", "section")
    for part in build.parts:
        rows.words(part.words())


def _schools(rows: Rows, found: Verdict) -> None:
    model = rows.model
    rows.words("How it is coupled", "section")
    rows.words(f"Now {TITLES[school_now(found, model.place)]}.")
    if model.schools is None:
        rows.words("the other schools are being solved…", "caption")
        return
    for school in model.schools:
        take = rows.link(_COUPLE[school.id], partial(model.take_school, school))
        take.setAccessibleDescription(school.effect)
        rows.words(school.effect, "caption")
        rows.link(
            "Show it as a ghost",
            partial(model.show_as_ghost, school),
            f"{school.title}: show it as a ghost on the Ladder",
        )


def _made(rows: Rows, build: Build) -> None:
    model, wiring = rows.model, build.wiring
    rows.words("Made how", "section")
    if build.has_parts_in(model.place):
        rows.choice(
            "Case",
            "Case of the box",
            [("metal", "metal"), ("plastic", "plastic")],
            wiring.box,
            lambda box: model.set_wiring("case", box=box),
        )
        if wiring.box == "metal":
            rows.choice(
                "joined to",
                "Case joined to",
                [("the screen", "screen"), ("nothing", "nothing")],
                wiring.case_to,
                lambda to: model.set_wiring("case", case_to=to),
            )
    if build.keying is not None and model.place == len(build.spans) - 1:
        _transmit(rows, build, build.keying)


def _transmit(rows: Rows, build: Build, keying: Keying) -> None:
    model, wiring = rows.model, build.wiring
    rows.words(f"Transmit: {keying.says}.")
    if keying.wired:
        rows.choice(
            "goes back",
            "The switch goes back",
            [("on a wire of its own", "own-wire"), ("on the audio ground", "audio-ground")],
            wiring.switch_returns,
            lambda to: model.set_wiring("switch's return", switch_returns=to),
        )
    if keying.wired and not keying.from_computer:
        rows.choice(
            "and beside it",
            "A second switch, in parallel",
            [
                ("nothing", ""),
                ("foot switch", "foot-switch"),
                ("push button", "push-button"),
                ("toggle", "toggle"),
            ],
            wiring.also or "",
            lambda way: model.set_wiring("a second switch", also=way or None),
        )
    if keying.way == "microphone":
        rows.choice(
            "sits",
            "Where the switch sits",
            [("away from the capsule", "away"), ("beside the capsule", "beside-capsule")],
            wiring.switch_place,
            lambda at: model.set_wiring("the switch's place", switch_place=at),
        )
    if keying.from_computer:
        rows.figure(
            "Port gives",
            "Volts of the serial port",
            VOLTS,
            wiring.serial_v,
            ("wiring", "serial_v"),
            lambda f: model.set_wiring("serial port", serial_v=f),
        )
    rows.words(f"Keyed by accident by {keying.by_accident}.", "caption")
    for caution in keying.cautions:
        rows.words(f"⚠ {caution}", "caution")
