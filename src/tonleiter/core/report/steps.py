"""The order of work on a sheet: a step a line, each with its caution."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.gear.net import Polarised
from tonleiter.core.gear.parts import BATTERY, CAPACITOR, TRANSFORMER, TRANSISTOR
from tonleiter.core.gear.passives import Cable
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.inside import inside_of
from tonleiter.core.report.score import Plug, Score
from tonleiter.core.report.sheet_words import named, place_in
from tonleiter.core.report.together import Together
from tonleiter.core.safety.cautions import caution
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.station.contacts import At
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.wiring.keyed import PORT_WORDS
from tonleiter.core.words import the


@dataclass(frozen=True)
class Step:
    """One thing to do, with its caution where it stands; each has a box to tick."""

    says: str
    caution: str = ""


def steps_of(found: Verdict, at: int, score: Score, shared: tuple[Together, ...]) -> Iterator[Step]:
    """From the first sleeve on a lead to the first key-down, of one part of a chain."""
    build = found.build
    parts = _parts_here(found, at)
    yield Step("Slide hood, strain relief and sleeves on each lead before you solder its plug.")
    if parts and score.case:
        drill = f"Drill the {score.case}, deburr it, fit the strain reliefs"
        yield Step(f"{drill}; try each part in its place.", caution("eyes"))
    yield Step("Strip short, twist and tin every end; no loose strand.", caution("fumes"))
    if parts:
        drawn = f"Solder the parts as drawn, leads cut short: {', '.join(parts)}."
        charged = caution("charged") if build.lettered(CAPACITOR) & set(parts) else ""
        feet = " Feet on the drawing all stand on its common line." if score.sheet.bars else ""
        yield Step(drawn + _sides(found, at) + feet, charged)
    yield from _legs(found, at)
    if parts and build.wiring.box == "metal" and build.wiring.case_to == "screen":
        where = _case_joins(found, at)
        yield Step(f"Join the case to {where}, at one point, and nowhere else.")
    inside = inside_of(found, at)
    if inside is not None:
        marks = ", ".join(s.ref for s in inside.sheet.symbols)
        yield Step(f"In the case of {the(inside.name)}, if you build it, as drawn: {marks}.")
    for plug in (score.left, score.right):
        yield Step(_plug_step(found, plug))
        for t in shared:
            if t.end == plug.end.id:
                where = "plug and lead" if t.in_lead else "plug"
                yield Step(f"In the same {where}, for {t.chain.name}: {t.words()}.")
    used = {at for t in shared for at in t.contacts}
    for left in build.leftovers:
        if left.contact in used:
            continue
        if left.role in ("bias", "unknown") and left.contact.thing == score.right.end.id:
            yield Step(f"Contact {left.contact.label}: {left.do}.")
    if score.keyed:
        yield from _switch_steps(found, score)
    if build.spans[at] is build.spans[-1]:
        yield from _interface_keys(found)
    yield Step("Look: polarity, bridges of solder, loose strands, strain relief tight.")
    yield Step(_ring_step(found, at))
    if is_lethal(found):
        yield Step("Have qualified people plug it in.", caution("lethal-volts"))
    yield from _first_volts(found, at, score)
    yield Step("Speak, watch the meter of the radio; then the first key-down.", caution("rf"))


def _legs(found: Verdict, at: int) -> Iterator[Step]:
    """What has legs or leads that could be taken for each other."""
    build = found.build
    here = {build.refs[i.place]: i for i in build.items if place_in(found, at, i)}
    chips = [r for r, i in here.items() if i.part.has_socket]
    transistors = [r for r, i in here.items() if i.letter == TRANSISTOR]
    windings = [r for r, i in here.items() if i.letter == TRANSFORMER]
    if chips:
        yield Step(
            f"{', '.join(chips)}: solder its socket, put the chip in last; the 100 nF right at its"
            " supply pins, leads as short as they go."
        )
    if transistors:
        yield Step(
            f"{', '.join(transistors)}: legs are named as on the drawing. They differ between"
            " types: take them from the data sheet of what is in your hand."
        )
    for ref in windings:
        yield Step(
            f"{ref}: number its leads as on the drawing with an ohmmeter, 1 and 2 one winding,"
            " 3 and 4 the other; dots mark leads that go up together."
        )
    if any(isinstance(s.gear, Cable) and s.gear.form == "star-quad" for s in _leads_of(found, at)):
        yield Step("Star-quad: join opposite cores, two and two; one pair is hot, the other cold.")
    if _has_batteries(found, at):
        yield Step("The battery has a switch and goes in last, after the ohms.")


def _leads_of(found: Verdict, at: int) -> tuple[PlacedStage, ...]:
    return found.build.spans[at].between(found.assessment.solution.compiled.stages)


def _has_batteries(found: Verdict, at: int) -> bool:
    return any(i.letter == BATTERY and place_in(found, at, i) for i in found.build.items)


def _ring_step(found: Verdict, at: int) -> str:
    """Ohms come before volts: nothing that gives any is in."""
    cells = "batteries out, " if _has_batteries(found, at) else ""
    loose = SHELLS[found.build.spans[at].left.connector.shell].usual_for == "loose"
    ends = "unplugged at the radio" if loose else "unplugged at both ends"
    return f"Power off, {cells}{ends}: ring it out against the table. Then close the plugs."


def _first_volts(found: Verdict, at: int, score: Score) -> Iterator[Step]:
    """Volts with the source still out, then with it."""
    left, right = score.left, score.right.end.name
    begin = "Batteries in, plug it in" if _has_batteries(found, at) else "Plug it in"
    if SHELLS[left.shell].usual_for == "loose" or not left.end.feeds:
        yield Step(
            f"{begin}, radio on, power at its lowest; measure the DC of the table.",
            caution("hearing"),
        )
        return
    yield Step(
        f"{begin} at {the(right)}, radio on, power at its lowest, {the(left.end.name)} still out:"
        " no contact may stand higher than its supply.",
        caution("hearing"),
    )
    yield Step(f"Plug {the(left.end.name)} in; measure the DC of the table.")


def _case_joins(found: Verdict, at: int) -> str:
    """The screen that comes to the case: that of the source's lead, unless it is open there."""
    span = found.build.spans[at]
    wires = [c for c in found.build.wires_in(at) if c.key and not c.of_switch]
    for end, own in (
        (span.left, [c for c in wires if c.near]),
        (span.right, [c for c in wires if c.far]),
    ):
        legs = {c.leg: c for c in own}
        braid = legs.get("screen") or legs.get("cold")
        inner = None if braid is None else braid.end if end is span.left else braid.start
        if inner is not None:
            return f"the screen of the lead to {the(end.name)}"
    return "the common line of the drawing"


