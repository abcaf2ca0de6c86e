"""Plans that are worth standing beside each other: none is another one with a needless pad."""

from __future__ import annotations

from collections.abc import Iterable

from tonleiter.core.gear.base import Gear
from tonleiter.core.plan.candidate import Candidate
from tonleiter.core.plan.styles import Style
from tonleiter.core.plan.weights import terms

# what somebody hears of a plan, or sets by it: a pad that lowers none of these is needless
HEARD = (
    "trouble",
    "beyond",
    "outside",
    "middle",
    "headroom",
    "noise",
    "hum",
    "bass",
    "treble",
    "near-end",
)
WORTH_A_PAD = 1.0


def distinct(ranked: Iterable[Candidate], style: Style) -> list[Candidate]:
    """The same, the best first, without those that only put a pad into one that stands before."""
    kept: list[Candidate] = []
    for candidate in ranked:
        if not any(_only_adds_a_pad(candidate, other, style) for other in kept):
            kept.append(candidate)
    return kept


def _only_adds_a_pad(candidate: Candidate, other: Candidate, style: Style) -> bool:
    """Whether it has a pad where the other has none, is alike otherwise, and betters nothing.

    A trim pot is more than a pad: it is something to turn, where there may be nothing else.
    """
    more, less = (sum(_is_fixed(g) for g in c.between) for c in (candidate, other))
    alike = _without_pads(candidate) == _without_pads(other)
    return more > less and alike and not _betters(candidate, other, style)


def _is_fixed(gear: Gear) -> bool:
    return gear.is_pad and not gear.by_hand


def _without_pads(candidate: Candidate) -> list[str]:
    return [g.kind_id for g in candidate.between if not _is_fixed(g)]


def _betters(candidate: Candidate, other: Candidate, style: Style) -> bool:
    """Whether somebody would hear it, or set it more easily."""
    purpose = other.assessment.solution.compiled.chain.purpose_facts
    now, then = (terms(c.figures, purpose, style) for c in (other, candidate))
    return any(then[name] <= now[name] - WORTH_A_PAD for name in HEARD)
