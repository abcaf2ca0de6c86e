"""Rules about the electret's supply: none, too little, two at once."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from tonleiter.core.circuit.readings import read_dc
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.bias_feed import BiasFeed
from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.net import Capsule, DcNeeds
from tonleiter.core.judge.findings.case import DEAD_BELOW_V, Case, Rail
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import Finding, Fix
from tonleiter.core.judge.findings.suggestions import blocking_capacitor, leave_out
from tonleiter.core.solve.levels import device_current
from tonleiter.core.station.fed import bias_contact, bias_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import plug_place
from tonleiter.core.units.preferred import between, nearest
from tonleiter.core.units.quantity import AMPERE, VOLT, format_quantity, format_short
from tonleiter.core.words import sentence, the, the_all

ELECTRET_STARVED = declare(
    "electret-starved", Meaning(silent=True, first="bias", first_words="needs a better bias")
)
ELECTRET_FED = declare("electret-fed")
ELECTRET_NO_BIAS = declare(
    "electret-no-bias", Meaning(silent=True, first="bias", first_words="needs bias")
)
ELECTRET_REVERSED = declare(
    "electret-reversed",
    Meaning(silent=True, first="bias", first_words="stands the wrong way round"),
)
ELECTRET_FED_TWICE = declare("electret-fed-twice")
NEEDLESS_BIAS_FEED = declare("needless-bias-feed")
# less than this share of the current it needs is as good as none
NEXT_TO_NONE = 0.05
CARBON_FED = declare("carbon-fed")
CARBON_HOT = declare("carbon-hot", Meaning(first="current", first_words="needs less current"))
CARBON_NO_CURRENT = declare(
    "carbon-no-current", Meaning(silent=True, first="current", first_words="needs current")
)

# A rail counts as feeding the capsule when a volt more on it moves the capsule by this much.
FEEDS_FROM_V_PER_V = 0.02
AIM_OVER_NEED = 2.0


def _feeding(case: Case, capsule: Capsule) -> list[Rail]:
    """Rails that reach the capsule, by the DC sensitivity of its volts to each of them."""
    readings = read_dc(case.solution.linear, [(capsule.p, capsule.n)])
    return [
        rail
        for rail in case.rails()
        if abs(readings.from_source(rail.mark.source)[0, 0]) >= FEEDS_FROM_V_PER_V
    ]


def electret_bias(case: Case) -> Iterator[Finding]:
    """Dead, starved or fed twice; or fine."""
    capsule = case.capsule()
    microphone = case.rows[0].gear
    if capsule is None or capsule.needs.dc != "bias":
        return
    volts = case.solution.op.volts(capsule.p, capsule.n)
    amps = device_current(case.solution, capsule.device)
    feeding = _feeding(case, capsule)
    evidence = {"capsule_v": volts, "needs_v": capsule.needs_v, "dc_ma": amps * 1e3}
    drawn = (
        f"{format_quantity(volts, VOLT, 2)} over the capsule at {format_quantity(amps, AMPERE, 2)}"
    )
    if volts < -DEAD_BELOW_V:
        yield _reversed(case, microphone, evidence)
    elif volts < DEAD_BELOW_V:
        yield _dead(case, microphone, evidence)
    elif volts < capsule.needs_v:
        yield Finding(
            code=ELECTRET_STARVED,
            severity="stop",
            stage=case.rows[0].id,
            says=f"{sentence(the(microphone.name))} is starved: it will distort and lose level",
            proof=f"{drawn}; at least {format_quantity(capsule.needs_v, VOLT, 2)} is needed",
            evidence=evidence,
            fixes=tuple(_feed_better(case, microphone)),
        )
    elif len(feeding) > 1:
        yield _fed_twice(case, microphone, feeding, evidence | {"feeds": float(len(feeding))})
    else:
        yield Finding(
            code=ELECTRET_FED,
            severity="fine",
            stage=case.rows[0].id,
            says=f"{sentence(the(microphone.name))} has the bias it needs",
            proof=drawn,
            evidence=evidence,
        )


def _reversed(case: Case, microphone: Gear, evidence: dict[str, float]) -> Finding:
    """Its junctions conduct in place of its channel."""
    volts, amps = -evidence["capsule_v"], abs(evidence["dc_ma"]) / 1e3
    return Finding(
        code=ELECTRET_REVERSED,
        severity="stop",
        stage=case.rows[0].id,
        says=(
            f"{sentence(the(microphone.name))} is fed the wrong way round: next to"
            " nothing comes out of it"
        ),
        proof=(
            f"{format_quantity(amps, AMPERE, 2)} flow through its junctions, which hold"
            f" {format_quantity(volts, VOLT, 2)}; its case belongs to the ground of its supply"
        ),
        evidence=evidence,
    )


def _dead(case: Case, microphone: Gear, evidence: dict[str, float]) -> Finding:
    behind = next((r for r in case.rows[1:] if not r.gear.lead), case.rows[-1])
    return Finding(
        code=ELECTRET_NO_BIAS,
        severity="stop",
        stage=case.rows[0].id,
        says=f"Behind {the(behind.name)} {the(microphone.name)} has no bias: it is dead",
        proof=(
            f"{format_quantity(max(evidence['capsule_v'], 0.0), VOLT, 2)} over the capsule;"
            f" at least {format_quantity(evidence['needs_v'], VOLT, 2)} is needed"
        ),
        evidence=evidence,
        fixes=tuple(ways_to_feed(case, microphone)),
    )


def ways_to_feed(case: Case, microphone: Gear) -> Iterator[Fix]:
    """A feed of its own behind its lead, or straight into a radio that has one."""
    yield from _from_the_radios_contact(case, microphone)
    yield from _feeds_of_its_own(case, microphone)
    yield from _straight_into_a_radio_with_bias(case)


def _from_the_radios_contact(case: Case, microphone: Gear) -> Iterator[Fix]:
    """A resistor from the bias contact of the radio's plug, a capacitor to its microphone contact.

    Both fit into the plug: the usual build for a radio that leads its bias out.
    """
    radio = case.rows[-1].gear
    contact, given = bias_contact(case.station, radio), bias_of(case.station, radio)
    if contact is None or given.volts < _needs(microphone).needs_v:
        return
    place = plug_place([r.gear for r in case.rows])
    whole = _resistor_for(microphone, given.volts)
    resistor = nearest(max(whole - given.ohm, 1000.0), "E12")

    def feed(station: Station) -> Station:
        gear = BiasFeed(
            id=case.fresh_id("bias-feed"),
            name=f"feed from contact {contact.label}",
            resistor_ohm=typical(resistor),
            output_plus=case.plus_towards(place, given.volts / 2),
            fed_by="radio-contact",
        )
        return case.insert(station, place, gear)

    usual = ", usual figures: measure it" if given.usual else ""
    yield Fix(
        f"Feed it from contact {contact.label} of {the(radio.name)} through"
        f" {format_short(resistor)}, 10 µF onwards",
        feed,
        f"no battery: {format_quantity(given.volts, VOLT, 2)} stand there{usual}",
    )


def _feeds_of_its_own(case: Case, microphone: Gear) -> Iterator[Fix]:
    place = 2 if case.rows[1].gear.lead else 1
    for supply in (3.0, 9.0):
        resistor = _resistor_for(microphone, supply)

        def feed(station: Station, supply: float = supply, resistor: float = resistor) -> Station:
            gear = BiasFeed(
                id=case.fresh_id("bias-feed"),
                name=f"bias feed {supply:g} V",
                supply_v=typical(supply),
                resistor_ohm=typical(resistor),
                output_plus=case.plus_towards(place, supply / 2),
            )
            return case.insert(station, place, gear)

        yield Fix(
            f"Feed it {supply:g} V through {format_short(resistor)}, 10 µF onwards",
            feed,
            "its own battery, the rest stays",
        )


def _straight_into_a_radio_with_bias(case: Case) -> Iterator[Fix]:
    radio = case.rows[-1].gear
    if radio.bias_on_pin_v() > 0:
        between_them = {k for k in range(1, case.last) if not case.rows[k].gear.lead}
        if between_them:
            yield Fix(
                f"Plug it straight into {the(radio.name)}, which has bias on its pin",
                lambda station: case.remove(station, between_them),
                "nothing to build; the boxes between are left out",
            )


def _needs(microphone: Gear) -> DcNeeds:
    needs = microphone.dc_needs()
    assert needs is not None
    return needs


def _resistor_for(microphone: Gear, supply_v: float) -> float:
    """Preferred value that leaves half the supply, or twice the need, on the capsule."""
    needs = _needs(microphone)
    left = max(supply_v / 2, min(AIM_OVER_NEED * needs.needs_v, 0.8 * supply_v))
    ideal = (supply_v - left) / needs.draws_a
    return nearest(min(max(ideal, 680.0), 10e3), "E12")


def _feed_better(case: Case, microphone: Gear) -> Iterator[Fix]:
    """Smaller feed resistor or more volts, where the feed is ours to change."""
    for k, row in enumerate(case.rows):
        gear = row.gear
        if gear.feeds == "bias":
            supply_v, ohm = gear.figure("supply_v").value, gear.figure("resistor_ohm").value
            ideal = _resistor_for(microphone, supply_v)
            smaller = [v for v in between(470.0, ohm, "E12") if v <= ideal]
            if smaller:
                title = f"Feed it through {format_short(smaller[-1])}"
                yield _set(case, k, "resistor_ohm", smaller[-1], title)
            for volts in (4.5, 9.0):
                if volts > supply_v:
                    yield _set(case, k, "supply_v", volts, f"Feed it from {volts:g} V")
    if not any(r.gear.feeds == "bias" for r in case.rows):
        yield from _feed_instead(case, microphone)


def feed_less(case: Case, microphone: Gear, most_v: float) -> Iterator[Fix]:
    """Fewer volts, or a larger resistor that the capsule's own current drops them over."""
    needs = _needs(microphone)
    for k, row in enumerate(case.rows):
        if row.gear.feeds != "bias":
            continue
        supply_v = row.gear.figure("supply_v").value
        for volts in (9.0, 4.5):
            if needs.needs_v < volts <= min(most_v, supply_v - 0.5):
                yield _set(case, k, "supply_v", volts, f"Feed it from {volts:g} V")
        left = max(most_v / 2, AIM_OVER_NEED * needs.needs_v)
        ohm = nearest(max((supply_v - left) / needs.draws_a, 680.0), "E12")
        yield _set(case, k, "resistor_ohm", ohm, f"Feed it through {format_short(ohm)}")
    if not any(r.gear.feeds == "bias" for r in case.rows):
        yield from _feed_instead(case, microphone)


