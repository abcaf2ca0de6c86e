"""Rules about hum and mains: earth loops by their members, leakage, high voltage."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.more_pads import UPad
from tonleiter.core.gear.pads import l_pad_loss_db
from tonleiter.core.gear.passives import Cable, CommonModeChoke
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import HEARD, Meaning, declare
from tonleiter.core.judge.findings.loop_fixes import link_fixes
from tonleiter.core.judge.findings.model import AMISS, MOVE, Finding, Fix, Severity
from tonleiter.core.judge.findings.parts import l_pad
from tonleiter.core.judge.findings.suggestions import isolating_transformer, leave_out
from tonleiter.core.judge.loop_words import loop_names
from tonleiter.core.safety.cautions import caution
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.solve.loops import HumLoop, closes_a_loop, hum_loops
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import format_dbu
from tonleiter.core.units.preferred import nearest
from tonleiter.core.words import listed, one_or, sentence, the, the_all

HUM_QUIET = declare("hum-quiet", Meaning(counts=HEARD))
HIGH_VOLTAGE = declare("high-voltage")
FIELD_HUM = declare("field-hum", Meaning(hum=True, counts=HEARD))
EARTH_LOOP = declare("earth-loop", Meaning(hum=True, counts=HEARD, sounds=("buzz",)))
LEAKAGE_HUM = declare("leakage-hum", Meaning(hum=True, counts=HEARD))
OWN_HUM = declare("own-hum", Meaning(hum=True))

HUM_UNHEARD_DB = 50.0  # hum this far under speech is not heard between words
LOUD_DB = 25.0
OWN_SHARE = 0.7


def hum_heard(case: Case) -> Iterator[Finding]:
    """Hum that speech does not cover, with the loop or leakage behind it."""
    radio = case.rows[-1]
    if case.is_dead() or radio.hum_dbu is None:
        return
    under = radio.speech_dbu - radio.hum_dbu
    compiled = case.solution.compiled
    evidence = {"hum_dbu": radio.hum_dbu, "under_speech_db": under}
    side = "under" if under >= 0 else "over"
    proof = f"hum of {format_dbu(radio.hum_dbu)} at its input, {abs(under):.0f} dB {side} speech"
    if under >= HUM_UNHEARD_DB:
        loop = closes_a_loop(compiled)
        yield Finding(
            code=HUM_QUIET,
            severity="fine",
            stage=radio.id,
            says="The earth loop is not heard" if loop else "No earth loop",
            proof=proof,
            evidence=evidence,
            caution=caution("mains-earth") if loop else "",
        )
        return
    # so much of it is too much: a remedy that takes a good part of that away is worth saying
    evidence |= {"off_db": HUM_UNHEARD_DB - under}
    heard = _Heard.of(case)
    if heard.loop is not None:
        evidence |= {"loop_share": heard.loop.share, "loop_a": heard.loop.current_a}
    severity: Severity = "stop" if under < LOUD_DB else "mind"
    yield Finding(
        code=heard.code(),
        severity=severity,
        stage=heard.stage,
        says=heard.says(),
        proof=proof + heard.way(),
        evidence=evidence,
        fixes=tuple(_breaks(heard)),
        caution=caution("mains-earth"),
    )


@dataclass(frozen=True)
class _Heard:
    """Hum that is heard: the source that leaves most, where to say it, the loop that it takes."""

    case: Case
    source: str
    stage: str
    loop: HumLoop | None
    """The worst loop of metal; None where none is the cause."""
    any_way: HumLoop | None = None
    """The way of most of the hum, through leakage too."""

    @classmethod
    def of(cls, case: Case) -> _Heard:
        """Look for the cause."""
        shares = case.solution.hum.at_end_v
        source = max(shares, key=lambda s: shares[s])
        compiled = case.solution.compiled
        loops = hum_loops(compiled, case.solution.linear)
        loop = next((x for x in loops if x.galvanic), None)
        inside = {r.id for r in case.rows}
        stage = source if source in inside else case.rows[-1].id
        if source not in inside and loop is not None:
            # the lead of the chain in which its current does the harm
            stage = next((s for s in loop.owners("stage") if s in inside), stage)
        heard = cls(case, source, stage, loop, loops[0] if loops else None)
        if heard.is_own() or (heard.row.gear.lead and source in inside):
            return cls(case, source, stage, None)
        return heard

    @property
    def row(self) -> StageLevels:
        """The stage that the finding is said of."""
        return next(r for r in self.case.rows if r.id == self.stage)

    def is_own(self) -> bool:
        """Whether most of what a stage leaves comes from its own supply, and not by its earth."""
        hum = self.case.solution.hum
        own = hum.own_v.get(self.source, 0.0)
        return own > OWN_SHARE * hum.at_end_v.get(self.source, 0.0)

    def by_field(self) -> bool:
        """Whether a lead of the chain takes it from the mains field."""
        return self.source == self.stage and self.row.gear.lead

    def code(self) -> str:
        """Its finding's code."""
        if self.by_field():
            return FIELD_HUM
        if self.is_own():
            return OWN_HUM
        return EARTH_LOOP if self.loop is not None else LEAKAGE_HUM

    def says(self) -> str:
        """One sentence."""
        name = self.row.name
        if self.by_field():
            return f"The mains field hums into {the(name)}"
        if self.is_own():
            return f"{sentence(the(name))} hums by itself: its own supply"
        if self.loop is None:
            return f"The leakage of {the(self._source_name())} hums through the line"
        return self._loop_says(self.loop)

    def way(self) -> str:
        """The loop by its members, where it goes through more than the chain."""
        if self.loop is None or not self.loop.owners("link"):
            return ""
        names = loop_names(self.case.station, self.case.solution.compiled, self.loop)
        return f"; the way round: {' → '.join(names)}"

    def _source_name(self) -> str:
        if self.source.startswith("@"):
            return self.case.station.device_by_id[self.source[1:]].name
        return self.row.name

    def _loop_says(self, loop: HumLoop) -> str:
        """A loop by its two earths and what joins them; or, without earth, by its leads."""
        station, order = self.case.station, [r.id for r in self.case.rows]
        names = {r.id: r.name for r in self.case.rows}
        by_box = {d.id: s for s in order if (d := station.device_by_port.get(s)) is not None}
        boxes = set(loop.owners("earth"))
        earthed = [names[by_box[b]] for b in by_box if b in boxes]
        earthed += [d.name for d in station.devices if d.id in boxes - set(by_box)]
        links = {link.id: link.name for link in station.links}
        joins = [names[s] for s in order if s in loop.owners("stage")]
        joins += [links[owner] for owner in loop.owners("link")]
        over = listed([the(n) for n in joins])
        does = "buzzes" if self.source.startswith("&") else "hums"
        if not earthed:
            return f"A loop {does} through {over}"
        through = f", joined by {over}" if over else ""
        usb = {r.name for r in self.case.rows if r.gear.own_supply() == "usb-computer"}
        usb |= {d.name for d in station.devices if d.supply == "usb-computer"}
        if over_usb := [n for n in earthed if n in usb]:
            rest = [n for n in earthed if n not in usb]
            others = f", {the_all(rest)} by its own supply" if rest else ""
            hang = one_or(len(over_usb), "hangs", "hang")
            by = one_or(len(over_usb), "its", "their")
            return (
                f"A loop over USB {does}: {the_all(over_usb)} {hang} on the computer's"
                f" earth by {by} USB{others}{through}"
            )
        return f"An earth loop {does}: {the_all(earthed)} are both earthed{through}"


