"""The command `cause`: from what a listener says to what may stand behind it."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.chain import solved
from tonleiter.cli.common import RAN, print_json
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.log.cause import search, symptom_in
from tonleiter.core.log.store import LogStore
from tonleiter.core.log.telling import blamed, lanes_of
from tonleiter.core.station.files import read_station


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    made = commands.add_parser("cause", help="what may stand behind what a listener says")
    made.add_argument("station", type=Path, metavar="STATION")
    made.add_argument("--symptom", required=True, metavar="WORDS", help="as the listener says it")
    made.add_argument("--chain", metavar="ID", help="default: the open chain")
    made.add_argument("--variant", metavar="ID", help="default: the variant shown")
    made.add_argument("--json", action="store_true", help="print JSON")
    made.set_defaults(run=_cause)


def _cause(options: argparse.Namespace) -> int:
    word = symptom_in(options.symptom)
    opened = read_station(options.station)
    found = solved(opened.station, options, verdict_of)
    compiled = found.assessment.solution.compiled
    store = LogStore(opened.folder)
    lanes = lanes_of(store.entries(chain_id=compiled.chain.id))
    store.close()
    bad = [(e, lane) for lane in lanes for e in lane.reports if word in e.words]
    changed = blamed(*bad[-1]) if bad else None
    made = search(word, found, compiled.chain.panel, changed)
    if options.json:
        print_json(
            {
                "symptom": word,
                "says": made.headline(),
                "causes": [
                    {
                        "says": c.says,
                        "share": share,
                        "why": c.why,
                        "test": c.test,
                        "minutes": c.minutes,
                        "where": c.where,
                    }
                    for c, share in made.ranked
                ],
            }
        )
        return RAN
    print(made.headline())
    for cause, share in made.ranked:
        print(f"{100 * share:4.0f} %  {cause.says}  [{cause.where}]")
        print(f"         {cause.why}")
        print(f"         test, {cause.minutes} min: {cause.test}")
    if (test := made.next_test) is not None:
        print(f"first: {test.test}")
    return RAN
