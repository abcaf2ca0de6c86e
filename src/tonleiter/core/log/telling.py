"""What the history says: a lane for each microphone, what came after what, one sentence on top.

A change is held to have done something where reports before and after it differ by more than those
of one side among themselves usually do. That it came after is said; that it came of it is not.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from tonleiter.core.judge.findings.model import SEVERITIES, Severity
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.report_words import KINDNESS
from tonleiter.core.once import cached_property
from tonleiter.core.words import count_of, listed, sentence, the

# reports on either side of a change that are looked at, and by how much they must differ
BESIDE, APART = 5, 1.5
# nobody said anything for so long
QUIET_DAYS = 120
IN_A_ROW = 3
# what a line is of
By = Literal["microphone", "radio", "who"]
WITHOUT: dict[By, str] = {
    "microphone": "without a microphone", "radio": "without a radio", "who": "of nobody else",
}  # fmt: skip


@dataclass(frozen=True)
class Lane:
    """What happened to one microphone, the oldest first."""

    name: str
    chains: tuple[str, ...]
    entries: tuple[LogEntry, ...]

    @cached_property
    def reports(self) -> tuple[LogEntry, ...]:
        """Reports with a word that is known."""
        return tuple(e for e in self.entries if e.kindness is not None)

    @cached_property
    def changes(self) -> tuple[LogEntry, ...]:
        """What was changed."""
        return tuple(e for e in self.entries if e.kind in ("change", "build"))


@dataclass(frozen=True)
class Saying:
    """One thing that the history says: ``grave`` as a finding is; about which entries."""

    grave: Severity
    says: str
    proof: str
    lane: str
    about: tuple[LogEntry, ...] = ()
    word: str = ""


def lanes_of(entries: Sequence[LogEntry], by: By = "microphone") -> tuple[Lane, ...]:
    """A lane for each microphone, radio or person, as they were first written of."""
    by_name: dict[str, list[LogEntry]] = {}
    for entry in entries:
        name = {"microphone": entry.microphone, "radio": entry.radio, "who": entry.who}[by]
        by_name.setdefault(name or WITHOUT[by], []).append(entry)
    # what is nobody's stands under what is somebody's
    if (rest := by_name.pop(WITHOUT[by], None)) is not None:
        by_name[WITHOUT[by]] = rest
    made = []
    for name, every in by_name.items():
        own = tuple(every)
        chains = tuple(dict.fromkeys(e.chain for e in own if e.chain))
        made.append(Lane(name, chains, own))
    return tuple(made)


def sayings(lanes: Sequence[Lane], now: datetime) -> tuple[Saying, ...]:
    """What each lane says, the gravest and newest first."""
    made = [s for lane in lanes for s in _of_lane(lane, now)]

    def key(saying: Saying) -> tuple[int, float]:
        newest = max((e.utc.timestamp() for e in saying.about), default=0.0)
        return SEVERITIES.index(saying.grave), -newest

    return tuple(sorted(made, key=key))


def headline(entries: Sequence[LogEntry], made: Sequence[Saying]) -> str:
    """The sentence on top."""
    if not entries:
        return "Nothing is written yet: press N and type what the other station says."
    if made:
        return f"{made[0].says}."
    reports = sum(e.kind == "report" for e in entries)
    if reports:
        return f"{count_of(reports, 'report')}: too few beside a change to say what it did."
    return f"{count_of(len(entries), 'entry', 'entries')}, and no report yet."


def blamed(entry: LogEntry, lane: Lane) -> LogEntry | None:
    """What changed last before a report's worst word began; None where it was always there."""
    bad = [w for w in entry.words if KINDNESS.get(w, 0) < 0]
    if not bad:
        return None
    before = [e for e in lane.entries if e.utc < entry.utc]
    without = [e for e in before if e.kindness is not None and not set(bad) & set(e.words)]
    if not without:
        return None
    since = without[-1].utc
    changes = [e for e in before if e.kind in ("change", "build") and e.utc >= since]
    return changes[-1] if changes else None


