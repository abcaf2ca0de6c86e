"""The command `next`: what is open on a station, cut to an evening."""

from __future__ import annotations

import argparse
import dataclasses
from datetime import datetime
from pathlib import Path
from typing import Any

from tonleiter.cli.common import RAN, BadInputError, print_json
from tonleiter.core.judge.certainty import doubts_of
from tonleiter.core.log.next_task import (
    evening,
    headline,
    next_tasks,
    shopping,
)
from tonleiter.core.log.store import LogStore
from tonleiter.core.log.telling import lanes_of, sayings
from tonleiter.core.station.files import read_station

MOST_MINUTES = 10_000


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    made = commands.add_parser("next", help="what to do next, ranked by its worth for its effort")
    made.add_argument("station", type=Path, metavar="STATION")
    made.add_argument("--minutes", type=int, metavar="N", help="what fits into so many minutes")
    made.add_argument("--no-soldering", action="store_true", help="the iron stays cold")
    made.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    made.set_defaults(run=_next)


def _next(options: argparse.Namespace) -> int:
    minutes = options.minutes
    if minutes is not None and not 1 <= minutes <= MOST_MINUTES:
        raise BadInputError(f"--minutes {minutes}: 1 to {MOST_MINUTES} are wanted")
    opened = read_station(options.station)
    store = LogStore(opened.folder)
    entries, now = store.entries(), datetime.now().astimezone()
    store.close()
    said = sayings(lanes_of(entries), now)
    every = next_tasks(
        opened.station,
        opened.records,
        said,
        entries=entries,
        doubts=lambda found: doubts_of(found.assessment),
    )
    chosen = evening(every, minutes, not options.no_soldering)
    if options.json:
        print_json(
            {
                "says": headline(every),
                "tasks": [dataclasses.asdict(t) for t in chosen],
                "shopping": list(shopping(every)),
            }
        )
        return RAN
    print(headline(every) or "Nothing is open.")
    for task in chosen:
        iron = ", solders" if task.solders else ""
        print(f"{task.minutes:4} min  {task.title}  [{task.where}{iron}]")
        print(f"          {task.why}")
        if task.needs:
            print(f"          needs {', '.join(task.needs)}")
    return RAN
