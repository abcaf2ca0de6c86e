"""Why a finding stands: the figures that prove it, how they came about, on what they hang."""

from __future__ import annotations

from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.report.why.at_end import why_bass, why_hum, why_noise, why_room
from tonleiter.core.report.why.evidence import proofs, spoken
from tonleiter.core.report.why.hangs import hangs_on
from tonleiter.core.report.why.level import why_level
from tonleiter.core.report.why.model import MOST_STEPS, Step, Why
from tonleiter.core.words import the, within

# less than insulation leaves is no current, nor any volts
LEAST_A = 1e-9


def why_finding(now: Assessment, finding: Finding) -> Why:
    """What proves it, out of the solution. Raises StoppedError."""
    asks = f"Why: {within(finding.says)}?"
    at = next((k for k, r in enumerate(now.rows) if r.id == finding.stage), None)
    led = _led(now, finding, at)
    figures = proofs(finding)
    if led is not None:
        # the figures that the rule went by first, then how the quantity came about
        shown = tuple(p for p in figures if p.value not in {s.value for s in led.steps})
        room = MOST_STEPS - len(led.steps) - min(len(led.hangs), 2)
        return Why(asks, (*shown[: max(room, 0)], *led.steps), led.hangs, finding.code)
    steps = figures or _said(finding)
    told = Why(asks, (*steps, *_of_dc(now, finding, at)), code=finding.code)
    key = next(iter(finding.evidence), None)
    if key is None or at is None:
        return told
    return told.with_hangs(
        hangs_on(
            now,
            lambda a: _evidence(a, finding, key),
            lambda v: spoken(key, v),
            "this would not stand any more",
        )
    )


def why_alone(finding: Finding) -> Why:
    """What proves a finding that rests on no solved chain: a recording's, a log's."""
    asks = f"Why: {within(finding.says)}?"
    return Why(asks, proofs(finding) or _said(finding), code=finding.code)


def _led(now: Assessment, finding: Finding, at: int | None) -> Why | None:
    """How the quantity came about that a finding is about; None where that is no such one."""
    means = meaning(finding.code)
    if means.hum:
        return why_hum(now)
    if means.noise:
        return why_noise(now)
    if means.bass:
        return why_bass(now)
    if "headroom_db" in finding.evidence and at is not None:
        return why_room(now, at)
    if means.level or "speech_dbu" in finding.evidence:
        return why_level(now)
    return None


def _evidence(now: Assessment, finding: Finding, key: str) -> float | None:
    """The same figure of the same finding; None where that does not stand."""
    found = next((f for f in now.findings if f.key == finding.key), None)
    return None if found is None else found.evidence.get(key)


def _said(finding: Finding) -> tuple[Step, ...]:
    """A finding without figures is proved by what its rule says, part by part."""
    parts = [p.strip() for p in finding.proof.split(";") if p.strip()]
    return tuple(Step(part, "", finding.stage) for part in parts)


def _of_dc(now: Assessment, finding: Finding, at: int | None) -> tuple[Step, ...]:
    """What DC does at the place, where the finding is about DC."""
    about = any(k.endswith(("_v", "_ma", "_a")) for k in finding.evidence)
    if not about or at is None:
        return ()
    row = now.rows[at]
    steps = [Step(f"DC at the outlet of {the(row.name)}", spoken("dc_v", row.dc_v), row.gear.id)]
    if abs(row.dc_a) > LEAST_A:
        steps.append(Step("and through that joint", spoken("dc_a", abs(row.dc_a))))
    return tuple(steps)
