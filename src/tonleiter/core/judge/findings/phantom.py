"""Rules about phantom power and balanced links: none, too little, and legs tied to ground."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.gear.phantom import PhantomFeed
from tonleiter.core.judge.findings.bias import feed_less, ways_to_feed
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import HEARD, Meaning, declare
from tonleiter.core.judge.findings.model import MOVE, Finding, Fix
from tonleiter.core.judge.findings.suggestions import isolating_transformer
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import VOLT, format_quantity
from tonleiter.core.words import sentence, the, within

NO_PHANTOM = declare(
    "no-phantom", Meaning(silent=True, first="phantom", first_words="needs phantom power")
)
ELECTRET_OVERFED = declare(
    "electret-overfed",
    Meaning(first="bias", first_words="needs other bias", sounds=("distorted",)),
)
COLD_LEG_TIED = declare("cold-leg-tied", Meaning(counts=HEARD))
PHANTOM_FED = declare("phantom-fed")


def condenser_power(case: Case) -> Iterator[Finding]:
    """A condenser lives on 48 V through both legs; a few volts on a radio's pin are not that."""
    microphone, capsule = case.rows[0].gear, case.capsule()
    if capsule is None or capsule.needs.dc != "phantom":
        return
    volts = case.solution.op.volts(capsule.p, capsule.n)
    inside = f"{format_quantity(max(volts, 0.0), VOLT, 2)} inside it"
    evidence = {"capsule_v": volts, "needs_v": capsule.needs_v}
    if volts >= capsule.needs_v:
        says = f"{sentence(the(microphone.name))} has its phantom power"
        yield Finding(PHANTOM_FED, "fine", microphone.id, says, inside, evidence)
        return
    radio = case.rows[-1]
    rail = next((r for r in case.rails() if r.stage == case.last), None)
    says = f"{sentence(the(microphone.name))} has no phantom power"
    if rail is not None and len(case.rails()) == 1:
        few = format_quantity(rail.mark.open_v, VOLT, 2)
        says = f"The {few} of {the(radio.name)} are no phantom power for {the(microphone.name)}"
    elif case.rails():
        says = f"The phantom power of {the(microphone.name)} does not reach it on both legs"
    yield Finding(
        code=NO_PHANTOM,
        severity="stop",
        stage=microphone.id,
        says=says,
        proof=f"{inside}; at least {format_quantity(capsule.needs_v, VOLT, 2)} is needed",
        evidence=evidence,
        fixes=tuple(_power(case)),
    )


def _power(case: Case) -> Iterator[Fix]:
    """Switch on what is there; else a box. A lead with one core cannot carry it."""
    lead = case.rows[1].gear
    lone = lead.lead and not lead.takes_balanced()

    def leads(station: Station) -> Station:
        return case.set_value(station, 1, "form", "two-core") if lone else station

    if lone:
        yield Fix(f"Use a {lead.name} with two cores", leads, "one core cannot carry both legs")
    tail = ", and a lead with two cores" if lone else ""
    for k, row in enumerate(case.rows):
        gear = row.gear
        if gear.phantom_switch() == "off":

            def switch(station: Station, k: int = k) -> Station:
                return case.set_value(leads(station), k, "phantom", "on")

            yield Fix(f"Switch on the phantom power of {the(row.name)}{tail}", switch)
    place = 2 if lead.lead else 1

    def box(station: Station) -> Station:
        gear = PhantomFeed(id=case.fresh_id("phantom-feed"), name="phantom feed box")
        return case.insert(leads(station), place, gear)

    for k, row in enumerate(case.rows):
        if row.gear.feeds == "phantom" and k > place:

            def nearer(station: Station, k: int = k) -> Station:
                moved = leads(station)
                return edits.move_stage(moved, case.chain_id, case.variant_id, k, place - k)

            title = f"Plug {the(row.name)} in right behind {the(case.rows[place - 1].name)}{tail}"
            yield Fix(title, nearer, "what stands between lets no volts through", MOVE)
    if not any(r.gear.feeds == "phantom" for r in case.rows):
        yield Fix(f"Add a phantom feed box{tail}", box, "its capacitors keep the 48 V there")


