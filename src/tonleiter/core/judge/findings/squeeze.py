"""Rules about compression: two in a row, first syllables that jump out, gates that bite."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.gear.active import Compressor
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import CHANGE, TURN, Finding, Fix
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import OHM, format_quantity
from tonleiter.core.words import sentence, the, the_all

TWO_COMPRESSORS = declare("two-compressors", Meaning(sounds=("squashed",)))
OVERSHOOT = declare("attack-overshoot", Meaning(sounds=("distorted",)))
GATE_BITES = declare("gate-bites")

WORKS_FROM_DB = 1.0
OVERSHOOT_DB = 6.0
BITES_SHARE = 0.03
# so far under speech a gate closes on hardly a soft word
GATE_UNDER_DB = 20.0


def two_compressors(case: Case) -> Iterator[Finding]:
    """Say how many dB each takes off the peaks, and how far the noise between words rises."""
    if case.is_dead():
        return
    working = [k for k, row in enumerate(case.rows) if row.peaks_squeezed_db >= WORKS_FROM_DB]
    if len(working) < 2:
        return
    rows = [case.rows[k] for k in working]
    names = the_all(r.name for r in rows)
    total = sum(r.peaks_squeezed_db for r in rows)
    lifted = sum(r.noise_lifted_db for r in rows)
    each = " and ".join(f"{r.peaks_squeezed_db:.0f} dB" for r in rows)
    yield Finding(
        code=TWO_COMPRESSORS,
        severity="mind",
        stage=rows[-1].id,
        says=f"{sentence(names)} both compress",
        proof=(
            f"{each} squeezed on peaks, {total:.0f} dB in all; noise between words lifted"
            f" {lifted:.0f} dB against speech"
        ),
        evidence={"squeezed_db": total, "noise_lift_db": lifted},
        fixes=tuple(fix for k in working for fix in _bypass(case, k)),
    )


def _bypass(case: Case, index: int, effort: int = TURN) -> Iterator[Fix]:
    row = case.rows[index]
    for field, value in row.gear.uncompressed():
        yield Fix(
            f"Switch off the one in {the(row.name)}",
            case.setting(index, {field: value}),
            "",
            effort,
        )


def overshoot(case: Case) -> Iterator[Finding]:
    """A slow attack lets the first syllable through: a click, and splatter behind it."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        if row.overshoot_db < OVERSHOOT_DB or row.peaks_squeezed_db < WORKS_FROM_DB:
            continue
        yield Finding(
            code=OVERSHOOT,
            severity="mind",
            stage=row.id,
            says=f"First syllables jump out behind {the(row.name)}: its attack is slow for that",
            proof=(
                f"{row.overshoot_db:.0f} dB over what follows; {row.peaks_squeezed_db:.0f} dB are"
                " squeezed"
            ),
            evidence={"overshoot_db": row.overshoot_db, "off_db": row.overshoot_db - OVERSHOOT_DB},
            fixes=tuple(_quicker(case, k)),
        )


def _quicker(case: Case, index: int) -> Iterator[Fix]:
    gear = case.rows[index].gear
    if "attack_s" in gear.figures() and "attack_s" not in gear.idle_fields():
        now = gear.figure("attack_s").value
        for attack in (3e-3, 1e-3):
            if attack < now:
                yield Fix(
                    f"Set its attack to {attack * 1e3:g} ms",
                    case.setting(index, {"attack_s": attack}),
                    "",
                    TURN,
                )
    yield from _bypass(case, index, CHANGE)


def gate_bites(case: Case) -> Iterator[Finding]:
    """A gate closes on what is under its threshold, also on soft speech."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        if row.closed_share < BITES_SHARE:
            continue
        yield Finding(
            code=GATE_BITES,
            severity="mind",
            stage=row.id,
            says=f"The gate of {the(row.name)} closes on soft words",
            proof=f"{row.closed_share:.0%} of speech lies under its threshold",
            evidence={"closed_share": row.closed_share, "off_db": 100 * row.closed_share},
            fixes=tuple(_lower_gate(case, k)),
        )


def _lower_gate(case: Case, index: int) -> Iterator[Fix]:
    gear, row = case.rows[index].gear, case.rows[index]
    if isinstance(gear, Compressor):
        below = round(row.speech_dbu + row.speech_squeezed_db - GATE_UNDER_DB)
        field, value = gear.gated_below(below)
        by_knob = field == "gate_dbu"
        yield Fix(
            f"Lower its threshold to {signed(below, 0)} dBu"
            if by_knob
            else f"Make its gate resistor {format_quantity(value, OHM)}",
            case.setting(index, {field: value}),
            "" if by_knob else f"it closes below {signed(below, 0)} dBu then",
            TURN if by_knob else CHANGE,
        )
    yield Fix("Switch it off", lambda s: case.set_value(s, index, "gate", "off"), "", TURN)


rules = (two_compressors, overshoot, gate_bites)
