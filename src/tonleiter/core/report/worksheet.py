"""What a sheet for the soldering iron says: wires, the order of work, what meters will find."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from tonleiter.core.bench.ohms import Ohmmeter
from tonleiter.core.bench.unit import unit_of
from tonleiter.core.gear.parts import Part
from tonleiter.core.gear.shopping import merged
from tonleiter.core.judge.assess import Assessment, assess
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.inside import Inside, inside_of
from tonleiter.core.report.score import Score, score_of
from tonleiter.core.report.selector import Selector, selectors
from tonleiter.core.report.sheet_words import named
from tonleiter.core.report.steps import Step, is_lethal, steps_of
from tonleiter.core.report.together import Together, together
from tonleiter.core.safety.cautions import caution
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.units.levels import format_volts, signed
from tonleiter.core.units.quantity import METRE, OHM, format_quantity, hundredths
from tonleiter.core.wiring.model import Conductor, Leftover, is_new, is_soldered
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
        steps=tuple(steps_of(found, at, score, shared)),
        dc=tuple(_dc(found, score)),
        ohms=tuple(_ohms(found, at)),
        left_over=tuple(
            f"{named(found, x.contact)}: {_do(x, shared)}"
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
                one, other = (named(found, end.ref(c)) for c in bridge.contacts)
                yield Row(one, other, "joined by solder", "any", "")


def _rows_inside(found: Verdict, inside: Inside | None) -> Iterator[Row]:
    """Wires in the case of a microphone that one builds oneself."""
    for one, other in inside.wires if inside is not None else ():
        yield Row(named(found, one), named(found, other), "in its case", "any", "")


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


def _row(found: Verdict, wire: Conductor) -> Row:
    length = "" if wire.length_m is None else format_quantity(wire.length_m, METRE)
    carries = wire.leg.replace("-", " ") or "inside"
    return Row(named(found, wire.start), named(found, wire.end), carries, wire.colour, length)


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
        yield Expected(f"{named(found, r.one)} – {named(found, r.other)}", r.words())


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
            caution=caution("lethal-volts" if is_lethal(found) else "charged"),
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
