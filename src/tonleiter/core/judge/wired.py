"""A chain solved at its contacts, its build, what was found in it, and remedies that were tried."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import ValidationError

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.assess import Assessment, assess
from tonleiter.core.judge.effect import effect
from tonleiter.core.judge.findings.model import SEVERITIES, Finding, Fix, Remedy
from tonleiter.core.judge.wiring import leads, plugs, soldering, switching
from tonleiter.core.judge.wiring.case import AS_PINNED, WiringCase
from tonleiter.core.refused import RefusedError
from tonleiter.core.solve.solution import POINTS
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.wiring.build import Build, build_of

RULES = (*soldering.rules, *plugs.rules, *switching.rules, *leads.rules)
# what concerns the sound of the chain is said on the Ladder too
_OF_THE_CHAIN = frozenset({
    soldering.HOT_COLD_SWAPPED, soldering.AUDIO_TRANSMIT_SWAPPED, soldering.SUPPLY_ON_WIRE,
    soldering.WRONG_CONTACT, soldering.WIRE_IN_AIR, soldering.TRANSMIT_HELD,
    soldering.CONTACTS_JOINED, plugs.RING_SHORTED, plugs.PLUG_DOES_NOT_FIT,
    switching.AUDIO_RETURN_SHARED, leads.SCREEN_BOTH_ENDS, leads.SCREEN_NOWHERE,
    leads.QUAD_SIDE_BY_SIDE,
})  # fmt: skip
# findings of the chain that are mended with an iron, and so are said here too
_OF_THE_WIRING = frozenset({
    "dc-through-winding", "capacitor-reversed", "earth-loop", "field-hum", "leakage-hum",
    "bridge-leg-grounded", "cold-leg-tied", "windings-clear", "hum-quiet",
})  # fmt: skip
MOST_REMEDIES = 2


@dataclass(frozen=True)
class Wired:
    """A build, solved and judged; ``findings`` are of the wiring, ``of_chain`` of the chain."""

    assessment: Assessment
    build: Build
    findings: tuple[Finding, ...]
    of_chain: tuple[Finding, ...]

    def everything(self) -> tuple[Finding, ...]:
        """All of them, the gravest first."""
        found = [*self.findings, *self.of_chain]
        return tuple(sorted(found, key=lambda f: SEVERITIES.index(f.severity)))


def wired(
    station: Station,
    chain_id: str | None = None,
    variant_id: str | None = None,
    points: int = POINTS,
) -> Wired:
    """Solve a variant at its contacts, at so many frequencies, and judge its build.

    Raises KeyError for unknown ids, CircuitError if there is no solution.
    """
    assessment = assess(station, chain_id, variant_id, points, contacts=True)
    build = build_of(station, assessment.solution, [r.speech_dbu for r in assessment.rows])
    case = WiringCase(assessment, build, points)
    found = [f for rule in RULES for f in rule(case)]
    found.sort(key=lambda f: SEVERITIES.index(f.severity))
    chain = tuple(f for f in assessment.findings if f.code in _OF_THE_WIRING)
    return Wired(assessment, build, tuple(found), chain)


def concern_the_chain(found: Wired) -> tuple[Finding, ...]:
    """What of a build's findings belongs on the Ladder."""
    return tuple(f for f in found.findings if f.code in _OF_THE_CHAIN and f.severity != "fine")


def is_of_wiring(finding: Finding) -> bool:
    """Whether a rule of wiring found it."""
    return bool(finding.place)


def wiring_remedies(before: Wired, finding: Finding) -> tuple[Remedy, ...]:
    """Fixes that were tried: the finding is gone, and no stop has come."""
    found = [r for fix in finding.fixes if (r := _tried(before, finding, fix))]
    return tuple({r.title: r for r in found}.values())[:MOST_REMEDIES]


def _tried(before: Wired, finding: Finding, fix: Fix) -> Remedy | None:
    checkpoint()
    compiled = before.assessment.solution.compiled
    try:
        after = wired(fix.apply(before.assessment.station), compiled.chain.id, compiled.variant.id)
    except (ValidationError, RefusedError, CircuitError):
        return None
    known = {f.key for f in (*before.findings, *before.assessment.findings) if f.severity == "stop"}
    now = [f for f in (*after.findings, *after.assessment.findings) if f.severity != "fine"]
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
        station=after.assessment.station,
        leaves_hum_db=float("-inf") if hum is None else hum - after.assessment.rows[-1].speech_dbu,
    )
