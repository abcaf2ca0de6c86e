"""The command `learn`: what readings teach of a chain's figures."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.chain import solved
from tonleiter.cli.common import RAN, BadInputError, print_json
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.explained import explained
from tonleiter.core.learn.gathered import Lesson, lesson_of, marked_to, words_at_line
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.reading import EXAMPLES, parse_reading, words_of
from tonleiter.core.learn.result import QUESTIONS, Learned, Range, from_readings
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.files import read_station

MOST_READINGS, MOST_NEXT = 30, 5


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    made = commands.add_parser("learn", help="what readings teach of the figures of a chain")
    made.add_argument("station", type=Path, metavar="STATION")
    made.add_argument("--chain", metavar="ID", help="default: the open chain")
    made.add_argument("--variant", metavar="ID", help="default: the variant shown")
    made.add_argument(
        "--read", action="append", default=[], metavar="READING",
        help=f"{EXAMPLES}; beside those that the station keeps, as often as there are some",
    )  # fmt: skip
    made.add_argument("--ask", choices=QUESTIONS, help="what one wants to know; default: the knob")
    made.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    made.set_defaults(run=_learn)


def _learn(options: argparse.Namespace) -> int:
    if len(options.read) > MOST_READINGS:
        raise BadInputError(f"{len(options.read)} readings: up to {MOST_READINGS} are wanted")
    opened = read_station(options.station)
    found = solved(opened.station, options, verdict_of)
    lesson = lesson_of(opened.station, opened.records, found)
    compiled = found.assessment.solution.compiled
    stages = tuple(s.id for s in compiled.stages)
    scale = marked_to(basis_of(opened.station, compiled.chain.id, compiled.variant.id))
    lesson = lesson.with_read([parse_reading(text, stages, scale) for text in options.read])
    made = learn(
        lesson.model, lesson.counted, question=options.ask, owned=opened.station.instruments
    )
    if options.json:
        print_json(_report(made, lesson))
        return RAN
    print(made.says())
    for line in lesson.lines:
        if line.why_not:
            what = words_at_line(line, lesson.name(line.stage))
            print(f"  not counted: {what}: {line.typed}; {line.why_not}")
    for figure in made.figures:
        if figure.told:
            print(f"  {figure.parameter.label}: {' to '.join(figure.said(figure.before))} as typed,"
                  f" {' to '.join(figure.said(figure.after))} learned, from"
                  f" {from_readings(figure.readings)}")  # fmt: skip
    for odd in made.odd:
        print(f"  does not fit: {odd.says()}")
        why = (*odd.suspects, *explained(found, odd.reading, lesson.counted))
        if why:
            print(f"    it would be explained by {'; or '.join(why)}")
    for one in made.next_[:MOST_NEXT]:
        print(f"  next: {words_of(one.kind, lesson.name(one.stage))}: {one.minutes:.0f} min,"
              f" {one.with_what}; {one.promise()}")  # fmt: skip
    return RAN


def _report(made: Learned, lesson: Lesson) -> dict[str, Any]:
    def ends(shown: Range) -> list[float]:
        return [shown.low, shown.high]

    return {
        "says": made.says(),
        "question": made.question,
        "before": ends(made.before),
        "after": ends(made.after),
        "minutes": made.minutes,
        "readings": [
            {
                "source": line.source,
                "key": line.key,
                "kind": line.kind,
                "stage": line.stage,
                "words": words_at_line(line, lesson.name(line.stage)),
                "typed": line.typed,
                "day": line.day,
                "why_not": line.why_not,
            }
            for line in lesson.lines
        ],
        "trail": [
            {"words": s.words, "typed": s.reading.typed, "after": s.after and ends(s.after)}
            for s in made.trail
        ],
        "figures": [
            {
                "stage": f.stage,
                "field": f.parameter.field,
                "before": ends(f.before),
                "after": ends(f.after),
                "told": f.told,
                "readings": f.readings,
            }
            for f in made.figures
        ],
        "odd": [
            {
                "kind": o.reading.kind,
                "stage": o.reading.stage,
                "typed": o.reading.typed,
                "expected": list(o.ends),
                "suspects": list(o.suspects),
            }
            for o in made.odd
        ],
        "next": [
            {
                "kind": n.kind,
                "stage": n.stage,
                "shrinks": n.shrinks,
                "minutes": n.minutes,
                "with": n.with_what,
            }
            for n in made.next_
        ],
    }
