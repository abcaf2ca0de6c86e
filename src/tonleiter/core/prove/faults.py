"""Every single fault that hands make in a build, as an edit of its circuit, with its prior."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.bench.transmit import SWITCH_CONTACT
from tonleiter.core.bench.unit import Unit
from tonleiter.core.circuit.elements import Resistor
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.prove.edits import bridge
from tonleiter.core.prove.fault import Fault
from tonleiter.core.prove.of_parts import of_items, switch, wet
from tonleiter.core.prove.of_plugged import of_what_is_plugged
from tonleiter.core.prove.of_wires import of_wires


def faults_of(found: Verdict, unit: Unit) -> tuple[Fault, ...]:
    """Every single fault of a unit, each under an id of its own."""
    made = [
        *of_items(found, unit),
        *of_wires(found, unit),
        *of_what_is_plugged(unit),
        *_of_switch(unit),
        *_of_clips(unit),
        *wet(unit),
    ]
    return tuple({f.id: f for f in made}.values())


def _of_clips(unit: Unit) -> Iterator[Fault]:
    """Plus and minus of a supply joined: a strand, solder, a capacitor that gave up."""
    for clip in unit.clips:
        says = f"plus and minus of {clip.ref} joined"
        short = bridge(clip.plus, clip.minus)
        yield Fault(f"{clip.ref}-joined", says, "short", clip.ref, short)


def _of_switch(unit: Unit) -> Iterator[Fault]:
    contact = next((e for e in unit.elements if e.name == SWITCH_CONTACT), None)
    if isinstance(contact, Resistor):
        yield from switch("the transmit switch", contact)
