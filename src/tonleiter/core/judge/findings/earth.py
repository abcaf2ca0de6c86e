"""Rules about hum and mains: earth loops by their members, leakage, high voltage."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.passives import CommonModeChoke
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import MOVE, Finding, Fix, Severity
from tonleiter.core.judge.findings.suggestions import isolating_transformer, leave_out
from tonleiter.core.solve.hum import Loop, earth_loop
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import format_dbu

HUM_QUIET = declare("hum-quiet")
HIGH_VOLTAGE = declare("high-voltage")
FIELD_HUM = declare("field-hum", Meaning(hum=True))
EARTH_LOOP = declare("earth-loop", Meaning(hum=True))
LEAKAGE_HUM = declare("leakage-hum", Meaning(hum=True))
OWN_HUM = declare("own-hum", Meaning(hum=True))

QUIET_DB = 50.0  # hum this far under speech is not heard between words
LOUD_DB = 25.0
OWN_SHARE = 0.7
CAUTION = "Never lift a safety earth. Mains wiring is for licensed people and local codes."


def hum_heard(case: Case) -> Iterator[Finding]:
    """Hum that speech does not cover, with the loop or leakage behind it."""
    radio = case.rows[-1]
    if case.is_dead() or radio.hum_dbu is None:
        return
    under = radio.speech_dbu - radio.hum_dbu
    loop = earth_loop(case.solution.compiled.stages, case.solution.linear)
    worst = _worst_stage(case)
    evidence = {"hum_dbu": radio.hum_dbu, "under_speech_db": under}
    side = "under" if under >= 0 else "over"
    proof = f"hum of {format_dbu(radio.hum_dbu)} at its input, {abs(under):.0f} dB {side} speech"
    if under >= QUIET_DB:
        yield Finding(
            code=HUM_QUIET,
            severity="fine",
            stage=radio.id,
            says="No earth loop" if loop is None else "The earth loop is not heard",
            proof=proof,
            evidence=evidence,
            caution=CAUTION if loop else "",
        )
        return
    severity: Severity = "stop" if under < LOUD_DB else "mind"
    yield Finding(
        code=_code(case, loop, worst),
        severity=severity,
        stage=worst,
        says=_says(case, loop, worst),
        proof=proof,
        evidence=evidence,
        fixes=tuple(_breaks(case, worst)),
        caution=CAUTION,
    )


def _worst_stage(case: Case) -> str:
    shares = case.solution.hum.at_end_v
    return max(shares, key=lambda stage: shares[stage])


def _name(case: Case, stage: str) -> str:
    return next(r.name for r in case.rows if r.id == stage)


def _is_its_own(case: Case, stage: str) -> bool:
    """Whether most of what a stage leaves comes from its own supply, and not by its earth."""
    hum = case.solution.hum
    return hum.own_v.get(stage, 0.0) > OWN_SHARE * hum.at_end_v.get(stage, 0.0)


def _code(case: Case, loop: Loop | None, worst: str) -> str:
    if next(r for r in case.rows if r.id == worst).gear.lead:
        return FIELD_HUM
    if _is_its_own(case, worst):
        return OWN_HUM
    return EARTH_LOOP if loop else LEAKAGE_HUM


def _says(case: Case, loop: Loop | None, worst: str) -> str:
    row = next(r for r in case.rows if r.id == worst)
    if row.gear.lead:
        return f"The mains field hums into the {row.name}"
    if _is_its_own(case, worst):
        return f"The {row.name} hums by itself: its own supply"
    if loop is None:
        return f"The leakage of the {row.name} hums through the line"
    *others, last = (_name(case, s) for s in loop.earthed)
    ends = f"{', the '.join(others)} and the {last}"
    count = "both" if len(loop.earthed) == 2 else "all"
    over = " and the ".join(_name(case, s) for s in loop.joins)
    through = f", joined by the {over}" if over else ""
    return f"An earth loop hums: the {ends} are {count} earthed{through}"


def _breaks(case: Case, worst: str) -> Iterator[Fix]:
    """Everything that people try; what each leaves is computed, and the best are offered."""
    order = [r.id for r in case.rows]
    source = order.index(worst)
    radio = case.last
    if _is_its_own(case, worst):
        # nothing parts a box from its own supply; a better one, or a battery, does
        if source != radio:
            yield Fix(
                f"Run the {case.rows[source].name} from a battery or a better supply",
                case.setting(source, {"supply": "battery"}),
                "its rectifier is what hums",
            )
        return
    yield isolating_transformer(case, radio, "breaks the loop")
    gear = case.rows[source].gear
    if "earth_emf_v" in type(gear).model_fields and gear.figure("earth_emf_v").value > 1e-3:
        yield Fix(
            f"Run the {gear.name} from the radio's own outlet",
            lambda station: case.set_value(station, source, "earth_emf_v", 5e-4),
            "one earth for both",
        )
    if getattr(gear, "supply", "") == "double-insulated" and source != radio:
        yield Fix(
            f"Run the {gear.name} from a battery",
            lambda station: case.set_value(station, source, "supply", "battery"),
            "nothing then joins it to the mains",
        )
    yield _choke(case, radio)
    yield from _usb(case, source)
    for k in range(source + 1, radio):
        if case.rows[k].gear.isolates and not any(r.stage == radio for r in case.rails()):
            yield leave_out(case, k, "its chassis then hangs on the radio's by the screen")
    for k in range(1, radio):
        lead = case.rows[k].gear
        if lead.lead:
            yield from _other_lead(case, k, lead, in_field=worst == lead.id)


def _choke(case: Case, index: int) -> Fix:
    """Some turns of the lead on a ring core: cheaper than a transformer, and passes DC."""

    def wind(station: Station) -> Station:
        gear = CommonModeChoke(id=case.fresh_id("choke"), name="common-mode choke")
        return case.insert(station, index, gear)

    title = "Wind the lead on a ring core: a common-mode choke"
    return Fix(title, wind, "the loop stays, its hum meets an inductance")


def _usb(case: Case, index: int) -> Iterator[Fix]:
    """What hangs on a computer by USB: part it there, or take the computer off its supply."""
    gear = case.rows[index].gear
    if getattr(gear, "supply", "") != "usb-computer":
        return
    loose = case.setting(index, {"supply": "battery"})
    yield Fix(
        f"Put a USB isolator into the lead of the {gear.name}", loose, "breaks the loop there"
    )
    apart = case.setting(index, {"supply": "double-insulated"})
    title = f"Give the {gear.name} a supply of its own, and its data by an isolated lead"
    yield Fix(title, apart, "leakage stays, the loop goes")
    yield Fix(
        "Run the computer from its battery", loose, "its supply's earth is then not joined", MOVE
    )


def _other_lead(case: Case, k: int, lead: Gear, in_field: bool) -> Iterator[Fix]:
    """A heavier screen, a second core with the screen open at one end; four wires in a field."""

    def change(**values: object) -> Callable[[Station], Station]:
        return case.setting(k, values)

    if lead.figure("screen_mohm_per_m").value > 8:
        title = f"Use a {lead.name} with a heavy braid, 5 mΩ/m"
        yield Fix(title, change(screen_mohm_per_m=5.0), "less drop along the screen")
    form, screen = getattr(lead, "form", ""), getattr(lead, "screen", "")
    if form == "one-core":
        yield Fix(
            f"Use a {lead.name} with two cores, its screen joined at the source only",
            change(form="two-core", screen="source-end"),
            "a balanced link, if both ends are",
        )
    elif screen == "both-ends":
        title = f"Open the screen of the {lead.name} at its far end"
        yield Fix(title, change(screen="source-end"), "no current along it")
    if in_field and form != "star-quad":
        yield Fix(f"Use a star-quad for the {lead.name}", change(form="star-quad"))


def high_voltage(case: Case) -> Iterator[Finding]:
    """Valve stages are for qualified people, whatever their levels."""
    for row in case.rows:
        if caution := row.gear.caution():
            volts = row.gear.figure("supply_v").value
            yield Finding(
                code=HIGH_VOLTAGE,
                severity="fine",
                stage=row.id,
                says=f"The {row.name} is reckoned from its figures; nobody has to open it for that",
                proof=f"{volts:.0f} V on its plate supply",
                evidence={"supply_v": volts},
                caution=caution,
            )


rules = (hum_heard, high_voltage)
