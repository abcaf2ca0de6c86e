"""Answers to "why?" of chains that nobody chose: nothing raises, sums hold, figures are figures."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path

from fuzz.campaign import Bound, Tally, attempt, generator
from fuzz.chains import chained, random_path
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.report.why.at_end import why_bass, why_hum, why_knob, why_noise, why_room
from tonleiter.core.report.why.finding import why_finding
from tonleiter.core.report.why.level import why_level
from tonleiter.core.report.why.model import Why

# of a level's steps: each is printed to a tenth, and twentieths are left out
SUMS_WITHIN_DB = 0.15
MOST_LINES = 10
# ten answers, each with the chain solved some fifty times
SLOW_S = 60.0


def whys(seed: int, bound: Bound, folder: Path) -> Tally:
    """Random chains of the library; each answer counts as one tried."""
    rng, tally = generator(seed, "whys"), Tally("whys")
    library = list(parts_library().values())
    while not bound.reached(tally):
        path = random_path(rng, library)
        attempt(tally, lambda: _ask(path, rng, tally), [g.id for g in path], SLOW_S)
    return tally


def _ask(path: list[Gear], rng: random.Random, tally: Tally) -> None:
    """Everything that can be asked of a chain; what cannot be solved is refused in a line."""
    found = _judged(path, rng)
    for why in _answers(found, rng):
        tally.tried += 1
        _check(why, found, tally)


def _judged(path: list[Gear], rng: random.Random) -> Verdict:
    station = chained(path, rng)
    return verdict_of(station, station.chain().id)


def _answers(found: Verdict, rng: random.Random) -> Iterator[Why]:
    now = found.assessment
    made = [why_level(now), why_knob(now), why_noise(now), why_bass(now), why_hum(now)]
    made += [why_room(now, k) for k in range(len(now.rows))]
    if found.findings:
        made.append(why_finding(now, rng.choice(found.findings)))
    yield from (why for why in made if why is not None)


def _check(why: Why, found: Verdict, tally: Tally) -> None:
    lines = (*why.steps, *why.hangs)
    for step in lines:
        if any(odd in step.value for odd in ("nan", "inf", "—")):
            tally.fault(f"no figure: {step.says}", ValueError(f"{why.asks} {step}"))
    if len(lines) > MOST_LINES:
        tally.fault("too long", ValueError(why.asks))
    sums = [s.db for s in why.steps if s.db is not None]
    if len(sums) > 1:
        off = abs(sum(sums) - found.assessment.rows[-1].speech_dbu)
        if off > SUMS_WITHIN_DB:
            tally.fault("steps do not add up", ValueError(f"{why.asks}: {off:.2f} dB"))