def _breaks(heard: _Heard) -> Iterator[Fix]:
    """Everything that people try; what each leaves is computed, and the best are offered."""
    case, worst = heard.case, heard.stage
    order = [r.id for r in case.rows]
    source = order.index(worst)
    radio = case.last
    if heard.is_own():
        # nothing parts a box from its own supply; a better one, or a battery, does
        if source != radio:
            yield Fix(
                f"Run {the(case.rows[source].name)} from a battery or a better supply",
                case.setting(source, {"supply": "battery"}),
                "its rectifier is what hums",
            )
        return
    for k in range(1, radio):
        if isinstance(case.rows[k].gear, UPad):
            yield from _one_leg_pad(case, k)
    yield isolating_transformer(case, radio, "breaks the loop")
    if heard.any_way is not None:
        yield from link_fixes(case, heard.any_way)
    gear = case.rows[source].gear
    emf = gear.own_earth_emf()
    if emf is not None and emf.value > 1e-3:
        yield Fix(
            f"Run {the(gear.name)} from the radio's own outlet",
            lambda station: case.set_value(station, source, "earth_emf_v", 5e-4),
            "one earth for both",
        )
    if gear.own_supply() == "double-insulated" and (source != radio or not gear.transmits):
        yield Fix(
            f"Run {the(gear.name)} from a battery",
            lambda station: case.set_value(station, source, "supply", "battery"),
            "nothing then joins it to the mains",
        )
    yield _choke(case, radio)
    yield from _usb(case, source)
    for k in range(1, radio):
        if case.rows[k].gear.isolates and not case.bias_reaches(k + 1):
            yield leave_out(case, k, why="its chassis then hangs on the radio's by the screen")
    for k in range(1, radio):
        lead = case.rows[k].gear
        if lead.lead:
            yield from _other_lead(case, k, lead, in_field=heard.by_field() and worst == lead.id)