def _of_lane(lane: Lane, now: datetime) -> list[Saying]:
    reports, made = lane.reports, []
    heard = [e.utc for e in reports]
    changed = [c.utc for c in lane.changes]
    for k, change in enumerate(lane.changes):
        at = bisect_left(heard, change.utc)
        earlier = bisect_right(heard, changed[k - 1]) if k else 0
        # of what was heard before an earlier change this one is not guilty
        before = list(reports[earlier:at] or reports[max(at - BESIDE, 0) : at])[-BESIDE:]
        until = bisect_left(heard, changed[k + 1]) if k + 1 < len(changed) else len(heard)
        after = list(reports[bisect_right(heard, change.utc) : until])[:BESIDE]
        if before and after:
            made += _moved(lane, change, before, after)
    if reports:
        newest = reports[-1]
        row = _row(reports)
        if row >= IN_A_ROW:
            since = reports[-row]
            made.append(
                Saying("fine", f"{_counted(row)} kind reports in a row", f"since {_day(since)}",
                       lane.name, tuple(reports[-row:]))
            )  # fmt: skip
        elif (newest.kindness or 0) < 0 and not any(
            s.about and newest is s.about[-1] for s in made
        ):
            made.append(_unanswered(lane, newest))
        days = (now - newest.when).days
        if days >= QUIET_DAYS:
            made.append(
                Saying("mind", f"No report of {the(lane.name)} for {round(days / 30)} months",
                       f"the last one, {_day(newest)}: {newest.says()}", lane.name, (newest,))
            )  # fmt: skip
    return made


def _moved(
    lane: Lane, change: LogEntry, before: list[LogEntry], after: list[LogEntry]
) -> list[Saying]:
    was = sum(e.kindness or 0 for e in before) / len(before)
    now = sum(e.kindness or 0 for e in after) / len(after)
    if abs(now - was) < APART:
        return []
    old, new = _usual(before, now > was), _usual(after, now < was)
    proof = f"{count_of(len(before), 'report')} before, {count_of(len(after), 'report')} after"
    about = (change, *before, *after)
    if now > was:
        says = f"Reports went from “{old}” to “{new}” after {_named(change)} in {_month(change)}"
        return [Saying("fine", says, proof, lane.name, about)]
    says = f"“{sentence(new)}” came after {_named(change)} in {_month(change)}"
    return [Saying("mind", says, proof, lane.name, about, new)]


def _unanswered(lane: Lane, report: LogEntry) -> Saying:
    bad = [w for w in report.words if KINDNESS[w] < 0]
    suspect = blamed(report, lane)
    proof = (
        f"changed last before it began: {_named(suspect)}, {_day(suspect)}"
        if suspect is not None
        else "nothing is written that changed before it"
    )
    says = f"“{sentence(bad[0])}”: a report of {_day(report)} that nothing answers yet"
    about = (report,) if suspect is None else (report, suspect)
    return Saying("mind", says, proof, lane.name, about, bad[0])


def _usual(reports: list[LogEntry], bad: bool) -> str:
    """The word that is said most, of the wanted side where there is one."""
    words = [w for e in reports for w in e.words]
    side = [w for w in words if (KINDNESS.get(w, 0) < 0) == bad] or words
    return Counter(side).most_common(1)[0][0]


def _row(reports: Sequence[LogEntry]) -> int:
    count = 0
    for report in reversed(reports):
        if (report.kindness or 0) <= 0:
            break
        count += 1
    return count


def _named(change: LogEntry) -> str:
    title = change.says()
    if change.changed and not change.title:
        title = listed(list(change.changed[:2]))
    return f"“{title}”"


def _day(entry: LogEntry) -> str:
    when = entry.when
    return f"{when.day} {when:%B}"


def _month(entry: LogEntry) -> str:
    return f"{entry.when:%B}"


def _counted(number: int) -> str:
    names = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")
    name = names[number] if number < len(names) else str(number)
    return sentence(name)
