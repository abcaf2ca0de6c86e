"""How sure a finding is: the same rules run over draws of the uncertain figures.

Of the draws that give levels their bands, every fifth is solved and judged in full. A finding that
stands in all of them is certain; one that stands in most is likely; else it depends on a figure,
which is named so that the user knows what is worth measuring.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure
from tonleiter.core.judge.assess import Assessment, judge
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.solve.solution import DRAFT_POINTS
from tonleiter.core.solve.spread import Spread, rank_correlation, solve_spread
from tonleiter.core.stop import checkpoint
from tonleiter.core.words import within

Word = Literal["certain", "likely", "depends"]
JUDGED = 80
LIKELY_FROM = 2 / 3
# a finding of fewer draws than this is not worth a card
POSSIBLE_FROM = 0.1

Key = tuple[str, str]


@dataclass(frozen=True)
class Doubt:
    """Share of the draws in which a finding stands, and the figure it follows most."""

    share: float
    matters_most: str | None

    @property
    def word(self) -> Word:
        """In a word."""
        if self.share >= 1.0:
            return "certain"
        return "likely" if self.share >= LIKELY_FROM else "depends"

    def sentence(self) -> str:
        """For people: how sure, and what would make it surer."""
        if self.word == "certain":
            return "certain, whatever the ranges"
        on = f" on the {within(self.matters_most)}" if self.matters_most else ""
        if self.word == "likely":
            return f"likely; depends most{on}" if on else "likely"
        return f"depends{on}"


@dataclass(frozen=True)
class Doubts:
    """Doubts of the findings that stand, by key; findings that only some draws have."""

    of: dict[Key, Doubt]
    possible: tuple[tuple[Finding, Doubt], ...]


def doubts_of(assessment: Assessment) -> Doubts | None:
    """The same from the assessment on; None where nothing of it is uncertain."""
    spread = solve_spread(assessment.solution, assessment.rows)
    return None if spread is None else weigh(assessment, spread)


def weigh(assessment: Assessment, spread: Spread) -> Doubts:
    """Judge a fifth of the draws and count."""
    draws = spread.speech_dbu.shape[0]
    stood: dict[Key, list[int]] = {}
    seen: dict[Key, Finding] = {}
    judged: list[int] = []
    for draw in range(0, draws, max(1, draws // JUDGED)):
        checkpoint()
        found = as_drawn(assessment, spread, draw)
        if found is None:
            continue
        for finding in found.findings:
            if finding.severity != "fine":
                stood.setdefault(finding.key, []).append(len(judged))
                seen.setdefault(finding.key, finding)
        judged.append(draw)
    return _counted(assessment, spread, judged, stood, seen)


def as_drawn(assessment: Assessment, spread: Spread, draw: int) -> Assessment | None:
    """The chain with the figures of one draw; None where it has no solution."""
    compiled = assessment.solution.compiled
    by_stage: dict[str, dict[str, Figure]] = {}
    distance = None
    for figure in spread.figures:
        value = float(figure.draws[draw])
        if figure.stage == VOICE:
            distance = value
        else:
            by_stage.setdefault(figure.stage, {})[figure.field] = Figure(value=value)
    gear: dict[str, Gear] = {
        stage.id: stage.gear.model_copy(update=by_stage[stage.id])
        for stage in compiled.stages
        if stage.id in by_stage
    }
    try:
        drawn = compiled.again(assessment.station, gear, distance)
        return judge(assessment.station, drawn, DRAFT_POINTS)
    except CircuitError:
        return None


def _counted(
    assessment: Assessment,
    spread: Spread,
    judged: list[int],
    stood: dict[Key, list[int]],
    seen: dict[Key, Finding],
) -> Doubts:
    count = max(len(judged), 1)
    standing = {f.key for f in assessment.findings if f.severity != "fine"}
    doubts = {
        key: Doubt(len(stood.get(key, ())) / count, _follows(spread, judged, stood.get(key, [])))
        for key in standing | set(stood)
    }
    possible = [
        (seen[key], doubts[key])
        for key in stood
        if key not in standing and doubts[key].share >= POSSIBLE_FROM
    ]
    possible.sort(key=lambda p: -p[1].share)
    return Doubts({key: doubts[key] for key in standing}, tuple(possible))


def _follows(spread: Spread, judged: list[int], stood: list[int]) -> str | None:
    """Label of the figure whose rank goes most closely with the finding's presence."""
    if not 0 < len(stood) < len(judged):
        return None
    present = np.zeros(len(judged))
    present[stood] = 1.0
    strength = [abs(rank_correlation(f.draws[judged], present)) for f in spread.figures]
    return spread.figures[int(np.argmax(strength))].label
