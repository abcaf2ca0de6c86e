"""What is wrong with a chain, asked here by all: its circuit, its build, what was found in both.

A finding says itself where it counts (``Meaning.counts``); a stop counts everywhere, since what
must not be plugged in is neither soldered nor proved nor set. Only one that is ``local``, because
nobody knows where a wire goes, stops the iron alone.
"""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import ValidationError

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.assess import Assessment, assess, change_of, remedies
from tonleiter.core.judge.effect import effect
from tonleiter.core.judge.findings.codes import Where, meaning
from tonleiter.core.judge.findings.model import Finding, Fix, Remedy, counting, gravest_first
from tonleiter.core.judge.wiring import leads, plugs, soldering, switching
from tonleiter.core.judge.wiring.case import AS_PINNED, WiringCase
from tonleiter.core.refused import RefusedError
from tonleiter.core.solve.solution import POINTS
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.wiring.build import build_of
from tonleiter.core.wiring.model import Build

RULES = (*soldering.rules, *plugs.rules, *switching.rules, *leads.rules)
MOST_REMEDIES = 2


@dataclass(frozen=True)
class Verdict:
    """A chain solved at its contacts, its build, and everything that was found."""

    assessment: Assessment
    build: Build
    findings: tuple[Finding, ...]

    def found(self, where: Where) -> tuple[Finding, ...]:
        """What counts there, the gravest first."""
        return counting(self.findings, where)

    def stops(self, where: Where | None = None) -> tuple[Finding, ...]:
        """What must be mended before anything is plugged in, soldered, proved or set.

        Of some place those that count there; all of them where none is given.
        """
        return tuple(
            f
            for f in self.findings
            if f.severity == "stop" and (where is None or meaning(f.code).stops(where))
        )

    def of_wiring(self) -> tuple[Finding, ...]:
        """What rules of wiring found."""
        return tuple(f for f in self.findings if is_of_wiring(f))

    def remedies(self, finding: Finding) -> tuple[Remedy, ...]:
        """Fixes of a finding that were tried and work."""
        if is_of_wiring(finding):
            return _wiring_remedies(self, finding)
        return remedies(self.assessment, finding)


def verdict_of(
    station: Station,
    chain_id: str | None = None,
    variant_id: str | None = None,
    points: int = POINTS,
) -> Verdict:
    """Solve a variant at its contacts, at so many frequencies, and judge chain and build.

    Raises KeyError for unknown ids, CircuitError if there is no solution.
    """
    assessment = assess(station, chain_id, variant_id, points, contacts=True)
    build = build_of(station, assessment.solution, [r.speech_dbu for r in assessment.rows])
    case = WiringCase(assessment, build, points)
    found = [f for rule in RULES for f in rule(case)]
    return Verdict(assessment, build, gravest_first((*found, *assessment.findings)))


def is_of_wiring(finding: Finding) -> bool:
    """Whether a rule of wiring found it: it has a place on the build."""
    return bool(finding.place)


def _wiring_remedies(before: Verdict, finding: Finding) -> tuple[Remedy, ...]:
    """Fixes that were tried: the finding is gone, and no stop has come."""
    found = [r for fix in finding.fixes if (r := _tried(before, finding, fix))]
    return tuple({r.title: r for r in found}.values())[:MOST_REMEDIES]


def _tried(before: Verdict, finding: Finding, fix: Fix) -> Remedy | None:
    checkpoint()
    compiled = before.assessment.solution.compiled
    try:
        changed = fix.apply(before.assessment.station)
        after = verdict_of(changed, compiled.chain.id, compiled.variant.id)
    except (ValidationError, RefusedError, CircuitError):
        return None
    known = {f.key for f in before.stops()}
    now = [f for f in after.findings if f.severity != "fine"]
    if any(f.key == finding.key for f in now):
        return None
    adds = any(f.severity == "stop" and f.key not in known for f in now)
    # what the chain itself has once its wires are right was hidden, and is no fault of the fix
    if adds and fix.family != AS_PINNED:
        return None
    hum = after.assessment.rows[-1].hum_dbu
    return Remedy(
        title=fix.title,
        effect=effect(before.assessment, after.assessment, fix),
        leaves=tuple(f.code for f in now),
        effort=fix.effort,
        family=fix.family,
        whole=True,
        change=change_of(before.assessment, fix),
        leaves_hum_db=float("-inf") if hum is None else hum - after.assessment.rows[-1].speech_dbu,
    )
