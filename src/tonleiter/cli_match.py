"""The commands `match` and `plan`: tables, or JSON."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any, get_args

from tonleiter.cli_common import RAN, BadInputError, print_json
from tonleiter.core.gear.base import Role
from tonleiter.core.gear.labels import label_of
from tonleiter.core.match.grid import answer, answer_for_source, solve_grid
from tonleiter.core.match.report import match_report
from tonleiter.core.match.terms import Terms, usual_terms
from tonleiter.core.plan.report import plan_report
from tonleiter.core.plan.search import plan
from tonleiter.core.plan.styles import STYLES, StyleId
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PURPOSES, PurposeId
from tonleiter.core.units.levels import signed
from tonleiter.core.words import quoted


def add_commands(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add both commands to a parser's subparsers."""
    match = commands.add_parser("match", help="every source on every input: what goes with what")
    match.add_argument("station", type=Path, metavar="STATION")
    _terms_options(match)
    match.set_defaults(run=_match)

    planned = commands.add_parser("plan", help="design the path from a source to an input")
    planned.add_argument("station", type=Path, metavar="STATION")
    planned.add_argument("--from", dest="source", required=True, metavar="ID", help="a source")
    planned.add_argument("--to", dest="socket", required=True, metavar="ID", help="an input")
    styles = ", ".join(STYLES)
    planned.add_argument("--style", default="simple", metavar="NAME", help=f"one of {styles}")
    _terms_options(planned)
    planned.set_defaults(run=_plan)


def _terms_options(parser: argparse.ArgumentParser) -> None:
    purposes = ", ".join(get_args(PurposeId))
    parser.add_argument("--purpose", metavar="NAME", help=f"one of {purposes}")
    parser.add_argument("--operator", metavar="ID", help="default: the open chain's")
    parser.add_argument("--json", action="store_true", help="print JSON; keys carry units")


def _terms(options: argparse.Namespace, station: Station) -> Terms:
    _known("purpose", options.purpose, list(PURPOSES), options.station)
    _known("operator", options.operator, [o.id for o in station.operators], options.station)
    return usual_terms(station, options.purpose, options.operator)


def _known(what: str, wanted: str | None, known: list[str], where: Path) -> None:
    if wanted is not None and wanted not in known:
        raise BadInputError(
            f"{where}: there is no {what} called {quoted(wanted)};"
            f" known: {', '.join(known) or 'none'}"
        )


def _match(options: argparse.Namespace) -> int:
    station = read_station(options.station).station
    terms = _terms(options, station)
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


def _plan(options: argparse.Namespace) -> int:
    station = read_station(options.station).station
    terms = _terms(options, station)
    _known("style", options.style, list(STYLES), options.station)
    _gear(station, options.source, "microphone", "source", options.station)
    _gear(station, options.socket, "input", "input", options.station)
    style: StyleId = options.style
    progress = plan(station, options.source, options.socket, terms, style)
    report = plan_report(progress, terms, style)
    if options.json:
        print_json(report)
        return RAN
    print(f"{report['candidates_solved']} candidates solved, {STYLES[style].title}:")
    for found in report["plans"]:
        print()
        title = found["title"]
        print(f"{found['why']}. {title[0].upper()}{title[1:]}.")
        print("  " + "  →  ".join(stage["name"] for stage in found["stages"]))
        print(f"  trades away: {found['costs']}")
        for part in found["parts"]:
            print(f"  {part['count']} × {part['name']} {part['value']} ({part['price']})")
        if found["transmit_switch"]:
            print(f"  {found['transmit_switch']}")
    if not report["plans"]:
        print("No path without a stop was found; look at the pair's ladder for what stands in it.")
    return RAN


def _gear(station: Station, wanted: str, role: Role, what: str, where: Path) -> None:
    _known(what, wanted, [g.id for g in station.gear if g.role == role], where)
