"""The commands `measure` and `compare`: recordings, without a window."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.common import RAN, BadInputError, print_json
from tonleiter.core.listen.compare import Comparison
from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import survey_file
from tonleiter.core.listen.words import heard
from tonleiter.core.report.listen_report import (
    compare_report,
    csv_of,
    figures_of,
    measure_report,
    said,
)
from tonleiter.core.units.levels import signed

MOST_FILES = 200


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the commands to a parser's subparsers."""
    measure = commands.add_parser("measure", help="what recordings measure, in figures and words")
    measure.add_argument("files", type=Path, nargs="+", metavar="FILE")
    measure.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    measure.add_argument("--csv", action="store_true", help="print a line for each file")
    measure.set_defaults(run=_measure)
    compare = commands.add_parser("compare", help="what changed from one recording to others")
    compare.add_argument("one", type=Path, metavar="A")
    compare.add_argument("others", type=Path, nargs="+", metavar="B")
    compare.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    compare.set_defaults(run=_compare)


def _measure(options: argparse.Namespace) -> int:
    if len(options.files) > MOST_FILES:
        raise BadInputError(f"{len(options.files)} files: up to {MOST_FILES} at once are wanted")
    made = [(str(f), Measures(survey_file(f))) for f in options.files]
    if options.json:
        print_json([measure_report(name, m) for name, m in made])
    elif options.csv:
        print(csv_of(made), end="")
    else:
        for name, m in made:
            _print(name, m)
    return RAN


def _print(name: str, m: Measures) -> None:
    s = m.survey
    print(f"{name}: {s.seconds:.1f} s, {s.rate_hz} Hz, {s.channels} channels")
    for remark in s.remarks:
        print(f"  {remark}")
    print(f"  {', '.join(h.says for h in heard(m)) or 'nothing can be said of it'}")
    for title, _, unit, told in figures_of(m):
        print(f"  {title:22}{said(told, unit)}")
    hum = m.hum
    if hum.mains_under_db is not None:
        print(f"  {'Hum, ' + str(hum.mains_hz) + ' Hz':22}{hum.mains_under_db:.0f} dB under speech")
    if hum.comb_under_db is not None:
        print(f"  {'USB, 1 kHz':22}{hum.comb_under_db:.0f} dB under speech")
    for event in m.events[:12]:
        print(f"  {event.kind} at {event.at_s:.2f} s")


def _compare(options: argparse.Namespace) -> int:
    if len(options.others) > MOST_FILES:
        raise BadInputError(f"{len(options.others)} files: up to {MOST_FILES} at once are wanted")
    one = Measures(survey_file(options.one))
    made = [(str(f), Comparison(one, Measures(survey_file(f)))) for f in options.others]
    if options.json:
        reports = [compare_report(str(options.one), name, c) for name, c in made]
        print_json(reports[0] if len(reports) == 1 else {"compared": reports})
        return RAN
    for name, c in made:
        if len(made) > 1:
            print(f"{name} against {options.one}")
        _print_pair(c)
    return RAN


def _print_pair(made: Comparison) -> None:
    print(made.headline())
    words = "the same words" if made.aligned.same_words else "other words"
    print(f"{words} (envelopes agree by {made.aligned.agree:.2f})")
    for change in made.changes:
        by = change.by
        mark = "*" if change.clear else " "
        moved = "" if by.value is None else f"   {signed(by.value, plus=True)} ± {by.sure:.1f}"
        one, other = (said(t, change.unit) for t in (change.one, change.other))
        print(f"{mark} {change.title:20}{one:>22}{other:>22}{moved}")
