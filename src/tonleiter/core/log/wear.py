"""Batteries whose hours are over by the log: days on which a chain is written of, since the change.

Nobody writes down hours. A day that a chain is written of counts as an evening of use, and is said
to: what is left on between wears sooner, and the first word of it is a quiet report.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.report.drawings import battery_hours

# an evening round, and how much of a battery may be used before it is looked at
HOURS_A_DAY, LOOKED_AT = 2.0, 0.8
_NAMED = ("battery", "batteries", "cell", "cells")


@dataclass(frozen=True)
class Worn:
    """A battery: of which stage, how long it lasts, how long it was used, since which day."""

    stage: str
    hours: float
    used: float
    since: str


def worn(found: Verdict, entries: Iterable[LogEntry]) -> tuple[Worn, ...]:
    """Batteries of a chain that should be looked at, by what was written of it."""
    solution = found.assessment.solution
    lives = battery_hours(solution)
    if not lives:
        return ()
    compiled = solution.compiled
    own = [e for e in entries if e.chain_id == compiled.chain.id]
    made = []
    for stage in compiled.stages:
        if stage.id not in lives:
            continue
        changed = [e for e in own if _is_new_battery(e)]
        since = max(changed, key=lambda e: e.utc) if changed else None
        days = {e.when.date() for e in own if since is None or e.utc > since.utc}
        used = HOURS_A_DAY * len(days)
        if days and used >= LOOKED_AT * lives[stage.id]:
            first = since.when.date() if since is not None else min(days)
            made.append(Worn(stage.gear.name, lives[stage.id], used, first.isoformat()))
    return tuple(made)


def _is_new_battery(entry: LogEntry) -> bool:
    """Whether somebody wrote that a battery was changed or bought."""
    if entry.kind == "report":
        return False
    said = " ".join((entry.title, entry.text, *entry.tags, *entry.changed)).lower()
    return any(w in said.replace(",", " ").replace(".", " ").split() for w in _NAMED)
