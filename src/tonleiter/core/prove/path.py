"""The path of a bring-up: seven steps in the order of careful people, with what to look at."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.gear.net import Polarised
from tonleiter.core.gear.parts import CHIP, DIODE, TRANSFORMER, TRANSISTOR
from tonleiter.core.gear.shopping import Item
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.safety.cautions import caution
from tonleiter.core.station.contacts import At
from tonleiter.core.station.proved import StepId
from tonleiter.core.wiring.model import Build
from tonleiter.core.words import listed, the


@dataclass(frozen=True)
class PathStep:
    """A step: its name, what to connect, its caution."""

    id: StepId
    title: str
    says: str
    caution: str = ""


PATH: tuple[PathStep, ...] = (
    PathStep(
        "look",
        "Look",
        "Before any power: with your eyes, and a pull at every lead.",
        caution("eyes"),
    ),
    PathStep(
        "ring",
        "Ring out",
        "No power, batteries out, unplugged at both ends. A beeper beeps under some 50 ohm: a"
        " winding may beep and be right.",
    ),
    PathStep(
        "dc",
        "DC",
        "Volts against common, no signal, the sound's end unplugged. A supply with a current"
        " limit, a little over what is expected.",
        caution("charged"),
    ),
    PathStep(
        "tone",
        "Tone",
        "A generator in place of the source, the input's impedance at the end: volts RMS at both."
        " A whistle will do for a first look.",
        caution("hearing"),
    ),
    PathStep(
        "listen",
        "Listen",
        "On a small amplifier, before it meets the radio.",
        caution("hearing"),
    ),
    PathStep(
        "dummy-load",
        "Dummy load",
        "Plugged in, power at its lowest, into the dummy load.",
        caution("rf-burns"),
    ),
    PathStep(
        "air",
        "On the air",
        "Identify, and ask for a report in words: muffled, boxy, tinny, hum, clicks, quiet.",
        caution("licence"),
    ),
)


@dataclass(frozen=True)
class Look:
    """Something to look at or to do: a token with what it speaks of, and its sentence."""

    id: str
    says: str


def looks_of(found: Verdict, at: int) -> tuple[Look, ...]:
    """What is to be looked at, made from the build's own parts."""
    return tuple({look.id: look for look in _looks(found, at)}.values())


def _looks(found: Verdict, at: int) -> Iterator[Look]:
    build = found.build
    span = build.spans[at]
    stages = found.assessment.solution.compiled.stages[span.first : span.last + 1]
    for stage in stages[1:-1]:
        for mark in stage.marks:
            ref = build.refs.get(mark.element) if isinstance(mark, Polarised) else None
            if ref and isinstance(mark, Polarised):
                yield Look(f"plus:{ref}", f"{ref}: {_goes(build, ref, '+', 'its plus end')}")
    own = {e.name for e in span.own_elements(found.assessment.solution.compiled)}
    for item in build.items:
        ref = build.refs.get(item.place, "") if item.elements & own else ""
        if ref and item.letter in _LOOKED_AT:
            yield Look(f"{_LOOKED_AT[item.letter]}:{ref}", f"{ref}: {_looked_at(build, item, ref)}")
    yield Look("strands", "no solder between neighbouring contacts, no loose strand")
    for end in (span.right, span.left):
        if end is span.right or not end.guessed:
            yield Look(
                f"face:{end.device}",
                f"{the(end.name)}'s plug: each wire at the figure moulded beside its contact, or as"
                " the drawing of the side that is soldered has it",
            )
    yield Look("strain-relief", "strain relief holds the sheath, not the wires")
    if stages[0].gear.acoustic and at == 0:
        yield Look("gasket", "the capsule's gasket seals, its felt is on, nothing presses on foam")
        yield Look("small-parts", "small parts back in place: plungers, light pipes")


# what eyes tell of a part, by its letter
_LOOKED_AT = {TRANSISTOR: "legs", DIODE: "ring", TRANSFORMER: "windings", CHIP: "legs"}


def _looked_at(build: Build, item: Item, ref: str) -> str:
    if item.letter == DIODE:
        return _goes(build, ref, "K", "the end with the ring")
    if item.letter == TRANSFORMER:
        return "primary on the side of the sound, secondary towards the radio"
    if item.letter == CHIP:
        return "its notch or dot as the drawing has it, every leg in its hole"
    legs = [c for n in build.nets for c in n.contacts if c.thing == ref]
    said = "; ".join(_goes(build, ref, c.label, c.label) for c in legs)
    return said or "each leg where the drawing has it"


def _goes(build: Build, ref: str, pin: str, what: str) -> str:
    """Where one end of a part goes, by what else is soldered there."""
    net = build.net_of(At(ref, pin))
    others = [c for c in net.contacts if c.thing != ref] if net is not None else []
    names = {e.id: e.name for e in build.ends}
    said = [f"{c.label} of {the(names[c.thing])}" if c.thing in names else _pin(c) for c in others]
    where = listed(said[:MOST_NAMED])
    return f"{what} goes to {where}" if where else f"{what} as on the drawing"


def _pin(contact: At) -> str:
    """A part's pin: two ends that are alike need no names."""
    alike = contact.label in ("1", "2")
    return contact.thing if alike else f"{contact.label} of {contact.thing}"


# more than these at one joint need no names
MOST_NAMED = 3


DO: dict[StepId, tuple[Look, ...]] = {
    "listen": (
        Look("speech-clear", "speech is clear"),
        Look("no-hum", "no hum, no buzz"),
        Look("no-crackle", "no crackle when the lead is moved"),
    ),
    "dummy-load": (
        Look("meter-moves", "the meter moves with speech"),
        Look("keys", "it keys, and unkeys"),
        Look("no-howl", "no howl near full power"),
    ),
    "air": (Look("identified", "identified"), Look("report", "report asked for, and noted")),
}
