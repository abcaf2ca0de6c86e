"""Solve a chain, judge it, and try the remedies."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from pydantic import ValidationError

from tonleiter.core.judge.findings import (
    bias,
    bridge,
    direct_current,
    earth,
    housing,
    level,
    loading,
    phantom,
    squeeze,
)
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.model import SEVERITIES, Finding, Fix, Remedy
from tonleiter.core.refused import RefusedError
from tonleiter.core.solve.compiled import CompiledChain, compile_chain
from tonleiter.core.solve.corners import corners_hz
from tonleiter.core.solve.levels import StageLevels, VoiceLevels, stage_levels, voice_levels
from tonleiter.core.solve.solution import POINTS, ChainSolution, solve_chain
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.units.levels import format_dbu, signed
from tonleiter.core.units.quantity import HERTZ, format_quantity

RULES = (
    *direct_current.rules,
    *bias.rules,
    *level.rules,
    *loading.rules,
    *earth.rules,
    *squeeze.rules,
    *housing.rules,
    *bridge.rules,
    *phantom.rules,
)
MOST_REMEDIES = 3
STAYS_WITHIN_DB = 0.5
# hum this far under speech is not worth a word
HEARD_ABOVE_DB = 70.0
# no living chain is this quiet: it is what numbers are left of a microphone without bias
SILENT_DBU = -150.0


@dataclass(frozen=True)
class Assessment:
    """A solved and judged variant."""

    station: Station
    solution: ChainSolution
    voice: VoiceLevels
    rows: tuple[StageLevels, ...]
    findings: tuple[Finding, ...]

    @property
    def corners_hz(self) -> tuple[float | None, float | None]:
        """−3 dB corners of the response from the air to the radio."""
        return corners_hz(self.solution.f_hz, self.solution.gain_db())

    def stops(self) -> tuple[Finding, ...]:
        """Findings that forbid using the chain as it is."""
        return tuple(f for f in self.findings if f.severity == "stop")


def assess(
    station: Station,
    chain_id: str | None = None,
    variant_id: str | None = None,
    points: int = POINTS,
) -> Assessment:
    """Solve and judge. Raises KeyError for unknown ids, CircuitError if there is no solution."""
    return judge(station, compile_chain(station, chain_id, variant_id), points)


def judge(station: Station, compiled: CompiledChain, points: int = POINTS) -> Assessment:
    """Solve and judge what is compiled already. Raises CircuitError if there is no solution."""
    solution = solve_chain(compiled, points)
    rows = stage_levels(solution)
    case = Case(station, solution, rows)
    found = [finding for rule in RULES for finding in rule(case)]
    found.sort(key=lambda f: SEVERITIES.index(f.severity))
    return Assessment(station, solution, voice_levels(solution), rows, tuple(found))


def try_fix(before: Assessment, finding: Finding, fix: Fix) -> Remedy | None:
    """Apply a fix and compute what it leaves; None unless the finding goes and no stop comes."""
    after = tried(before, finding, fix)
    return None if after is None else _remedy(before, after, fix)


def tried(before: Assessment, finding: Finding, fix: Fix) -> Assessment | None:
    """The chain after a fix; None unless the finding goes and no stop comes."""
    checkpoint()
    compiled = before.solution.compiled
    try:
        station = fix.apply(before.station)
        after = assess(station, compiled.chain.id, compiled.variant.id)
    except (ValidationError, RefusedError):
        return None
    # the same trouble must neither stay nor move to a stage that did not have it; what another
    # stage had all along is another finding's matter
    elsewhere = {f.key for f in before.findings if f.severity != "fine"} - {finding.key}
    if any(
        f.code == finding.code and f.severity != "fine" and f.key not in elsewhere
        for f in after.findings
    ):
        return None
    if _adds_a_stop(before, after, finding):
        return None
    return after


def _remedy(before: Assessment, after: Assessment, fix: Fix) -> Remedy:
    leaves = tuple(f.code for f in after.findings if f.severity != "fine")
    hum = after.rows[-1].hum_dbu
    left = float("-inf") if hum is None else hum - after.rows[-1].speech_dbu
    return Remedy(fix.title, _effect(before, after, fix), leaves, after.station, left)


def _adds_a_stop(before: Assessment, after: Assessment, finding: Finding) -> bool:
    """Whether a stop stands after that did not stand before.

    The level of a dead or starved microphone could not be judged: once it lives, a level or a hum
    that was wrong all along may show, and is no fault of the fix.
    """
    known = {f.key for f in before.stops()}
    silent = before.rows[-1].speech_dbu < SILENT_DBU or meaning(finding.code).silent
    new = [f for f in after.stops() if f.key not in known]
    return any(not (silent and (meaning(f.code).level or meaning(f.code).hum)) for f in new)


def remedies(before: Assessment, finding: Finding) -> tuple[Remedy, ...]:
    """Fixes that were tried and work, those that leave least wrong (or least hum) first."""
    tried = [r for fix in finding.fixes if (r := try_fix(before, finding, fix))]
    unique = {r.title: r for r in tried}.values()
    hums = meaning(finding.code).hum
    ranked = sorted(unique, key=lambda r: (len(r.leaves), r.leaves_hum_db if hums else 0.0))
    return tuple(ranked[:MOST_REMEDIES])


def presence_db(assessment: Assessment) -> float:
    """Response at 2 kHz against 500 Hz."""
    f_hz, gain = assessment.solution.f_hz, assessment.solution.gain_db()
    at_2k, at_500 = np.interp([2000.0, 500.0], f_hz, gain)
    return float(at_2k - at_500)


def _treble_db(assessment: Assessment) -> float:
    """Response at 2.7 kHz against 1 kHz."""
    f_hz, gain = assessment.solution.f_hz, assessment.solution.gain_db()
    at_2700, at_1000 = np.interp([2700.0, 1000.0], f_hz, gain)
    return float(at_2700 - at_1000)


def _effect(before: Assessment, after: Assessment, fix: Fix) -> str:
    parts = [fix.why] if fix.why else []
    was, now = before.rows[-1].speech_dbu, after.rows[-1].speech_dbu
    if now < SILENT_DBU:
        return "; ".join([*parts, "the microphone still gives nothing"])
    if was < SILENT_DBU:
        parts.append(f"speech at the radio {format_dbu(now)}")
    elif abs(now - was) >= STAYS_WITHIN_DB:
        parts.append(f"speech at the radio {format_dbu(was)} → {format_dbu(now)}")
    else:
        parts.append(f"speech stays at {format_dbu(now)}")
    hum_was, hum_now = before.rows[-1].hum_dbu, after.rows[-1].hum_dbu
    heard = hum_was is not None and hum_was > was - HEARD_ABOVE_DB and was >= SILENT_DBU
    if heard and hum_was is not None and hum_now is not None and abs(hum_now - hum_was) >= 3:
        parts.append(f"hum {format_dbu(hum_was, 0)} → {format_dbu(hum_now, 0)}")
    old, new = before.corners_hz[0], after.corners_hz[0]
    if new is not None and (old is None or abs(new - old) > 0.05 * old):
        parts.append(f"bass from {format_quantity(new, HERTZ, 2)}")
    brighter = _treble_db(after) - _treble_db(before)
    if abs(brighter) >= 2:
        parts.append(f"treble {signed(brighter, 0, plus=True)} dB at 2.7 kHz")
    arisen = {f.code for f in after.findings if f.severity != "fine"} - {
        f.code for f in before.findings
    }
    if arisen:
        parts.append(f"then see: {', '.join(sorted(arisen)).replace('-', ' ')}")
    return "; ".join(parts)