def electret_overfed(case: Case) -> Iterator[Finding]:
    """An electret capsule bears ten volts or so."""
    microphone, capsule = case.rows[0].gear, case.capsule()
    if capsule is None or capsule.needs.dc != "bias":
        return
    volts, most = case.solution.op.volts(capsule.p, capsule.n), capsule.needs.bears_v
    if volts <= most:
        return
    fixes = [
        _without_phantom(case, k, feed)
        for k, row in enumerate(case.rows)
        if row.gear.phantom_switch() == "on"
        for feed in ways_to_feed(case, microphone)
    ]
    fixes += [
        _without_box(case, k, feed)
        for k, row in enumerate(case.rows)
        if row.gear.feeds == "phantom"
        for feed in ways_to_feed(case, microphone)
    ]
    yield Finding(
        code=ELECTRET_OVERFED,
        severity="stop",
        stage=microphone.id,
        says=f"Too many volts stand over {the(microphone.name)}",
        proof=(
            f"{format_quantity(volts, VOLT, 2)} over the capsule; it bears"
            f" {format_quantity(most, VOLT, 2)}"
        ),
        evidence={"capsule_v": volts, "most_v": most},
        fixes=tuple(fixes or feed_less(case, microphone, most)),
    )


def _without_box(case: Case, index: int, feed: Fix) -> Fix:
    """A box of phantom power is for other microphones; what stood behind it moves up."""

    def apply(station: Station) -> Station:
        # from behind first: places before it stay what they were
        return feed.apply(case.remove(station, {index}))

    first = f"Leave {the(case.rows[index].name)} out"
    return Fix(f"{first}; {within(feed.title)}", apply, feed.why)


def _without_phantom(case: Case, index: int, feed: Fix) -> Fix:
    def apply(station: Station) -> Station:
        return feed.apply(case.set_value(station, index, "phantom", "off"))

    first = f"Switch off the phantom power of {the(case.rows[index].name)}"
    return Fix(f"{first}; {within(feed.title)}", apply, feed.why)


def cold_leg_tied(case: Case) -> Iterator[Finding]:
    """A balanced output into an unbalanced input: both schools work, and each leaves its hum."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        if k == 0 or not row.gear.is_box or not case.solution.compiled.stages[k].outlet.balanced:
            continue
        tied = next(
            (
                j
                for j in range(k + 1, case.last + 1)
                if case.solution.compiled.stages[j - 1].outlet.balanced
                and not case.rows[j].gear.takes_balanced()
            ),
            None,
        )
        if tied is None or any(r.gear.isolates for r in case.rows[k + 1 : tied]):
            continue
        hum = row.hum_dbu if row.hum_dbu is None else case.rows[-1].hum_dbu
        under = "" if hum is None else f"; hum {_against(case.rows[-1].speech_dbu - hum)} speech"
        lost = "half its level is lost" if row.gear.drives_both_legs() else "nothing is lost"
        yield Finding(
            code=COLD_LEG_TIED,
            severity="fine",
            stage=case.rows[tied].id,
            says=(
                f"The cold leg of {the(row.name)} is tied to ground at {the(case.rows[tied].name)}"
            ),
            proof=f"{lost}{under}; the other school takes both legs to a transformer",
            evidence={"hum_dbu": hum if hum is not None else float("nan")},
            fixes=(isolating_transformer(case, tied, "the other school"),),
        )


def _against(under_db: float) -> str:
    side = "under" if under_db >= 0 else "over"
    return f"{signed(abs(under_db), 0)} dB {side}"


rules = (condenser_power, electret_overfed, cold_leg_tied)
