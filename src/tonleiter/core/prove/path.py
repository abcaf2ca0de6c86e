"""The path of a bring-up: seven steps in the order of careful people, with what to look at."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.bench.unit import Unit
from tonleiter.core.gear.net import Polarised
from tonleiter.core.judge.wired import Wired
from tonleiter.core.station.disk import fingerprint as hash_of
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
        "look", "Look", "Before any power: with your eyes, and a pull at every lead.",
        "Cut wire ends fly: eye protection.",
    ),
    PathStep(
        "ring", "Ring out",
        "No power, batteries out, unplugged at both ends. A beeper beeps under some 50 ohm: a"
        " winding may beep and be right.",
    ),
    PathStep(
        "dc", "DC",
        "Volts against common, no signal, the sound's end unplugged. A supply with a current"
        " limit, a little over what is expected.",
        "Charged capacitors; where mains or valve gear is inside: qualified people only.",
    ),
    PathStep(
        "tone", "Tone",
        "A generator in place of the source, the input's impedance at the end: volts RMS at both."
        " A whistle will do for a first look.",
        "Headphones off your ears.",
    ),
    PathStep(
        "listen", "Listen", "On a small amplifier, before it meets the radio.",
        "Headphones down first; turn up from nothing.",
    ),
    PathStep(
        "dummy-load", "Dummy load", "Plugged in, power at its lowest, into the dummy load.",
        "RF burns: no aerial, nobody at the connector; the load must bear the power.",
    ),
    PathStep(
        "air", "On the air",
        "Identify, and ask for a report in words: muffled, boxy, tinny, hum, clicks, quiet.",
        "Stay within the licence.",
    ),
)  # fmt: skip


def looks_of(found: Wired, at: int) -> tuple[str, ...]:
    """What is to be looked at, made from the build's own parts; and what to do in later steps."""
    return tuple(dict.fromkeys(_looks(found, at)))


def _looks(found: Wired, at: int) -> Iterator[str]:
    build = found.build
    span = build.spans[at]
    stages = found.assessment.solution.compiled.stages[span.first : span.last + 1]
    for stage in stages[1:-1]:
        for mark in stage.marks:
            ref = build.refs.get(mark.element) if isinstance(mark, Polarised) else None
            if ref and isinstance(mark, Polarised):
                yield f"{ref}: plus towards {build.net_at.get(mark.p, 'its net')}"
    own = {e.name for e in span.own_elements(found.assessment.solution.compiled)}
    for item in build.items:
        ref = build.refs.get(item.place, "") if item.elements & own else ""
        if ref.startswith("Q"):
            yield f"{ref}: each leg where the drawing has it"
        if ref.startswith("D"):
            yield f"{ref}: its ring to the cathode's side"
        if ref.startswith("T"):
            yield f"{ref}: primary and secondary not changed over"
    yield "no solder between neighbouring contacts, no loose strand"
    yield f"the {span.right.name}'s plug counted from the right face"
    if not build.spans[at].left.guessed:
        yield f"the {span.left.name}'s plug counted from the right face"
    yield "strain relief holds the sheath, not the wires"
    if stages[0].gear.acoustic and at == 0:
        yield "the capsule's gasket seals, its felt is on, nothing presses on foam"
        yield "small parts back in place: plungers, light pipes"


DO: dict[StepId, tuple[str, ...]] = {
    "listen": ("speech is clear", "no hum, no buzz", "no crackle when the lead is moved"),
    "dummy-load": ("the meter moves with speech", "it keys, and unkeys", "no howl near full power"),
    "air": ("identified", "report asked for, and noted"),
}


def fingerprint(unit: Unit) -> str:
    """What a build is, in few letters: readings of another one are marked as such."""
    own = [repr(e) for e in unit.elements if e.name not in unit.plugged]
    return hash_of(repr(sorted(own)).encode())[:16]
