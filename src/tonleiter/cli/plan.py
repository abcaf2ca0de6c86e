"""The command `plan`: paths from a source to an input, side by side."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.common import RAN, print_json
from tonleiter.cli.terms import known, terms_of, terms_options
from tonleiter.core.gear.base import Role
from tonleiter.core.plan.report import plan_report
from tonleiter.core.plan.search import plan
from tonleiter.core.plan.styles import STYLES, StyleId
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    planned = commands.add_parser("plan", help="design the path from a source to an input")
    planned.add_argument("station", type=Path, metavar="STATION")
    planned.add_argument("--from", dest="source", required=True, metavar="ID", help="a source")
    planned.add_argument("--to", dest="socket", required=True, metavar="ID", help="an input")
    styles = ", ".join(STYLES)
    planned.add_argument("--style", default="simple", metavar="NAME", help=f"one of {styles}")
    terms_options(planned)
    planned.set_defaults(run=_plan)


def _plan(options: argparse.Namespace) -> int:
    station = read_station(options.station).station
    terms = terms_of(options, station)
    known("style", options.style, list(STYLES), options.station)
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
    known(what, wanted, [g.id for g in station.gear if g.role == role], where)
