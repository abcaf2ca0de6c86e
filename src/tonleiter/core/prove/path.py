"""The path of a bring-up: seven steps in the order of careful people, with what to look at."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.gear.net import Polarised
from tonleiter.core.gear.parts import DIODE, TRANSFORMER, TRANSISTOR
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.safety.cautions import caution
from tonleiter.core.station.proved import StepId


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


# what eyes tell of a part, by its letter
_LOOKED_AT = {
    TRANSISTOR: ("legs", "each leg where the drawing has it"),
    DIODE: ("ring", "its ring to the cathode's side"),
    TRANSFORMER: ("windings", "primary and secondary not changed over"),
}


def _looks(found: Verdict, at: int) -> Iterator[Look]:
    build = found.build
    span = build.spans[at]
    stages = found.assessment.solution.compiled.stages[span.first : span.last + 1]
    for stage in stages[1:-1]:
        for mark in stage.marks:
            ref = build.refs.get(mark.element) if isinstance(mark, Polarised) else None
            if ref and isinstance(mark, Polarised):
                towards = build.net_at.get(mark.p, "its net")
                yield Look(f"plus:{ref}", f"{ref}: plus towards {towards}")
    own = {e.name for e in span.own_elements(found.assessment.solution.compiled)}
    for item in build.items:
        ref = build.refs.get(item.place, "") if item.elements & own else ""
        if ref and item.letter in _LOOKED_AT:
            token, says = _LOOKED_AT[item.letter]
            yield Look(f"{token}:{ref}", f"{ref}: {says}")
    yield Look("strands", "no solder between neighbouring contacts, no loose strand")
    for end in (span.right, span.left):
        if end is span.right or not end.guessed:
            yield Look(f"face:{end.device}", f"the {end.name}'s plug counted from the right face")
    yield Look("strain-relief", "strain relief holds the sheath, not the wires")
    if stages[0].gear.acoustic and at == 0:
        yield Look("gasket", "the capsule's gasket seals, its felt is on, nothing presses on foam")
        yield Look("small-parts", "small parts back in place: plungers, light pipes")


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