def _parts_here(found: Verdict, at: int) -> list[str]:
    return [
        found.build.refs[i.place]
        for i in found.build.items
        if i.place in found.build.refs and place_in(found, at, i)
    ]


def _sides(found: Verdict, at: int) -> str:
    """Which way round polarised parts stand."""
    span = found.build.spans[at]
    said = []
    for stage in span.between(found.assessment.solution.compiled.stages):
        for mark in stage.marks:
            if not isinstance(mark, Polarised) or mark.element not in found.build.refs:
                continue
            net = found.build.net_at.get(mark.p, "")
            said.append(f" Plus of {found.build.refs[mark.element]} to {net}.")
    return "".join(said)


def _plug_step(found: Verdict, plug: Plug) -> str:
    """One plug, contact by contact."""
    build = found.build
    wires = []
    for c in build.conductors:
        for at in c.ends:
            if at.thing == plug.end.id and c.leg != "link":
                wires.append(f"{c.colour} ({c.leg.replace('-', ' ')}) to {at.label}")
    links = [
        " joined to ".join(at.label for at in c.ends)
        for c in build.conductors
        if c.leg == "link" and all(at.thing == plug.end.id for at in c.ends)
    ]
    said = ", ".join(dict.fromkeys((*wires, *links))) or "nothing"
    side = ", seen from the solder side" if plug.has_faces else ""
    assumed = " (assumed: nobody entered it)" if plug.end.guessed else ""
    return f"{SHELLS[plug.shell].titled(plug.half)}{assumed} to {the(plug.end.name)}{side}: {said}."


def _switch_steps(found: Verdict, score: Score) -> Iterator[Step]:
    """The switch, or what a port drives, leg by leg; its plug where it has one of its own."""
    build = found.build
    keying, end = build.keying, build.key_end
    if keying is None or end is None:
        return
    yield Step(f"Wire the switch: {keying.says}.", " ".join(keying.cautions))
    own = [c for c in build.conductors if c.of_switch]
    if build.keyer.symbols:
        drawn = ", ".join(f"{s.ref} {s.value}".strip() for s in build.keyer.symbols)
        joins = "; ".join(
            f"{named(found, c.start)} to {named(found, c.end)}"
            for c in build.conductors
            if c.inside and set(c.ends) <= _legs_of(build.keyer)
        )
        yield Step(
            f"Solder {drawn} as drawn: {joins}. Legs differ between types: take them from the data"
            " sheet of what is in your hand. The ring of a diode is its cathode, K."
        )
        port = "; ".join(
            f"{c.start.label} ({PORT_WORDS[c.start]}) to {named(found, c.end)}"
            for c in own
            if c.start is not None and c.start in PORT_WORDS
        )
        yield Step(f"{SHELLS['de-9'].title}, female, to the computer's serial port: {port}.")
    if end not in (score.left.end, score.right.end):
        title = SHELLS[end.connector.shell].titled(end.lead_half)
        wires = ", ".join(
            f"{c.colour} ({c.leg.replace('-', ' ')}) to {c.end.label}"
            for c in own
            if c.end is not None and c.end.thing == end.id
        )
        yield Step(f"{title} to {the(end.name)}, {end.connector.name}: {wires}.")


def _interface_keys(found: Verdict) -> Iterator[Step]:
    """An interface that hears the transmit tone keys by an output of its own, with its own lead."""
    keying, end = found.build.keying, found.build.key_end
    contact = None if end is None else end.contact_of("transmit")
    if keying is None or keying.way != "interface-vox" or end is None or contact is None:
        return
    back = end.contact_of("transmit-ground")
    returns = "" if back is None else f", its return to {back.label}"
    yield Step(
        f"The interface keys by an output of its own: take that to contact {contact.label} of"
        f" {the(end.name)}{returns}, as its manual names it. It is not on this drawing.",
        " ".join(keying.cautions),
    )


def _legs_of(sheet: Sheet) -> set[At]:
    return {At(s.ref, p.name) for s in sheet.symbols for p in s.pins}


def is_lethal(found: Verdict) -> bool:
    """Whether anything of the chain, or a box that it ends in, holds lethal voltage."""
    station = found.assessment.station
    stages = found.assessment.solution.compiled.stages
    return any("lethal-volts" in station.hazards(s.gear) for s in stages)
