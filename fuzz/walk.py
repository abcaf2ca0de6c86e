"""Allowed figures walked over their bounds: what a piece builds from them never fails."""

from __future__ import annotations

import random
import warnings
from collections.abc import Iterator
from pathlib import Path
from typing import Any, get_args

from pydantic import ValidationError

from fuzz.campaign import Bound, Tally, attempt, generator
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Quantity
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.station.model import Station


def kinds() -> list[Gear]:
    """One piece of each kind."""
    found: dict[str, Gear] = {}
    for entry in parts_library().values():
        found.setdefault(entry.kind_id, entry)
    return list(found.values())


def ends(quantity: Quantity) -> list[float]:
    """Both bounds, just inside the lower one, and the middle."""
    low, high = quantity.low, quantity.high
    return sorted({low, high, low * 1.001 if low > 0 else 0.0, quantity.middle(low, high)})


def around(piece: Gear) -> list[Gear]:
    """A chain with the piece in it."""
    by_role = {g.role: g for g in kinds()}
    if piece.role == "microphone":
        return [piece, by_role["input"]]
    if piece.role == "input":
        return [parts_library()["stage-dynamic-300"], piece]
    return [parts_library()["stage-dynamic-300"], piece, by_role["input"]]


def station_of(path: list[Gear]) -> Station:
    """A station with one chain."""
    chain = {
        "id": "c",
        "name": "c",
        "operator": "op",
        "shown": "v",
        "distance_mm": 25,
        "variants": [{"id": "v", "name": "v", "stages": [{"gear": g.id} for g in path]}],
    }
    return Station.model_validate(
        {
            "title": "walk",
            "operators": [{"id": "op", "name": "op"}],
            "gear": [g.model_dump(mode="json") for g in path],
            "chains": [chain],
        }
    )


def check(path: list[Gear], with_remedies: bool = False) -> None:
    """Build, save to data and back, solve, judge. Raises AssertionError for levels that are none."""
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        station = station_of(path)
        if Station.model_validate(station.model_dump(mode="json")) != station:
            raise AssertionError("a station reads back otherwise")
        assessment = assess(station, points=12)
        if any(r.speech_dbu != r.speech_dbu or r.noise_dbu != r.noise_dbu for r in assessment.rows):
            raise AssertionError("a level is not a number")
        if with_remedies:
            for finding in assessment.findings:
                remedies(assessment, finding)


def alone() -> Iterator[tuple[Gear, str]]:
    """Every figure of every kind at each of its ends, where the piece's own rules allow it."""
    for piece in kinds():
        for field, (quantity, _) in piece.figures().items():
            for value in ends(quantity):
                try:
                    yield piece.with_values({field: value}), f"{piece.kind_id} {field}={value:g}"
                except ValidationError:
                    continue


def wild(piece: Gear, rng: random.Random, share: float) -> Gear:
    """Some figures at their ends, some words changed; the piece as it was if that cannot be."""
    values: dict[str, Any] = {
        f: rng.choice(ends(q)) for f, (q, _) in piece.figures().items() if rng.random() < share
    }
    for field, info in type(piece).model_fields.items():
        words = get_args(info.annotation)
        if field != "kind" and words and all(isinstance(w, str) for w in words) and info.title:
            values |= {field: rng.choice(words)} if rng.random() < share else {}
    try:
        return piece.with_values(values)
    except ValidationError:
        return piece


def walk(seed: int, bound: Bound, _: Path) -> Tally:
    """Figures alone, in pairs and more, and wild pieces in chains of up to six."""
    tally, rng = Tally("walk"), generator(seed, "walk")
    for piece, words in alone():
        if bound.reached(tally):
            return tally
        attempt(tally, lambda piece=piece: check(around(piece)), words)
    pool = kinds()
    by_role = {r: [g for g in pool if g.role == r] for r in ("microphone", "between", "input")}
    while not bound.reached(tally):
        if rng.random() < 0.5:
            piece = wild(rng.choice(pool), rng, rng.choice((0.1, 0.3, 1.0)))
            attempt(tally, lambda: check(around(piece)), repr(piece)[:300])
            continue
        path = [
            wild(rng.choice(by_role["microphone"]), rng, 0.2),
            *(wild(g, rng, 0.2) for g in rng.sample(by_role["between"], rng.randint(0, 4))),
            wild(rng.choice(by_role["input"]), rng, 0.2),
        ]
        attempt(tally, lambda: check(path, rng.random() < 0.15), [g.kind_id for g in path])
    return tally
