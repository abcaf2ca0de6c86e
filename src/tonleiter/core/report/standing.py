"""How a whole station stands today, in one line: for the list of stations, before one is opened."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.findings.model import Severity
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.headline import headline
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.words import count_of, within

Judge = Callable[[Station, str], Verdict]


@dataclass(frozen=True)
class Standing:
    """One line, and how grave it is; ``open`` where nothing can be judged yet."""

    says: str
    grave: Severity | Literal["open"]


def standing(station: Station, judge: Judge = verdict_of) -> Standing:
    """The gravest of any chain; else how the open chain stands. Raises StoppedError."""
    if not station.gear:
        return Standing("Nothing is on the shelf yet.", "open")
    if not station.chains:
        pieces = count_of(len(station.gear), "piece")
        return Standing(f"{pieces} on the shelf, no chain yet: see what goes with what.", "open")
    stopped, opened, dark = [], None, []
    for chain in station.chains:
        checkpoint()
        try:
            found = judge(station, chain.id)
        except (CircuitError, RefusedError):
            dark.append(chain)
            continue
        if chain.id == station.chain().id:
            opened = found
        if stops := found.stops():
            stopped.append((chain, stops[0]))
    if stopped:
        # the chain that is open is what somebody thinks of when they see the name
        chain, stop = next((s for s in stopped if s[0].id == station.chain().id), stopped[0])
        more = len(stopped) - 1
        also = "" if not more else " So does one more." if more == 1 else f" So do {more} more."
        return Standing(f"“{chain.name}” wants mending first: {within(stop.says)}.{also}", "stop")
    if dark:
        return Standing(f"“{dark[0].name}” cannot be computed as it stands.", "stop")
    if opened is None:
        return Standing("", "open")
    minds = any(f.severity == "mind" for f in opened.findings)
    gravest: Severity = "mind" if minds else "fine"
    return Standing(headline(opened.assessment, ()).says, gravest)
