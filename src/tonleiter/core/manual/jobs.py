"""Six jobs from start to end in the demo's world; every figure in them is computed here and now."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.manual.page import Block, Heading, Page, Para, Steps, Table
from tonleiter.core.match.pair import match_pair
from tonleiter.core.match.terms import lead_for, usual_terms
from tonleiter.core.plan.explain import explain
from tonleiter.core.plan.search import plan
from tonleiter.core.report.headline import headline
from tonleiter.core.report.why.level import why_level
from tonleiter.core.safety.cautions import CAUTIONS
from tonleiter.core.station.adopt import adopt_path
from tonleiter.core.station.edits import add_gear
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PurposeId
from tonleiter.core.units.levels import format_dbu
from tonleiter.core.units.quantity import AMPERE, VOLT, format_quantity
from tonleiter.core.words import count_of, sentence, within

GROUP = "Worked jobs"
MOST_REMEDIES = 3


def _plugged(demo: Station, source: str, socket: str, purpose: PurposeId) -> Station:
    """The demo with a chain of two pieces and a lead."""
    mic, radio = demo.gear_by_id[source], demo.gear_by_id[socket]
    pieces = (mic, lead_for(mic), radio)
    operator = demo.operators[0]
    return adopt_path(demo, pieces, "plugged in", purpose, operator.id, operator.distance_mm.value)


def _judged(station: Station) -> Verdict:
    return verdict_of(station, station.chain().id)


def _how_it_stands(found: Verdict) -> Para:
    said = headline(found.assessment, found.stops())
    return Para(f"Ladder says: {said.says} {said.proves}")


def _found(found: Verdict, finding: Finding) -> Iterator[Block]:
    """A finding with what was tried against it."""
    yield Para(f"[{sentence(finding.says)}](finding/{finding.code}): {finding.proof}.")
    if finding.caution:
        yield Para(finding.caution, caution=True)
    tried = found.remedies(finding)[:MOST_REMEDIES]
    if tried:
        yield Table(tuple((r.title, r.effect) for r in tried), ("what may be done", "what it does"))


def _level(found: Verdict) -> Table:
    steps = why_level(found.assessment).steps
    return Table(
        tuple((sentence(s.says), s.value) for s in steps), ("how the level comes about", "")
    )


def _stops(found: Verdict) -> Iterator[Block]:
    for stop in found.stops():
        yield from _found(found, stop)


def _mended(station: Station) -> tuple[Station, list[str]]:
    """Every stop mended by the first remedy; the remedies that were taken."""
    taken: list[str] = []
    while stops := (found := _judged(station)).stops():
        remedy = found.remedies(stops[0])[0]
        taken.append(remedy.title)
        station = remedy.change(station)
    return station, taken


def _dynamic_on_bias(demo: Station) -> Page:
    station = _plugged(demo, "stage-dynamic", "hf-set", "ssb-chat")
    found = _judged(station)
    after, taken = _mended(station)
    now = _judged(after)
    return Page(
        "job/dynamic-on-bias",
        "A dynamic microphone on a set with bias",
        GROUP,
        (
            Para(
                "The stage dynamic shall go straight into the 20 W HF set, whose pin carries"
                f" {format_quantity(demo.gear_by_id['hf-set'].bias_on_pin_v(), VOLT, 2)} for"
                " electrets. In Match the pair's cell says what it takes:"
                f" {_pair(demo, 'stage-dynamic', 'hf-set')}."
            ),
            Heading("As it is plugged in"),
            *_stops(found),
            Heading("Mended"),
            Para(f"Taken: {'; '.join(taken)}. It is one press, and one key undoes it."),
            _how_it_stands(now),
            _level(now),
            *_wired(now),
        ),
    )


def _pair(demo: Station, source: str, socket: str, purpose: PurposeId = "ssb-chat") -> str:
    terms = usual_terms(demo, purpose, demo.operators[0].id)
    return match_pair(demo, demo.gear_by_id[source], demo.gear_by_id[socket], terms).words()


def _wired(found: Verdict) -> Iterator[Block]:
    """What the sheet for the iron comes to."""
    build = found.build
    spans = [k for k in range(len(build.spans)) if build.has_parts_in(k)]
    joints = sum(build.joints_in(k) for k in spans)
    yield Para(
        f"Wire prints the sheet: {count_of(joints, 'joint')} to solder. Prove then says, reading"
        " by reading, what a meter must show on it."
    )
    yield Para(CAUTIONS["fumes"], caution=True)


def _bare_capsule(demo: Station) -> Page:
    capsule = _of_library("electret-2-wire").with_values({"id": "bare", "name": "bare capsule"})
    station = add_gear(demo, capsule)
    station = _plugged(station, "bare", "fm-mobile", "fm-voice")
    found = _judged(station)
    row = found.assessment.rows[0]
    over, current = row.capsule_v or 0.0, abs(row.dc_a)
    return Page(
        "job/bare-capsule",
        "A headset from a bare capsule",
        GROUP,
        (
            Para(
                "A capsule of ten millimetres, two wires, and the FM mobile, which feeds electrets."
                " The terminal that is joined to the capsule's case is ground; the other one is"
                " sound and supply in one."
            ),
            Steps(
                (
                    "Gear: put the capsule on the shelf from the library; what its paper says"
                    " replaces what is typical.",
                    "Match: the cell of capsule and mobile says"
                    f" “{_pair(station, 'bare', 'fm-mobile', 'fm-voice')}”.",
                    "Ladder: over the capsule stand"
                    f" {format_quantity(over, VOLT, 2)}, and {format_quantity(current, AMPERE, 2)}"
                    " flow.",
                    "Wire: enter which contacts of the mobile carry what, then print the sheet.",
                )
            ),
            _how_it_stands(found),
            _level(found),
            *_stops(found),
            Para(
                "A capsule in a headset hangs two fingers from the mouth, beside it and not before"
                " it: breath then passes it."
            ),
            Para(CAUTIONS["capsule-out"], caution=True),
        ),
    )


def _of_library(kind: str) -> Gear:
    return next(g for g in parts_library().values() if g.kind_id == kind)


def _laptop_on_data(demo: Station) -> Page:
    station = _plugged(demo, "logging-laptop", "hf-data", "data-weak")
    found = _judged(station)
    terms = usual_terms(station, "data-weak")
    made = plan(station, "logging-laptop", "hf-data", terms, "isolated").best[:2]
    best = tuple(
        (c.title(), sentence(w.why), sentence(w.costs))
        for c, w in zip(made, explain(made), strict=True)
    )
    return Page(
        "job/laptop-on-data",
        "A laptop on a data socket",
        GROUP,
        (
            Para(
                "The laptop's headphone output shall go into the data socket at the back of the HF"
                " set. The cell in Match says:"
                f" {_pair(demo, 'logging-laptop', 'hf-data', 'data-weak')}."
            ),
            _how_it_stands(found),
            *_grave(found),
            Heading("A path in the style “isolated”"),
            Table(best, ("path", "what speaks for it", "what it costs")),
            Para(
                "In Set the guide turns the level until the set's ALC stands still: a tone that"
                " moves it is bent. See [level control that bends data]"
                "(finding/level-control-bends-data)."
            ),
            Para(CAUTIONS["keys-itself"], caution=True),
        ),
    )


def _grave(found: Verdict) -> Iterator[Block]:
    for finding in found.findings:
        if finding.severity != "fine" and finding.fixes:
            yield from _found(found, finding)


def _hum_hunt(demo: Station) -> Page:
    found = verdict_of(demo, "hf-weak-data")
    loop = next(f for f in found.findings if meaning(f.code).hum and f.severity != "fine")
    row = found.assessment.rows[-1]
    remedy = found.remedies(loop)[0]
    after = verdict_of(remedy.change(demo), "hf-weak-data")
    hum = after.assessment.rows[-1].hum_dbu
    return Page(
        "job/hum-hunt",
        "A hum hunt",
        GROUP,
        (
            Para(
                "Replies say that the data signal buzzes, and that the buzz changes when the"
                " laptop works. At the radio's input stand"
                f" {format_dbu(row.hum_dbu or 0.0)} of hum beside {format_dbu(row.speech_dbu)} of"
                " signal."
            ),
            *_found(found, loop),
            Steps(
                (
                    "<<See which way it goes>> on the card draws the way round in Leads and"
                    " grounds.",
                    "Pull one lead after the other: when the buzz goes with the USB lead, it was"
                    " that one.",
                    f"Take the first remedy, “{within(remedy.title)}”:"
                    + (
                        f" hum falls to {format_dbu(hum)}."
                        if hum is not None
                        else " nothing drives any hum there any more."
                    ),
                )
            ),
            Para(CAUTIONS["mains-earth"], caution=True),
        ),
    )


def _carbon_on_valves(demo: Station) -> Page:
    found = verdict_of(demo, "am-museum-day", "handset")
    row = found.assessment.rows[0]
    return Page(
        "job/carbon-on-valves",
        "A carbon handset on a valve set",
        GROUP,
        (
            Para(
                "The field handset's grains want a current; its battery gives"
                f" {format_quantity(abs(row.dc_a), AMPERE, 2)} through them. What comes out is"
                " loud: the museum transmitter's grid was made for a crystal."
            ),
            _how_it_stands(found),
            _level(found),
            *_grave(found),
            Para(CAUTIONS["lethal-volts"], caution=True),
        ),
    )


def _quiet_and_muffled(demo: Station) -> Page:
    case = next(g for g in parts_library().values() if "small hole" in g.name)
    station = add_gear(demo, case.with_values({"id": "in-case", "name": "capsule in a hand case"}))
    station = _plugged(station, "in-case", "hf-set", "ssb-chat")
    station, _ = _mended(station)
    found = _judged(station)
    muffles = [f for f in found.findings if "muffled" in meaning(f.code).heard_as and f.fixes]
    return Page(
        "job/quiet-and-muffled",
        "A quiet, muffled signal mended",
        GROUP,
        (
            Para(
                "Two reports say: quiet, and as if spoken through a blanket. The microphone is an"
                " electret in a hand case with a small hole."
            ),
            Steps(
                (
                    "Log: write the report in a line; Find the cause on it lists what in the chain"
                    " would sound so.",
                    "Listen: a recording against an older one says by how many decibels the treble"
                    " is down.",
                    "Ladder: the case stands on a card of its own, with what was tried.",
                )
            ),
            *(block for f in muffles for block in _found(found, f)),
            _level(found),
            Para(CAUTIONS["eyes"], caution=True),
        ),
    )


# by the id of their page: title, and what works it out
JOBS: dict[str, tuple[str, Callable[[Station], Page]]] = {
    "job/dynamic-on-bias": ("A dynamic microphone on a set with bias", _dynamic_on_bias),
    "job/bare-capsule": ("A headset from a bare capsule", _bare_capsule),
    "job/laptop-on-data": ("A laptop on a data socket", _laptop_on_data),
    "job/hum-hunt": ("A hum hunt", _hum_hunt),
    "job/carbon-on-valves": ("A carbon handset on a valve set", _carbon_on_valves),
    "job/quiet-and-muffled": ("A quiet, muffled signal mended", _quiet_and_muffled),
}


def job_page(page_id: str, demo: Station) -> Page:
    """A job worked on the demo station. Raises KeyError for no job, StoppedError."""
    return JOBS[page_id][1](demo)
