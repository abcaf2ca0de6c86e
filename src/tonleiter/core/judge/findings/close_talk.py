"""Rules about lips that are near: boom of a directional capsule, and pops."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from tonleiter.core.gear.acoustics import LIPS_MM, SpokenInto
from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.passives import SeriesCapacitor
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import ADD, CHANGE, MOVE, TURN, Finding, Fix
from tonleiter.core.judge.findings.parts import series_f
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import signed
from tonleiter.core.units.preferred import nearest
from tonleiter.core.units.quantity import FARAD, format_quantity
from tonleiter.core.words import the

BOOM = declare("close-talk-boom", Meaning(sounds=("bassy",)))
BREATH_POPS = declare("breath-pops", Meaning(sounds=("pops",)))

BOOM_DB, SPARE_DB = 6.0, 1.0
BOOM_AT_HZ, AGAINST_HZ = 150.0, 1000.0
POPS_WITHIN_MM = 60.0
DIRECTIONAL_MM = LIPS_MM["directional"]


def boom(case: Case) -> Iterator[Finding]:
    """A directional capsule close to the lips lifts the bass: proximity."""
    distance = case.distance_mm
    microphone = case.rows[0].gear
    if case.is_dead() or not isinstance(microphone, SpokenInto):
        return
    if microphone.hears != "directional":
        return
    f_hz, gain = case.solution.f_hz, case.solution.gain_db()
    low, middle = np.interp([BOOM_AT_HZ, AGAINST_HZ], f_hz, gain)
    lift = float(low - middle)
    # who wants a natural voice hears it as warmth for longer
    if lift < BOOM_DB or distance >= DIRECTIONAL_MM or not case.solution.compiled.acoustic:
        return
    yield Finding(
        code=BOOM,
        severity="mind",
        stage=case.rows[0].id,
        says=f"Close talk booms in {the(case.rows[0].name)}",
        proof=(
            f"{signed(lift, 0, plus=True)} dB at {BOOM_AT_HZ:.0f} Hz against 1 kHz, at"
            f" {distance / 10:g} cm"
        ),
        evidence={"lift_db": lift, "off_db": lift - BOOM_DB},
        fixes=tuple(_off_boom(case, lift)),
        at_the_lips=True,
    )


def breath_pops(case: Case) -> Iterator[Finding]:
    """Speaking into a bare capsule from close by: plosives hit it."""
    chain, microphone = case.solution.compiled.chain, case.rows[0].gear
    if case.is_dead() or chain.speaks != "into-it" or not microphone.pops():
        return
    if not case.solution.compiled.acoustic or case.distance_mm > POPS_WITHIN_MM:
        return
    fixes = [
        Fix(
            "Speak across the capsule, not into it",
            lambda station: edits.change_chain(station, case.chain_id, speaks="across-it"),
            "the breath goes past it",
            TURN,
        )
    ]
    if isinstance(microphone, SpokenInto):
        fixes.append(
            Fix("Put a windscreen over it", case.setting(0, {"over_it": "windscreen"}), "", ADD)
        )
    yield Finding(
        code=BREATH_POPS,
        severity="mind",
        stage=microphone.id,
        says=f"Breath pops in {the(microphone.name)}",
        proof=f"spoken straight into, from {case.distance_mm / 10:g} cm, nothing over it",
        evidence={"off_db": POPS_WITHIN_MM / max(case.distance_mm, 1.0)},
        fixes=tuple(fixes),
    )


def _off_boom(case: Case, lift_db: float) -> Iterator[Fix]:
    yield Fix(
        f"Speak from {DIRECTIONAL_MM / 10:g} cm, across the capsule",
        lambda station: edits.change_chain(station, case.chain_id, distance_mm=DIRECTIONAL_MM),
        "costs level, and lets in more of the room",
        MOVE,
    )
    for k, row in enumerate(case.rows[1:], start=1):
        if (field := row.gear.series_farad_field) is not None:
            smaller = row.gear.figure(field).value / 4
            yield Fix(
                f"Make {the(row.name)} a quarter of its value",
                case.setting(k, {field: smaller}),
                "the cheapest way to thin out bass",
                CHANGE,
            )
    yield from _thinner(case, lift_db - BOOM_DB)


def _thinner(case: Case, less_db: float) -> Iterator[Fix]:
    """A small capacitor in series: f0 with 10 lg((1 + (f0/f1)²)/(1 + (f0/f2)²)) = what is too much.

    Its corner is that of a high-pass of one resistor, the source and the load together.
    """
    joint = case.behind_source()
    z = case.solution.impedances[joint]
    if not math.isfinite(z.load_ohm):
        return
    times = 10 ** ((less_db + SPARE_DB) / 10)
    f1_hz, f2_hz = BOOM_AT_HZ, AGAINST_HZ
    # so much is as much as one capacitor can
    most = 0.9 * (f2_hz / f1_hz) ** 2
    times = min(times, most)
    corner_hz = math.sqrt((times - 1.0) / (1 / f1_hz**2 - times / f2_hz**2))
    farad = nearest(series_f(z, corner_hz), "E6")
    value = format_quantity(farad, FARAD)

    def apply(station: Station) -> Station:
        gear = SeriesCapacitor(
            id=case.fresh_id("thin-capacitor"),
            name=f"capacitor {value} against boom",
            capacitance_f=typical(farad),
        )
        return case.insert(station, joint + 1, gear)

    title = f"Add {value} in series behind {the(case.rows[0].name)}"
    yield Fix(title, apply, "the cheapest way to thin out bass; lips stay where they are")


rules = (boom, breath_pops)
