"""The command `match`: every source on every input."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.common import RAN, print_json
from tonleiter.cli.terms import terms_of, terms_options
from tonleiter.core.gear.labels import label_of
from tonleiter.core.match.grid import answer, answer_for_source, solve_grid
from tonleiter.core.match.report import match_report
from tonleiter.core.station.files import read_station
from tonleiter.core.units.levels import signed


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    match = commands.add_parser("match", help="every source on every input: what goes with what")
    match.add_argument("station", type=Path, metavar="STATION")
    terms_options(match)
    match.set_defaults(run=_match)


def _match(options: argparse.Namespace) -> int:
    station = read_station(options.station).station
    terms = terms_of(options, station)
    *_, grid = solve_grid(station, terms)
    if options.json:
        print_json(match_report(station, grid, terms))
        return RAN
    names = {g.id: g.name for g in (*grid.sources, *grid.inputs)}
    for socket in grid.inputs:
        print(answer(grid, station, socket.id, terms))
        for pair in grid.column(socket.id, terms.facts.spoken):
            off = pair.off_middle_db
            level = "silent" if off is None else f"{signed(off, 0, plus=True)} dB off the middle"
            name, verdict = names[pair.source][:30], label_of(pair.verdict)
            print(f"  {name:<32}{verdict:<14}{level:<26}{pair.words()}")
        print()
    for source in grid.sources:
        print(answer_for_source(grid, source.id, terms))
    return RAN