def _one_leg_pad(case: Case, index: int) -> Iterator[Fix]:
    """A U-pad where nothing is balanced has one of its resistors in the ground return."""
    if case.solution.compiled.stages[index - 1].outlet.balanced:
        return
    u_pad = case.rows[index].gear
    leg, shunt = u_pad.figure("leg_ohm").value, u_pad.figure("shunt_ohm").value
    row = case.rows[index]
    takes_db = case.rows[index - 1].speech_dbu - row.speech_dbu

    def off_db(series: float) -> float:
        return abs(l_pad_loss_db(series, shunt, 0.0, row.z_load_ohm) - takes_db)

    # joined grounds lie across the other resistor; the level shall stay what it is
    pad = l_pad(case, min((leg, nearest(2 * leg)), key=off_db), shunt)

    def apply(station: Station) -> Station:
        return case.insert(case.remove(station, {index}), index, pad)

    yield Fix(
        f"Build an L-pad, {pad.name.removeprefix('L-pad ')}, in the place of {the(u_pad.name)}",
        apply,
        "its other resistor stands in the ground return",
        AMISS,
    )


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
    if gear.own_supply() != "usb-computer":
        return
    loose = case.setting(index, {"supply": "battery"})
    yield Fix(
        f"Put a USB isolator into the lead of {the(gear.name)}", loose, "breaks the loop there"
    )
    apart = case.setting(index, {"supply": "double-insulated"})
    title = f"Give {the(gear.name)} a supply of its own, and its data by an isolated lead"
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
    if not isinstance(lead, Cable):
        return
    form, screen = lead.form, lead.screen
    if form == "one-core":
        yield Fix(
            f"Use a {lead.name} with two cores, its screen joined at the source only",
            change(form="two-core", screen="source-end"),
            "a balanced link, if both ends are",
        )
    elif screen == "both-ends":
        title = f"Open the screen of {the(lead.name)} at its far end"
        yield Fix(title, change(screen="source-end"), "no current along it")
    if in_field and form != "star-quad":
        yield Fix(f"Use a star-quad for {the(lead.name)}", change(form="star-quad"))


def high_voltage(case: Case) -> Iterator[Finding]:
    """Valve stages are for qualified people, whatever their levels."""
    for row in case.rows:
        if "lethal-volts" in row.gear.hazards:
            volts = row.gear.figure("supply_v").value
            yield Finding(
                code=HIGH_VOLTAGE,
                severity="fine",
                stage=row.id,
                says=(
                    f"{sentence(the(row.name))} is reckoned from its figures; nobody"
                    " has to open it for that"
                ),
                proof=f"{volts:.0f} V on its plate supply",
                evidence={"supply_v": volts},
                caution=caution(*row.gear.hazards),
            )


rules = (hum_heard, high_voltage)
