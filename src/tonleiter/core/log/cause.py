"""From a word of a report to its cause: what the history, the chain and the panel say, then tests.

Each cause carries odds. An answer to its test raises or lowers them (Bayes, with tests that are
right in nine of ten cases); the next test is the one that tells most for its minutes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import get_args

from tonleiter.core.guide.controls import at
from tonleiter.core.judge.findings.model import Fix
from tonleiter.core.judge.verdict import Verdict, is_of_wiring
from tonleiter.core.listen.words import Word
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.report_words import found_in, worst
from tonleiter.core.log.usual import USUAL, Place, Usual
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.heard_causes import of_chain
from tonleiter.core.station.settings import KNOBS, PanelState

# weights against what is merely usual: a stop or a finding of the chain that sounds so, a knob that
# stands so, what changed last before it began
STOP, FOUND, KNOB, HISTORY = 12.0, 6.0, 5.0, 8.0
# a test that is answered yes, where its cause is the one; and where it is not
RIGHT, WRONG = 0.9, 0.08
STANDS_OUT = 0.6
MOST = 12


class SymptomError(RefusedError):
    """Words in which no symptom is; one line says which are known."""


@dataclass(frozen=True)
class Cause:
    """One possible cause: what speaks for it, what would confirm it, what was answered."""

    says: str
    why: str
    weight: float
    test: str
    minutes: int
    where: Place
    fixes: tuple[Fix, ...] = ()
    answered: bool | None = None


@dataclass(frozen=True)
class Search:
    """Causes of one word, and what was answered so far."""

    word: str
    causes: tuple[Cause, ...]

    @property
    def odds(self) -> tuple[float, ...]:
        """How likely each is, of those that are listed; they add up to one."""
        every = [self._weight(k) for k in range(len(self.causes))]
        total = sum(every) or 1.0
        return tuple(w / total for w in every)

    def _weight(self, k: int) -> float:
        weight = self.causes[k].weight
        for j, cause in enumerate(self.causes):
            if cause.answered is not None:
                yes = RIGHT if j == k else WRONG
                weight *= yes if cause.answered else 1 - yes
        return weight

    @property
    def ranked(self) -> tuple[tuple[Cause, float], ...]:
        """The likeliest first."""
        return tuple(sorted(zip(self.causes, self.odds, strict=True), key=lambda c: -c[1]))

    @property
    def found(self) -> Cause | None:
        """The one that stands out: confirmed, or what is left."""
        if not self.causes:
            return None
        first, share = self.ranked[0]
        open_ = [c for c in self.causes if c.answered is None]
        return first if share >= STANDS_OUT and (first.answered or not open_) else None

    @property
    def next_test(self) -> Cause | None:
        """The open test that tells most for its minutes."""
        odds = dict(zip((c.says for c in self.causes), self.odds, strict=True))
        left = [c for c in self.causes if c.answered is None]
        return max(left, key=lambda c: _bits(odds[c.says]) / (1 + c.minutes) ** 0.5, default=None)

    def answer(self, says: str, yes: bool) -> Search:
        """The test of one came out so."""
        made = tuple(replace(c, answered=yes) if c.says == says else c for c in self.causes)
        return replace(self, causes=made)

    def headline(self) -> str:
        """Where it stands, in a sentence."""
        if (found := self.found) is not None:
            return f"“{self.word}” comes of this: {found.says}"
        tried = sum(c.answered is not None for c in self.causes)
        first, share = self.ranked[0]
        if tried == len(self.causes):
            return f"None of these was it: what is left is rarer. Likeliest still: {first.says}"
        return f"Likeliest: {first.says} ({100 * share:.0f} %)"


def _bits(share: float) -> float:
    """What the answer to the test of a cause with this share tells, in bits."""
    yes = share * RIGHT + (1 - share) * WRONG

    def entropy(p: float) -> float:
        return 0.0 if p <= 0 or p >= 1 else -p * math.log2(p) - (1 - p) * math.log2(1 - p)

    return entropy(yes) - share * entropy(RIGHT) - (1 - share) * entropy(WRONG)


def symptom_in(text: str) -> str:
    """The gravest word of what somebody says. Raises SymptomError."""
    word = worst(found_in(text))
    if word is None:
        raise SymptomError(f"no symptom is known in “{text[:60]}”; known are: {', '.join(USUAL)}")
    return word


def search(
    word: str,
    verdict: Verdict | None,
    panel: PanelState | None = None,
    changed: LogEntry | None = None,
) -> Search:
    """Everything that may stand behind a word. Raises SymptomError for one that is none."""
    if word not in USUAL:
        raise SymptomError(f"“{word}” is no symptom; known are: {', '.join(USUAL)}")
    made: list[Cause] = []
    if changed is not None:
        back = changed.way_back or "as the entry says it was"
        made.append(
            Cause(f"what was changed last: {changed.says()}",
                  f"{changed.when.day} {changed.when:%B}, before it began", HISTORY,
                  f"Turn it back ({back}): is it gone?", 5, "set")
        )  # fmt: skip
    made += _of_chain(word, verdict)
    made += [_of_usual(u, panel) for u in USUAL[word]]
    return Search(word, tuple({c.says: c for c in made[::-1]}.values())[::-1][:MOST])


def _of_chain(word: str, verdict: Verdict | None) -> Sequence[Cause]:
    heard = word.replace(" ", "-") if word == "off frequency" else word
    if heard not in get_args(Word):
        return ()
    made = []
    for finding in of_chain(heard, verdict):  # type: ignore[arg-type]
        place: Place = "wire" if is_of_wiring(finding) else "ladder"
        fix = finding.fixes[0].title if finding.fixes else "as it is mended there"
        made.append(
            Cause(finding.says, finding.proof, STOP if finding.severity == "stop" else FOUND,
                  f"{fix}: is it gone?", 10, place, finding.fixes)
        )  # fmt: skip
    return made


def _of_usual(usual: Usual, panel: PanelState | None) -> Cause:
    weight, why = usual.often, "usual"
    if usual.knob is not None and panel is not None:
        value = at(panel, usual.knob)
        stands = (usual.above is not None and value > usual.above) or (
            usual.below is not None and value < usual.below
        )
        face = KNOBS[usual.knob]
        why = f"{face.title} stands at {value:g} {face.unit}".strip()
        weight = weight * KNOB if stands else weight / KNOB
    return Cause(usual.says, why, weight, usual.test, usual.minutes, usual.where)
