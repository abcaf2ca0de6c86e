"""Rules about leads, screens, cases: ends of screens, numbers of cores, quads, floating cases."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.passives import Cable
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.effect import treble_db
from tonleiter.core.judge.findings.codes import HEARD, IRON, Meaning, declare
from tonleiter.core.judge.findings.model import ADD, CHANGE, Finding, Fix
from tonleiter.core.judge.wiring.case import WiringCase
from tonleiter.core.safety.cautions import caution
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import format_dbu
from tonleiter.core.units.quantity import OHM, format_quantity
from tonleiter.core.words import the

SCREEN_BOTH_ENDS = declare("screen-both-ends", Meaning(hum=True, counts=HEARD, sounds=("buzz",)))
SCREEN_NOWHERE = declare("screen-nowhere", Meaning(hum=True, counts=HEARD))
SCREEN_ONCE = declare("screen-once", Meaning(counts=IRON))
TOO_FEW_CORES = declare("too-few-cores", Meaning(counts=IRON))
QUAD_SIDE_BY_SIDE = declare("quad-side-by-side", Meaning(hum=True, counts=HEARD))
CABLE_TOO_LONG = declare("cable-too-long", Meaning(counts=IRON))
CASE_FLOATS = declare("case-floats", Meaning(hum=True, counts=IRON))

# hum that much lower is worth opening a screen for; hum that far under speech is not
WORTH_DB, SILENT_UNDER_DB = 6.0, 75.0
# sources from here on feel a cable; one this short is none; a loss that is heard
HIGH_OHM, SHORT_M, TAKES_DB = 5000.0, 0.5, 2.0
_CORES = {"one-core": 1, "two-core": 2, "star-quad": 4}
_ENDS = {"source-end": "towards the source", "load-end": "towards the radio"}


def screens(case: WiringCase) -> Iterator[Finding]:
    """Joined at both ends where that closes a loop, once, or nowhere."""
    stages = case.assessment.solution.compiled.stages
    air = {
        stage
        for (stage, _), splice in case.build.splices.items()
        if "screen" in splice.landed and splice.landed["screen"] is None
    }
    for k, stage in enumerate(stages):
        cable = stage.gear
        if not isinstance(cable, Cable) or cable.form == "one-core":
            continue
        near, far = k > 0 and stages[k - 1].id in air, stages[k + 1].id in air
        joined_near = not near and cable.screen != "load-end"
        joined_far = not far and cable.screen != "source-end"
        if not joined_near and not joined_far:
            yield Finding(
                SCREEN_NOWHERE,
                "stop",
                stage.id,
                f"The screen of {the(cable.name)} is joined nowhere: it is an aerial",
                f"hum {_dbu(case.hum_dbu)}, speech {format_dbu(case.speech_dbu, 0)}",
                {},
                (
                    case.rewired("Join the screen at both ends", _joined_again(case, k)),
                    case.rewired("Join it at the source", _joined_again(case, k, "source-end")),
                ),
                place=f"screen of {stage.id}",
            )
            continue
        if joined_near and joined_far:
            yield from _both_ends(case, k, cable)
        else:
            end = _ENDS["source-end" if joined_near else "load-end"]
            both = case.tried(_screen(case, k, "both-ends"))
            yield Finding(
                SCREEN_ONCE,
                "fine",
                stage.id,
                f"The screen of {the(cable.name)} is joined once, {end}",
                f"hum {_under(case.assessment)}; joined at both ends {_under(both)}",
                {},
                place=f"screen of {stage.id}",
            )


def _both_ends(case: WiringCase, k: int, cable: Cable) -> Iterator[Finding]:
    hum = case.hum_dbu
    if hum is None or case.speech_dbu - hum > SILENT_UNDER_DB:
        return
    trials = {end: case.tried(_screen(case, k, end)) for end in _ENDS}
    hums = {e: a.rows[-1].hum_dbu for e, a in trials.items()}
    best = min(hums, key=lambda e: -300.0 if hums[e] is None else float(hums[e] or 0.0))
    left = hums[best]
    if left is not None and hum - left < WORTH_DB:
        return
    yield Finding(
        SCREEN_BOTH_ENDS,
        "mind",
        cable.id,
        f"The screen of {the(cable.name)} is joined at both ends, and closes a loop",
        f"hum {_under(case.assessment)}; open at the far side {_under(trials[best])}",
        {"hum_dbu": hum, "hum_opened_dbu": left if left is not None else -300.0},
        (Fix(f"Join the screen {_ENDS[best]} only", _screen(case, k, best), "", CHANGE),),
        caution("mains-earth"),
        place=f"screen of {cable.id}",
    )


def _screen(case: WiringCase, k: int, end: str) -> Callable[[Station], Station]:
    return lambda station: edits.set_value(station, *case.ids, k, "screen", end)


def _joined_again(case: WiringCase, k: int, end: str = "both-ends") -> Callable[[Station], Station]:
    def apply(station: Station) -> Station:
        kept = tuple(
            x
            for x in station.chain(case.ids[0]).variant(case.ids[1]).wiring.landings
            if x.leg != "screen" or x.contact is not None
        )
        station = case.with_hands(landings=kept)(station)
        return edits.set_value(station, *case.ids, k, "screen", end)

    return apply


def cores(case: WiringCase) -> Iterator[Finding]:
    """More conductors than the lead has."""
    stages = case.assessment.solution.compiled.stages
    for stage in stages:
        cable = stage.gear
        if not isinstance(cable, Cable):
            continue
        form = _CORES[cable.form]
        has = case.wiring.cores or form
        wanted = case.build.cores.get(cable.id, 1)
        if cable.form == "star-quad" and wanted > 2 and case.wiring.cores is None:
            has = 2  # two wires to a leg: none is left for the switch
        if wanted <= has:
            continue
        yield Finding(
            TOO_FEW_CORES,
            "stop" if case.wiring.cores is not None else "mind",
            cable.id,
            f"{wanted} cores are wanted in {the(cable.name)}, and it has {has}",
            "the screen is none: it carries no signal that can be spared, and no switch's current",
            {"wanted": float(wanted), "has": float(has)},
            (
                Fix(
                    f"Take a lead of {wanted} cores and a screen",
                    case.with_hands(cores=wanted),
                    "",
                    CHANGE,
                ),
                *((case.by_way("foot-switch"),) if wanted > form else ()),
            ),
            place=f"cores of {cable.id}",
        )


def quad(case: WiringCase) -> Iterator[Finding]:
    """Four cores joined side by side: a pair like any other, with twice the capacitance."""
    for k, stage in enumerate(case.assessment.solution.compiled.stages):
        cable = stage.gear
        if not isinstance(cable, Cable) or cable.form != "star-quad" or cable.quad == "crosswise":
            continue

        def crosswise(station: Station, k: int = k) -> Station:
            return edits.set_value(station, *case.ids, k, "quad", "crosswise")

        after = case.tried(crosswise)
        yield Finding(
            QUAD_SIDE_BY_SIDE,
            "mind",
            cable.id,
            f"The star-quad {cable.name} is joined side by side: it picks up like a plain pair",
            f"hum {_under(case.assessment)}; crosswise {_under(after)}",
            {},
            (Fix("Join opposite cores: two and two, crosswise", crosswise, "", CHANGE),),
            place=f"cores of {cable.id}",
        )


def too_long(case: WiringCase) -> Iterator[Finding]:
    """Cable whose capacitance takes level or treble of a source that cannot drive it."""
    stages = case.assessment.solution.compiled.stages
    for k, stage in enumerate(stages):
        cable = stage.gear
        if not isinstance(cable, Cable) or k == 0:
            continue
        z = case.assessment.solution.impedances[k - 1]
        length = cable.length_m.value
        if z.source_ohm < HIGH_OHM or length <= SHORT_M:
            continue

        def cut(metres: float, k: int = k) -> Callable[[Station], Station]:
            return lambda s: edits.set_value(s, *case.ids, k, "length_m", typical(metres))

        short = case.tried(cut(SHORT_M))
        lost = short.rows[-1].speech_dbu - case.speech_dbu
        dull = treble_db(short) - treble_db(case.assessment)
        if max(lost, dull) < TAKES_DB:
            continue
        # half a source's capacitance, halved once more: what is left of the loss is not heard
        fits = max(SHORT_M, round(length / 8, 1))
        yield Finding(
            CABLE_TOO_LONG,
            "mind",
            cable.id,
            f"{length:g} m of cable are too much for {the(stages[0].gear.name)}",
            f"against {SHORT_M:g} m it takes {max(lost, 0.0):.0f} dB of the level and"
            f" {max(dull, 0.0):.0f} dB more at 2.7 kHz: the source behind it has"
            f" {format_quantity(z.source_ohm, OHM, 2)} at 1 kHz",
            {"level_lost_db": lost, "treble_lost_db": dull},
            (
                Fix(f"Cut it to {fits:g} m", cut(fits), "", CHANGE),
                Fix(f"Cut it to {SHORT_M:g} m", cut(SHORT_M), "", CHANGE),
            ),
            place=f"length of {cable.id}",
        )


def case_floats(case: WiringCase) -> Iterator[Finding]:
    """A metal case that is joined to nothing."""
    stages = case.assessment.solution.compiled.stages
    for span in case.build.spans:
        inside = [s for s in span.between(stages) if not s.gear.lead]
        if not inside or case.wiring.box != "metal" or case.wiring.case_to != "nothing":
            continue
        yield Finding(
            CASE_FLOATS,
            "mind",
            inside[0].id,
            "The metal case of the box is joined to nothing",
            "it takes the room's field and hands it to what is inside; touched, it hums",
            {},
            (
                Fix(
                    "Join the case to the screen, at one point",
                    case.with_hands(case_to="screen"),
                    "",
                    ADD,
                ),
            ),
            place="case",
        )


def _dbu(level: float | None) -> str:
    return "none" if level is None else format_dbu(level, 0)


def _under(of: Assessment) -> str:
    """Hum of a solved chain against its speech."""
    hum = of.rows[-1].hum_dbu
    if hum is None:
        return "none"
    under = of.rows[-1].speech_dbu - hum
    return f"{abs(under):.0f} dB {'under' if under >= 0 else 'over'} speech"


rules = (screens, cores, quad, too_long, case_floats)