def _feed_instead(case: Case, microphone: Gear) -> Iterator[Fix]:
    """A feed of its own; its coupling capacitor keeps the weak one away."""
    yield from _feeds_of_its_own(case, microphone)


def _set(case: Case, index: int, field: str, value: float, title: str) -> Fix:
    return Fix(title, lambda station: case.set_value(station, index, field, value))


def _fed_twice(
    case: Case, microphone: Gear, feeding: list[Rail], evidence: dict[str, float]
) -> Finding:
    names = the_all(case.rows[r.stage].name for r in feeding)
    removable = [r.stage for r in feeding if case.rows[r.stage].gear.feeds == "bias"]
    fixes = [leave_out(case, k) for k in removable]
    far = feeding[-1].stage
    corner = case.purpose.bass_corner_at_most_hz / 4
    if far >= 1:
        fixes.append(blocking_capacitor(case, far - 1, "output", corner, "keeps the two apart"))
    return Finding(
        code=ELECTRET_FED_TWICE,
        severity="mind",
        stage=case.rows[0].id,
        says=f"Two supplies feed {the(microphone.name)}: {names}",
        proof=(
            f"{format_quantity(evidence['capsule_v'], VOLT, 2)} over the capsule depends on both;"
            " each loads the other"
        ),
        evidence=evidence,
        fixes=tuple(fixes),
    )


