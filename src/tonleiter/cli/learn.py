"""The command `learn`: what readings teach of a chain's figures."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.chain import solved
from tonleiter.cli.common import RAN, BadInputError, print_json
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.learned import Learned, Range, learn
from tonleiter.core.learn.reading import parse_reading, words_of
from tonleiter.core.station.files import read_station

MOST_READINGS = 30


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    made = commands.add_parser("learn", help="what readings teach of the figures of a chain")
    made.add_argument("station", type=Path, metavar="STATION")
    made.add_argument("--chain", metavar="ID", help="default: the open chain")
    made.add_argument("--variant", metavar="ID", help="default: the variant shown")
    made.add_argument(
        "--read", action="append", default=[], metavar="READING",
        help="open=7.9, volts@STAGE=2.31, speech@STAGE=1mV or knob=58; as often as there are some",
    )  # fmt: skip
    made.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    made.set_defaults(run=_learn)


def _learn(options: argparse.Namespace) -> int:
    if len(options.read) > MOST_READINGS:
        raise BadInputError(f"{len(options.read)} readings: up to {MOST_READINGS} are wanted")
    found = solved(read_station(options.station).station, options, verdict_of)
    stages = tuple(s.id for s in found.assessment.solution.compiled.stages)
    readings = [parse_reading(text, stages) for text in options.read]
    made = learn(found.assessment, readings)
    if options.json:
        print_json(_report(made))
        return RAN
    print(made.headline())
    for figure in made.figures:
        if figure.told:
            print(f"  {figure.parameter.label}: {' to '.join(figure.said(figure.before))} as typed,"
                  f" {' to '.join(figure.said(figure.after))} learned")  # fmt: skip
    for odd in made.odd:
        print(f"  does not fit: {odd.says()}")
    for one in made.next_[:5]:
        print(f"  next: {words_of(one.kind, one.stage)}: {one.minutes:.0f} min, {one.with_what};"
              f" {100 * one.shrinks:.0f} % less doubt")  # fmt: skip
    return RAN


def _report(made: Learned) -> dict[str, Any]:
    def ends(shown: Range) -> list[float]:
        return [shown.low, shown.high]

    return {
        "says": made.headline(),
        "before": ends(made.before),
        "after": ends(made.after),
        "figures": [
            {
                "stage": f.stage,
                "field": f.parameter.field,
                "before": ends(f.before),
                "after": ends(f.after),
                "told": f.told,
            }
            for f in made.figures
        ],
        "odd": [
            {
                "kind": o.reading.kind,
                "stage": o.reading.stage,
                "typed": o.reading.typed,
                "expected": ends(o.expected),
            }
            for o in made.odd
        ],
        "next": [
            {"kind": n.kind, "stage": n.stage, "shrinks": n.shrinks, "minutes": n.minutes}
            for n in made.next_
        ],
    }
