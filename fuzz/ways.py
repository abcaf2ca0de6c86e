"""Out of every trouble a way: chains that nobody chose, mended by what stands first, to the end.

What somebody would do who knows nothing: press the first remedy of the gravest trouble, and again,
until nothing is left or nothing more is offered. It must not go in circles, and no stop is left
without a way.
"""

from __future__ import annotations

import re
from collections import Counter
from pathlib import Path

from fuzz.campaign import Bound, Tally, attempt, generator
from fuzz.chains import chained, random_path
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.findings.model import SEVERITIES, Finding
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.station.model import Station

# nobody has patience for more
MOST_STEPS = 14
SLOW_S = 60.0


def ways(seed: int, bound: Bound, folder: Path) -> Tally:
    """Random chains of the library; each remedy that is followed counts as one tried."""
    rng, tally = generator(seed, "ways"), Tally("ways")
    library, again = list(parts_library().values()), Counter[str]()
    while not bound.reached(tally):
        path = random_path(rng, library)
        told = [g.id for g in path]
        attempt(tally, lambda: _follow(chained(path, rng), tally, told, again), told, SLOW_S)
    tally.notes = f"{again.total()} once more: {dict(again)}"
    return tally


def _troubles(found: Verdict) -> list[Finding]:
    """The gravest first, as they stand in the tray."""
    left = [f for f in found.findings if f.severity != "fine"]
    return sorted(left, key=lambda f: SEVERITIES.index(f.severity))


def _what(title: str) -> str:
    """What is done, without how far: nobody likes to be told the same thing once more."""
    return re.split(r" (?:to|at|from) \S*\d| \d", title)[0]


def _follow(station: Station, tally: Tally, told: list[str], again: Counter[str]) -> None:
    seen: list[str] = []
    done: set[str] = set()
    for _ in range(MOST_STEPS):
        tally.tried += 1
        found = verdict_of(station, station.chain().id)
        finding = None
        for one in _troubles(found):
            if offered := found.remedies(one):
                finding = one
                break
            if one.severity == "stop":
                tally.fault(f"a stop without a way: {one.code}", (told, one.says, one.proof))
        if finding is None:
            return
        mark = station.model_dump_json()
        if mark in seen:
            tally.fault("it goes in circles", (told, finding.code, offered[0].title))
            return
        seen.append(mark)
        if (what := _what(offered[0].title)) in done:
            again[what.split()[0]] += 1
        done.add(what)
        station = offered[0].change(station)
    tally.fault("no end to it", (told, finding.code if finding else "", offered[0].title))