def needless_feed(case: Case) -> Iterator[Finding]:
    """A bias feed in front of a microphone that wants none."""
    microphone: Gear = case.rows[0].gear
    needs = microphone.dc_needs()
    if needs is not None and needs.dc in ("bias", "current"):
        return
    feeds = [k for k, row in enumerate(case.rows) if row.gear.feeds == "bias"]
    for row in (case.rows[k] for k in feeds):
        loss = row.gain_db or 0.0
        yield Finding(
            code=NEEDLESS_BIAS_FEED,
            severity="mind",
            stage=row.id,
            says=f"{sentence(the(microphone.name))} wants no bias feed",
            proof=f"the feed's resistor loads it, {abs(min(loss, 0.0)):.1f} dB lost",
            evidence={"gain_db": loss if math.isfinite(loss) else 0.0},
            fixes=(leave_out(case, *feeds),),
        )


def carbon_current(case: Case) -> Iterator[Finding]:
    """Granules without current are silent, with little they scratch, with too much they bake."""
    microphone, capsule = case.rows[0].gear, case.capsule()
    if capsule is None or capsule.needs.dc != "current":
        return
    amps = abs(device_current(case.solution, capsule.device))
    needs, burns = capsule.needs.needs_a, capsule.needs.bears_a
    flows = f"{format_quantity(amps, AMPERE, 2)} flows"
    evidence = {"dc_ma": amps * 1e3, "needs_ma": needs * 1e3, "burns_ma": burns * 1e3}
    if needs <= amps <= burns:
        proof = f"{flows}; {format_quantity(needs, AMPERE, 2)} or more is needed"
        says = f"{sentence(the(microphone.name))} has the current it needs"
        yield Finding(CARBON_FED, "fine", case.rows[0].id, says, proof, evidence)
    elif amps > burns:
        says = f"Too much current bakes the granules of {the(microphone.name)}"
        proof = f"{flows}; at most {format_quantity(burns, AMPERE, 2)} is right"
        fixes = tuple(_carbon_resistors(case, microphone))
        yield Finding(CARBON_HOT, "stop", case.rows[0].id, says, proof, evidence, fixes)
    else:
        # a milliampere or two of a feed for electrets makes it whisper and crackle, no more
        little = amps >= NEXT_TO_NONE * needs
        lacks = "too little current: weak and scratchy" if little else "no current: no DC, no sound"
        says = f"{sentence(the(microphone.name))} gets {lacks}"
        proof = f"{flows}; {format_quantity(needs, AMPERE, 2)} or more is needed"
        fixes = (*_carbon_resistors(case, microphone), *_carbon_feeds(case, microphone))
        yield Finding(CARBON_NO_CURRENT, "stop", case.rows[0].id, says, proof, evidence, fixes)


