"""Solve a chain, judge it, and try the remedies."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from pydantic import ValidationError

from tonleiter.core.judge.effect import effect
from tonleiter.core.judge.findings import (
    bias,
    bridge,
    close_talk,
    direct_current,
    earth,
    housing,
    level,
    loading,
    noise,
    phantom,
    squeeze,
)
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.direct_current import CAPACITOR_REVERSED
from tonleiter.core.judge.findings.model import (
    AMISS,
    Finding,
    Fix,
    Remedy,
    gravest_first,
    kept_to,
)
from tonleiter.core.refused import RefusedError
from tonleiter.core.solve.compiled import CompiledChain, compile_chain
from tonleiter.core.solve.corners import corners_hz
from tonleiter.core.solve.levels import (
    SILENT_DBU,
    StageLevels,
    VoiceLevels,
    stage_levels,
    voice_levels,
)
from tonleiter.core.solve.solution import POINTS, ChainSolution, solve_chain
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.words import the

RULES = (
    *bridge.rules,
    *direct_current.rules,
    *bias.rules,
    *level.rules,
    *loading.rules,
    *earth.rules,
    *squeeze.rules,
    *noise.rules,
    *close_talk.rules,
    *housing.rules,
    *phantom.rules,
)
MOST_REMEDIES = 3
# what mends one level by spoiling another stands behind a stage to be built
LEVEL_MOVED_ON = 5
# another level that gets worse by more than this is not left as it was
WORSE_DB = 1.0
# what backing off costs is missed where there was too little; boom itself is some 7 dB of a level
MISSED_DB = 10.0
# a fix that goes this far, in dB and of the whole way, is worth offering
PARTLY_DB, PARTLY_SHARE = 2.0, 0.35
# less hum by so much is worth what it takes, whatever else hums then
HUM_GONE_DB = 1.0


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
    contacts: bool = False,
) -> Assessment:
    """Solve and judge; ``contacts``: with every connector contact by contact.

    Raises KeyError for unknown ids, CircuitError if there is no solution.
    """
    compiled = compile_chain(station, chain_id, variant_id, contacts=contacts)
    return judge(station, compiled, points)


def judge(station: Station, compiled: CompiledChain, points: int = POINTS) -> Assessment:
    """Solve and judge what is compiled already. Raises CircuitError if there is no solution."""
    solution = solve_chain(compiled, points)
    rows = stage_levels(solution)
    case = Case(station, solution, rows)
    found = [finding for rule in RULES for finding in rule(case)]
    return Assessment(station, solution, voice_levels(solution), rows, gravest_first(found))


def change_of(of: Assessment, fix: Fix) -> Callable[[Station], Station]:
    """The edit of a fix for the chain that was assessed, and for no other."""
    compiled = of.solution.compiled
    pieces = (stage.gear for stage in compiled.variant.stages)
    return kept_to(pieces, compiled.chain.id, compiled.variant.id, fix)


def with_fix(before: Assessment, fix: Fix) -> Assessment:
    """The same chain with a fix: at its contacts, where it was judged at them.

    Raises RefusedError and ValidationError for what cannot be, CircuitError without a solution.
    """
    was = before.solution.compiled
    changed = fix.apply(before.station)
    return assess(changed, was.chain.id, was.variant.id, contacts=was.contacts)


def try_fix(before: Assessment, finding: Finding, fix: Fix) -> Remedy | None:
    """Apply a fix and compute what it leaves; None where it mends nothing, or adds a stop.

    One that goes a good part of the way is offered too, and says so; and so is one at the lips that
    adds nothing but a level which is wrong then (``levels_anew``).
    """
    done = _done(before, fix)
    if done is None:
        return None
    fix, after = done
    spoils = _spoils(before, after, finding)
    if spoils and (not finding.at_the_lips or _adds_a_stop(before, after, finding, True)):
        return None
    left = _left(before, after, finding)
    if left and not _helps(finding, left):
        return None
    hum = after.rows[-1].hum_dbu
    return Remedy(
        title=fix.title,
        effect=effect(before, after, fix, partly=bool(left)),
        leaves=tuple(f.code for f in after.findings if f.severity != "fine"),
        effort=fix.effort,
        family=fix.family,
        whole=not left,
        change=change_of(before, fix),
        levels_anew=spoils,
        level_elsewhere=_moves_the_level_on(before, after, finding),
        leaves_hum_db=float("-inf") if hum is None else hum - after.rows[-1].speech_dbu,
    )


def _helps(finding: Finding, left: list[Finding]) -> bool:
    """Whether what is left is the same trouble, and so much smaller that it is worth doing."""
    (was, now) = (finding.evidence.get("off_db"), left[0].evidence.get("off_db"))
    same = len(left) == 1 and left[0].key == finding.key
    if not same or was is None or now is None:
        return False
    gone = finding.severity == "stop" and left[0].severity == "mind"
    return gone or was - now >= max(PARTLY_DB, PARTLY_SHARE * was)


def _moves_the_level_on(before: Assessment, after: Assessment, finding: Finding) -> bool:
    """Whether a level, bass or boom is mended by another level that is wrong now, or more wrong."""
    means = meaning(finding.code)
    mends_level = means.level or means.bass
    if not (mends_level or finding.at_the_lips):
        return False
    was, now = (_levels_off_db(a) for a in (before, after))
    right, worse_db = (-math.inf, WORSE_DB) if mends_level else (0.0, MISSED_DB)
    return any(
        off_db > was.get(key, right) + worse_db for key, off_db in now.items() if key != finding.key
    )


def _levels_off_db(of: Assessment) -> dict[tuple[str, str], float]:
    """Levels that are wrong, and by how much."""
    return {
        f.key: f.evidence.get("off_db", 0.0)
        for f in of.findings
        if meaning(f.code).level and f.severity != "fine"
    }


def _low(of: Assessment) -> float:
    window = of.rows[-1].window
    return window.low_dbu if window else -math.inf


def _troubles(of: Assessment) -> set[tuple[str, str]]:
    return {f.key for f in of.findings if f.severity != "fine"}


def tried(before: Assessment, finding: Finding, fix: Fix) -> Assessment | None:
    """The chain after a fix; None unless the finding goes and no stop comes."""
    done = _done(before, fix)
    if done is None:
        return None
    _, after = done
    return None if _spoils(before, after, finding) or _left(before, after, finding) else after


def _left(before: Assessment, after: Assessment, finding: Finding) -> list[Finding]:
    """The same trouble, where it stays or has moved to a stage that did not have it.

    What another stage had all along is another finding's matter, by whatever name: where line
    level goes into a microphone socket its peaks are not spoken of, nor are they its fault that
    mended a stage before it.
    """
    elsewhere = _troubles(before) - {finding.key}
    hot = _too_hot(before) if meaning(finding.code).level else set()
    return [
        f
        for f in after.findings
        if f.code == finding.code
        and f.severity != "fine"
        and f.key not in elsewhere
        and (f.stage == finding.stage or f.severity != "stop" or f.stage not in hot)
    ]


def _too_hot(of: Assessment) -> set[str | None]:
    """Stages that get far too much, whether their peaks are clipped or it is line level."""
    return {f.stage for f in of.stops() if meaning(f.code).level}


def _done(before: Assessment, fix: Fix) -> tuple[Fix, Assessment] | None:
    """A fix, and the chain with it; None where that cannot be.

    An electrolytic that stands the wrong way round because of it is turned with it.
    """
    checkpoint()
    try:
        after = with_fix(before, fix)
        if (turned := _turned(before, after, fix)) is not None:
            fix, after = turned, with_fix(before, turned)
    except (ValidationError, RefusedError):
        return None
    return fix, after


def _turned(before: Assessment, after: Assessment, fix: Fix) -> Fix | None:
    """The same with the capacitor turned round that it put under volts of the wrong sign."""
    known = {f.key for f in before.stops()}
    wrong = [f for f in after.stops() if f.code == CAPACITOR_REVERSED and f.key not in known]
    if len(wrong) != 1 or not wrong[0].fixes:
        return None
    turn = wrong[0].fixes[0]
    was_there = any(row.id == wrong[0].stage for row in before.rows)
    name = next(row.name for row in after.rows if row.id == wrong[0].stage)
    title = f"{fix.title}; and turn the capacitor of {the(name)}" if was_there else fix.title
    return replace(fix, title=title, apply=lambda station: turn.apply(fix.apply(station)))


def _spoils(before: Assessment, after: Assessment, finding: Finding) -> bool:
    """Whether a fix adds a stop, or defeats itself."""
    return _adds_a_stop(before, after, finding) or _upsets_the_level(before, after, finding)


def _moves_all_levels(before: Assessment, finding: Finding) -> bool:
    """Whether the levels behind could not be judged, so that what they are then is no fault."""
    return before.rows[-1].speech_dbu < SILENT_DBU or meaning(finding.code).comes_first


def _upsets_the_level(before: Assessment, after: Assessment, finding: Finding) -> bool:
    """Whether the radio, content before, now gets too little: too much is soon turned down."""
    if _moves_all_levels(before, finding) or meaning(finding.code).level:
        return False
    radio = before.rows[-1].id
    known = _troubles(before)
    return any(
        f.stage == radio and meaning(f.code).level and after.rows[-1].speech_dbu < _low(after)
        for f in after.findings
        if f.key not in known and f.code != finding.code
    ) and not any(meaning(code).level and stage == radio for code, stage in known)


def _adds_a_stop(
    before: Assessment, after: Assessment, finding: Finding, levels_follow: bool = False
) -> bool:
    """Whether a stop stands after that did not stand before.

    The level of a dead or starved microphone could not be judged: once it lives, a level or a hum
    that was wrong all along may show, and is no fault of the fix.
    """
    known = {f.key for f in before.stops()}
    hot = _too_hot(before)
    silent = levels_follow or _moves_all_levels(before, finding)
    # a loop that goes leaves the hum that it hid
    calmer = meaning(finding.code).hum and _hum_dbu(after) < _hum_dbu(before) - HUM_GONE_DB
    # hum that is heard already is graver under less speech: no fault of what takes level off
    takes_off = meaning(finding.code).level
    heard = {f.code for f in before.findings if takes_off and f.severity != "fine"}
    new = [
        f
        for f in after.stops()
        if f.key not in known
        and not (meaning(f.code).level and f.stage in hot)
        and not (meaning(f.code).hum and (calmer or f.code in heard))
    ]
    return any(not (silent and (meaning(f.code).level or meaning(f.code).hum)) for f in new)


def _hum_dbu(of: Assessment) -> float:
    hum = of.rows[-1].hum_dbu
    return -math.inf if hum is None else hum


def remedies(before: Assessment, finding: Finding) -> tuple[Remedy, ...]:
    """Fixes that were tried and work, in the order in which people would try them.

    A case that is opened, a source that is matched, lips that back off: where none leaves the
    levels as they are, one does it all the same, and sets them anew.
    """
    found = [r for fix in finding.fixes if (r := try_fix(before, finding, fix))]
    found = [r for r in found if not r.levels_anew] or found
    unique = {r.title: r for r in found}.values()
    hums = meaning(finding.code).hum
    known = {f.code for f in before.findings}

    def rank(remedy: Remedy) -> tuple[object, ...]:
        # in the order in which people try; what goes part of the way, and each trouble that a
        # remedy brings, is as if one had to do more. For hum, what leaves least of it.
        leaves = len(remedy.leaves)
        if hums:
            return not remedy.whole, remedy.effort != AMISS, leaves, remedy.leaves_hum_db
        brings = len(set(remedy.leaves) - known)
        # a level that is only moved on is turned back at once: in circles
        moved = LEVEL_MOVED_ON * remedy.level_elsewhere
        worth = remedy.effort + 2 * brings + 2 * (not remedy.whole) + moved
        return worth, not remedy.whole, leaves

    best: dict[str, Remedy] = {}
    for remedy in sorted(unique, key=rank):
        best.setdefault(remedy.family or remedy.title, remedy)
    return tuple(best.values())[:MOST_REMEDIES]


def presence_db(assessment: Assessment) -> float:
    """Response at 2 kHz against 500 Hz."""
    f_hz, gain = assessment.solution.f_hz, assessment.solution.gain_db()
    at_2k, at_500 = np.interp([2000.0, 500.0], f_hz, gain)
    return float(at_2k - at_500)
