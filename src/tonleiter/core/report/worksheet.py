"""What a sheet for the soldering iron says: wires, the order of work, what meters will find."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from tonleiter.core.bench.ohms import Ohmmeter
from tonleiter.core.bench.unit import unit_of
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.gear.net import Polarised
from tonleiter.core.gear.parts import BATTERY, CAPACITOR, TRANSFORMER, TRANSISTOR, Part
from tonleiter.core.gear.passives import Cable
from tonleiter.core.gear.shopping import Item, merged
from tonleiter.core.judge.assess import Assessment, assess
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.inside import Inside, inside_of
from tonleiter.core.report.score import Plug, Score, score_of
from tonleiter.core.report.selector import Selector, selectors
from tonleiter.core.report.together import Together, together
from tonleiter.core.report.wiring import AIR
from tonleiter.core.safety.cautions import caution
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.station import edits
from tonleiter.core.station.contacts import At
from tonleiter.core.station.model import Station
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.units.levels import format_volts, signed
from tonleiter.core.units.quantity import METRE, OHM, format_quantity, hundredths
from tonleiter.core.wiring.keyed import PORT, PORT_WORDS, RAIL, SECOND
from tonleiter.core.wiring.model import SWITCH, Conductor, Leftover, is_new, is_soldered
from tonleiter.core.words import count_of


@dataclass(frozen=True)
class Row:
    """A line of the wire table."""

    start: str
    end: str
    carries: str
    colour: str
    length: str


@dataclass(frozen=True)
class Step:
    """One thing to do, with its caution where it stands; each has a box to tick."""

    says: str
    caution: str = ""


@dataclass(frozen=True)
class Expected:
    """What a meter finds, and where."""

    where: str
    reads: str


@dataclass(frozen=True)
class Modification:
    """Work inside gear: what was there, what is put in, what it does, the way back."""

    box: str
    was: str
    put_in: str
    effect: str
    back: str
    caution: str


# readings from plug to plug that go through a part
MOST_BRIDGED = 6


@dataclass(frozen=True)
class Worksheet:
    """Everything on the sheet of one part of a build."""

    title: str
    subtitle: str
    score: Score
    rows: tuple[Row, ...]
    steps: tuple[Step, ...]
    dc: tuple[Expected, ...]
    ohms: tuple[Expected, ...]
    left_over: tuple[str, ...]
    mends: tuple[str, ...]
    parts: tuple[Part, ...]
    modifications: tuple[Modification, ...]
    inside: Inside | None = None
    selectors: tuple[Selector, ...] = ()


def worksheet(found: Verdict, at: int, day: str, shared: tuple[Together, ...] = ()) -> Worksheet:
    """The sheet of a part of a build. Raises IndexError for one that is not there.

    ``shared`` is what else meets in its plugs: it is soldered with it.
    """
    score = score_of(found, at, shared)
    inside = inside_of(found, at)
    compiled = found.assessment.solution.compiled
    build = found.build
    wires = sorted(build.wires_in(at % len(build.spans)), key=lambda c: c.inside)
    return Worksheet(
        title=f"{score.left.end.name} to {score.right.end.name}",
        subtitle=f"{compiled.chain.name}, {compiled.variant.name} · {day}",
        score=score,
        rows=(
            *(_row(found, c) for c in wires),
            *_bridged(found, score),
            *_rows_inside(found, inside),
            *_rows_of(shared, score),
        ),
        steps=tuple(_steps(found, at, score, shared)),
        dc=tuple(_dc(found, score)),
        ohms=tuple(_ohms(found, at)),
        left_over=tuple(
            f"{_named(found, x.contact)}: {_do(x, shared)}"
            for x in build.leftovers
            if x.contact.thing in (score.left.end.id, score.right.end.id)
        ),
        mends=tuple(f.says for f in found.stops("wiring")),
        parts=_parts(found, inside_of(found, 0), shared),
        modifications=tuple(_modifications(found, at)),
        inside=inside,
    )


def worksheets(found: Verdict, day: str, station: Station | None = None) -> tuple[Worksheet, ...]:
    """One for each part of the chain, with what other chains of ``station`` solder in its plugs."""
    now = station or found.assessment.station
    shared = together(now, found)
    sheets = [worksheet(found, k, day, shared) for k in range(len(found.build.spans))]
    if sheets:
        sheets[-1] = replace(sheets[-1], selectors=selectors(now, found))
    return tuple(sheets)


def _parts(found: Verdict, inside: Inside | None, shared: tuple[Together, ...]) -> tuple[Part, ...]:
    """What is got for the chain and for what meets in its plugs; a plug that they share is one."""
    parts = [*found.build.parts, *(inside.parts if inside is not None else ())]
    shells = {e.id: e.connector.shell for e in found.build.ends}
    done: set[str] = set()
    for t in shared:
        title = SHELLS[shells[t.end]].title
        if t.chain.id in done:
            continue  # it meets this chain in both plugs
        done.add(t.chain.id)
        if t.in_lead:
            parts = [_with_cores(p, found, t) for p in parts]
        for part in t.found.build.parts:
            if part.is_lead and t.in_lead:
                continue
            plug = part.name == "plug" and part.value in {SHELLS[s].title for s in shells.values()}
            count = part.count - (1 if plug and part.value == title else 0)
            count = 0 if plug and t.in_lead else count
            if count:
                parts.append(replace(part, count=count, refs=()))
    return merged(parts)


def _with_cores(part: Part, found: Verdict, t: Together) -> Part:
    """A lead with a core more for each wire of the other chain that has a contact of its own."""
    if not part.is_lead:
        return part
    own = {at for n in found.build.nets for at in n.contacts}
    more = sum(any(at.thing == t.end and at not in own for at in c.ends) for c in t.wires)
    cores = max(found.build.cores.values(), default=1) + more
    return replace(part, note=f"{count_of(cores, 'core')} and a screen")


def _bridged(found: Verdict, score: Score) -> Iterator[Row]:
    """Contacts of these plugs that hands joined."""
    for end in (score.left.end, score.right.end):
        for bridge in found.build.wiring.bridges:
            if bridge.end == end.id:
                one, other = (_named(found, end.ref(c)) for c in bridge.contacts)
                yield Row(one, other, "joined by solder", "any", "")


def _rows_inside(found: Verdict, inside: Inside | None) -> Iterator[Row]:
    """Wires in the case of a microphone that one builds oneself."""
    for one, other in inside.wires if inside is not None else ():
        yield Row(_named(found, one), _named(found, other), "in its case", "any", "")


def _rows_of(shared: tuple[Together, ...], score: Score) -> Iterator[Row]:
    """Wires of other chains that are soldered in one of these plugs."""
    rows: dict[Row, None] = {}
    for t in shared:
        if t.end in (score.left.end.id, score.right.end.id):
            for wire in t.wires:
                row = _row(t.found, wire)
                rows[replace(row, carries=f"{row.carries} of {t.chain.name}")] = None
    yield from rows


def _do(left: Leftover, shared: tuple[Together, ...]) -> str:
    """What to do with a contact that this chain does not use."""
    user = next((t for t in shared if left.contact in t.contacts), None)
    return left.do if user is None else f"in the same plug, for {user.chain.name}"


# --- the wire table ------------------------------------------------------------------------------


def _place_in(found: Verdict, at: int, item: Item) -> bool:
    span = found.build.spans[at]
    stages = found.assessment.solution.compiled.stages[span.first + 1 : span.last]
    return item.place.partition(":")[0] in {s.id for s in stages}


def _row(found: Verdict, wire: Conductor) -> Row:
    length = "" if wire.length_m is None else format_quantity(wire.length_m, METRE)
    carries = wire.leg.replace("-", " ") or "inside"
    return Row(_named(found, wire.start), _named(found, wire.end), carries, wire.colour, length)


def _named(found: Verdict, contact: At | None) -> str:
    """A contact as the sheet calls it: the plug of a box, and its mark."""
    if contact is None:
        return f"{AIR}: cut back, insulate"
    end = found.build.end_of(contact)
    if end is not None:
        several = len({e.id for e in found.build.ends if e.device == end.device}) > 1
        return f"{end.name}{f', {end.connector.name}' if several else ''} {contact.label}"
    key = found.build.key_end
    if key is not None and contact.thing == key.id:
        return f"{key.name}, {key.connector.name} {contact.label}"
    if contact.thing in (SWITCH, PORT, SECOND, RAIL):
        return f"{contact.thing} {contact.label}"
    return contact


# --- the order of work ---------------------------------------------------------------------------


def _steps(found: Verdict, at: int, score: Score, shared: tuple[Together, ...]) -> Iterator[Step]:
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
        yield Step(drawn + _sides(found, at), charged)
        yield from _legs(found, at)
        if build.wiring.box == "metal" and build.wiring.case_to == "screen":
            where = _case_joins(found, at)
            yield Step(f"Join the case to {where}, at one point, and nowhere else.")
    inside = inside_of(found, at)
    if inside is not None:
        marks = ", ".join(s.ref for s in inside.sheet.symbols)
        yield Step(f"In the case of the {inside.name}, if you build it, as drawn: {marks}.")
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
    yield Step("Look: polarity, bridges of solder, loose strands, strain relief tight.")
    yield Step(_ring_step(found, at))
    if _lethal(found):
        yield Step("Have qualified people plug it in.", caution("lethal-volts"))
    yield from _first_volts(found, at, score)
    yield Step("Speak, watch the meter of the radio; then the first key-down.", caution("rf"))


def _legs(found: Verdict, at: int) -> Iterator[Step]:
    """What has legs or leads that could be taken for each other."""
    build = found.build
    here = {build.refs[i.place]: i for i in build.items if _place_in(found, at, i)}
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
    return any(i.letter == BATTERY and _place_in(found, at, i) for i in found.build.items)


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
        f"{begin} at the {right}, radio on, power at its lowest, the {left.end.name} still out:"
        " no contact may stand higher than its supply.",
        caution("hearing"),
    )
    yield Step(f"Plug the {left.end.name} in; measure the DC of the table.")


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
            return f"the screen of the lead to the {end.name}"
    return "the common line of the drawing"


def _parts_here(found: Verdict, at: int) -> list[str]:
    return [
        found.build.refs[i.place]
        for i in found.build.items
        if i.place in found.build.refs and _place_in(found, at, i)
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
    return f"{SHELLS[plug.shell].titled(plug.half)}{assumed} to the {plug.end.name}{side}: {said}."


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
            f"{_named(found, c.start)} to {_named(found, c.end)}"
            for c in build.conductors
            if c.inside and set(c.ends) <= _legs_of(build.keyer)
        )
        yield Step(
            f"Solder {drawn} as drawn: {joins}. Legs differ between types: take them from the data"
            " sheet of what is in your hand. The ring of a diode is its cathode, K."
        )
        port = "; ".join(
            f"{c.start.label} ({PORT_WORDS[c.start]}) to {_named(found, c.end)}"
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
        yield Step(f"{title} to the {end.name}, {end.connector.name}: {wires}.")


def _legs_of(sheet: Sheet) -> set[At]:
    return {At(s.ref, p.name) for s in sheet.symbols for p in s.pins}


def _lethal(found: Verdict) -> bool:
    """Whether anything of the chain, or a box that it ends in, holds lethal voltage."""
    station = found.assessment.station
    stages = found.assessment.solution.compiled.stages
    return any("lethal-volts" in station.hazards(s.gear) for s in stages)


# --- what meters find ----------------------------------------------------------------------------


def _dc(found: Verdict, score: Score) -> Iterator[Expected]:
    for end in (score.left.end, score.right.end):
        for contact in end.connector.contacts:
            net = found.build.net_of(end.ref(contact.label))
            if net is None:
                continue
            volts = hundredths(net.dc_v)
            speech = ""
            if net.speech_dbu is not None and net.speech_dbu > -150:
                speech = f", speech {format_volts(net.speech_dbu)}"
            yield Expected(f"{end.name} {contact.label}", f"{volts}{speech}")


def _ohms(found: Verdict, at: int) -> Iterator[Expected]:
    """Pairs that must join first, then what bridges a part, then the pairs of one plug."""
    meter = Ohmmeter(unit_of(found, at))
    readings = meter.readings()
    joined = [r for r in readings if r.ohm is not None and r.ohm < 1.0]
    same = [r for r in readings if r not in joined and r.one.thing == r.other.thing]
    bridged = [
        r for r in readings if r.one.thing != r.other.thing and r not in joined and r.tells_a_part
    ]
    for r in (*joined, *bridged[:MOST_BRIDGED], *same):
        yield Expected(f"{_named(found, r.one)} – {_named(found, r.other)}", r.words())


# --- work inside gear ----------------------------------------------------------------------------


def _modifications(found: Verdict, at: int) -> Iterator[Modification]:
    """Pieces that were built into the box at the end of this part, with what they change."""
    span = found.build.spans[at]
    compiled = found.assessment.solution.compiled
    for k in range(span.plug_at, span.last):
        stage = compiled.stages[k]
        if not (stage.gear.cut_into_radio and is_soldered(stage.gear) and is_new(stage.gear)):
            continue
        yield Modification(
            box=compiled.stages[span.last].gear.name,
            was=_as_built(stage),
            put_in="; ".join(
                f"{found.build.refs[i.place]} {i.part.value}"
                for i in found.build.items
                if i.place.partition(":")[0] == stage.id and i.place in found.build.refs
            ),
            effect=_effect_of(found, k),
            back=f"Put back {_as_built(stage)}; keep the old parts in a bag inside the cover.",
            caution=caution("lethal-volts" if _lethal(found) else "charged"),
        )


def _as_built(stage: PlacedStage) -> str:
    gear = stage.gear
    if gear.kind_id != "input-divider":
        return "write down what is there, and take a photo"
    upper, lower = gear.figure("was_upper_ohm").value, gear.figure("was_lower_ohm").value
    return f"{format_quantity(upper, OHM)} above, {format_quantity(lower, OHM)} below"


def _effect_of(found: Verdict, k: int) -> str:
    """Level and input impedance with the piece as it was built, and as it is put in."""
    before = _as_it_was(found, k)
    if before is None:
        return ""
    now = found.assessment
    level = now.rows[-1].speech_dbu - before.rows[-1].speech_dbu
    z_was, z_now = (a.solution.impedances[k - 1].load_ohm for a in (before, now))
    return (
        f"{signed(level, 1, plus=True)} dB at the first stage; input"
        f" {format_quantity(z_was, OHM, 2)} → {format_quantity(z_now, OHM, 2)}"
    )


def _as_it_was(found: Verdict, k: int) -> Assessment | None:
    compiled = found.assessment.solution.compiled
    stage = compiled.stages[k]
    if stage.gear.kind_id != "input-divider":
        return None
    ids = compiled.chain.id, compiled.variant.id
    station = found.assessment.station
    for field in ("upper_ohm", "lower_ohm"):
        station = edits.set_value(station, *ids, k, field, stage.gear.figure(f"was_{field}"))
    return assess(station, *ids, contacts=True)
