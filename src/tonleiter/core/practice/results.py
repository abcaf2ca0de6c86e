"""What was played: kept in a file of the user's own, with the trend and what to play next.

``practice.json`` holds what is over; a riddle that is being played stands in no file.
"""

from __future__ import annotations

import json
from collections import defaultdict
from pathlib import Path
from typing import Literal

from pydantic import Field, ValidationError

from tonleiter.core.practice.play import Play
from tonleiter.core.practice.riddle import FAMILIES, Family
from tonleiter.core.station.disk import FileError, read_file, write_file
from tonleiter.core.station.value import Day, Value

FORMAT: Literal["tonleiter-practice"] = "tonleiter-practice"
VERSION: Literal[1] = 1
MOST = 5_000
# so many results make a trend: the newest against those before
TREND = 5


class Result(Value):
    """One riddle that is over."""

    day: Day
    family: Family
    kind: str = Field(min_length=1, max_length=60)
    seed: int = Field(ge=0, le=10**9)
    score: int = Field(ge=0, le=100)
    minutes: float = Field(ge=0, le=10_000)
    best_minutes: float = Field(ge=0, le=10_000)
    wrong: int = Field(0, ge=0, le=1_000)
    hints: int = Field(0, ge=0, le=1_000)
    unsafe: int = Field(0, ge=0, le=1_000)
    given_up: bool = False

    @property
    def solved(self) -> bool:
        """Whether it was found."""
        return not self.given_up


class Results(Value):
    """Everything that was played, the oldest first."""

    format: Literal["tonleiter-practice"] = FORMAT
    version: Literal[1] = VERSION
    played: tuple[Result, ...] = Field((), max_length=MOST)

    def plus(self, result: Result) -> Results:
        """With one more; the oldest give way."""
        return Results(played=(*self.played, result)[-MOST:])

    @property
    def trend(self) -> float | None:
        """By how many points the newest are better than those before; None for too few."""
        scores = [r.score for r in self.played]
        if len(scores) < 2 * TREND:
            return None
        now, before = scores[-TREND:], scores[-2 * TREND : -TREND]
        return sum(now) / TREND - sum(before) / TREND

    def next_family(self) -> Family:
        """What was missed most, or never played."""
        by: dict[Family, list[int]] = defaultdict(list)
        for r in self.played:
            by[r.family].append(r.score)
        return min(
            FAMILIES, key=lambda f: sum(by[f][-TREND:]) / len(by[f][-TREND:]) if by[f] else -1
        )

    def missed(self) -> tuple[str, ...]:
        """Kinds that were not found at once when played last, the newest first."""
        last: dict[str, Result] = {}
        for r in self.played:
            last[r.kind] = r
        bad = [r for r in last.values() if r.given_up or r.wrong or r.score < 50]
        return tuple(r.kind for r in reversed(bad))


def result_of(play: Play, day: str) -> Result:
    """What a riddle that is over came to."""
    score, riddle = play.score(), play.riddle
    return Result(
        day=day,
        family=riddle.family,
        kind=riddle.cause.kind[:60],
        seed=riddle.seed,
        score=score.total,
        minutes=round(score.minutes, 1),
        best_minutes=round(score.best_minutes, 1),
        wrong=len(play.wrong),
        hints=play.hints,
        unsafe=len(play.unsafe),
        given_up=play.given_up,
    )


def read_results(file: Path) -> Results:
    """What a file has; nothing where there is none. Raises FileError for another one."""
    if not file.exists():
        return Results()
    try:
        return Results.model_validate(json.loads(read_file(file)))
    except (ValidationError, ValueError, RecursionError) as error:
        line = str(error).splitlines()[0]
        raise FileError(
            f"{file}: these are no results of practice ({line}); left untouched"
        ) from None


def keep_results(file: Path, results: Results) -> None:
    """Write them, the old file or the new one. Raises FileError."""
    file.parent.mkdir(parents=True, exist_ok=True)
    write_file(file, (results.model_dump_json(indent=1) + "\n").encode())