def _carbon_ohm(microphone: Gear, supply_v: float) -> float:
    """Feed resistor for twice the least current."""
    needs = _needs(microphone)
    total = supply_v / (2 * needs.needs_a)
    return nearest(max(total - needs.rest_ohm, 22.0), "E12")


def _carbon_resistors(case: Case, microphone: Gear) -> Iterator[Fix]:
    boxes = [k for k, row in enumerate(case.rows) if row.gear.feeds == "phantom"]
    for k, row in enumerate(case.rows):
        if row.gear.feeds == "bias":
            if boxes and max(boxes) < k:
                yield _without_boxes(case, boxes, k, microphone)
            ohm = _carbon_ohm(microphone, row.gear.figure("supply_v").value)
            if getattr(row.gear, "filter", "none") == "none":
                yield _set(case, k, "resistor_ohm", ohm, f"Feed it through {format_short(ohm)}")
                continue
            # a filter for a capsule of a fraction of a milliampere lets no ten through
            yield Fix(
                f"Feed it through {format_short(ohm)}, the filter left out",
                case.setting(k, {"resistor_ohm": ohm, "filter": "none"}),
            )


def _without_boxes(case: Case, boxes: Sequence[int], index: int, microphone: Gear) -> Fix:
    """What keeps 48 V on its side keeps the feed's current from the granules as well."""
    ohm = _carbon_ohm(microphone, case.rows[index].gear.figure("supply_v").value)
    gone = leave_out(case, *boxes)

    def apply(station: Station) -> Station:
        return gone.apply(case.set_value(station, index, "resistor_ohm", ohm))

    return Fix(f"{gone.title}; feed it through {format_short(ohm)}", apply)


def _carbon_feeds(case: Case, microphone: Gear) -> Iterator[Fix]:
    capsule = case.capsule()
    fed_by = [case.rows[r.stage].gear for r in _feeding(case, capsule)] if capsule else []
    if any(gear.feeds == "bias" for gear in fed_by):
        return
    place = 2 if case.rows[1].gear.lead else 1
    supply = 6.0
    ohm = _carbon_ohm(microphone, supply)

    def feed(station: Station) -> Station:
        gear = BiasFeed(
            id=case.fresh_id("carbon-feed"),
            name=f"carbon feed {supply:g} V",
            supply_v=typical(supply),
            resistor_ohm=typical(ohm),
            coupling_f=typical(22e-6),
            output_plus=case.plus_towards(place, supply / 2),
        )
        return case.insert(station, place, gear)

    yield Fix(f"Feed it {supply:g} V through {format_short(ohm)}, 22 µF onwards", feed)


rules = (electret_bias, carbon_current, needless_feed)
