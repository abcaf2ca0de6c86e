"""The command `wiring`: what is joined to what, contact by contact."""

from __future__ import annotations

import argparse
import os
from datetime import date
from pathlib import Path
from typing import Any

from tonleiter.cli.chain import solved
from tonleiter.cli.common import RAN, STOPPED, BadInputError, output_options, print_json
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.report.wiring import parts_csv, wiring_report
from tonleiter.core.report.worksheet import worksheets
from tonleiter.core.station.disk import write_file
from tonleiter.core.station.files import read_station


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    wiring = commands.add_parser("wiring", help="net list, parts and findings of a chain's wiring")
    wiring.add_argument("station", type=Path, metavar="STATION")
    wiring.add_argument("--chain", metavar="ID", help="default: the open chain")
    wiring.add_argument("--variant", metavar="ID", help="default: the variant shown")
    wiring.add_argument("--parts", type=Path, metavar="FILE.csv", help="write the parts list")
    wiring.add_argument("--pdf", type=Path, metavar="FILE.pdf", help="write the sheets to print")
    wiring.add_argument("--svg", type=Path, metavar="FILE.svg", help="the same, a file for a page")
    output_options(wiring)
    wiring.set_defaults(run=_wiring)


def _wiring(options: argparse.Namespace) -> int:
    found = solved(read_station(options.station).station, options, verdict_of)
    if options.parts is not None:
        drawer = found.assessment.station.drawer
        write_file(options.parts, parts_csv(found.build.parts, drawer).encode())
    _write_sheets(found, options)
    if options.json:
        print_json(wiring_report(found))
    else:
        _print(found.assessment.solution.compiled.chain.name, found)
    return STOPPED if options.strict and found.stops("wiring") else RAN


def _write_sheets(found: Verdict, options: argparse.Namespace) -> None:
    """Sheets in the files that were asked for. Raises BadInputError for another ending."""
    wanted = [(f, s) for f, s in ((options.pdf, ".pdf"), (options.svg, ".svg")) if f is not None]
    for file, suffix in wanted:
        if file.suffix.lower() != suffix:
            raise BadInputError(f"{file}: a name that ends in {suffix} is wanted")
    if not wanted:
        return
    # fonts and painters without a window: only who wants a sheet waits for them
    from tonleiter.app.start import application
    from tonleiter.app.theme.fonts import load_fonts
    from tonleiter.app.widgets.wiring.sheet import Pages, write_sheet

    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    made = application()
    load_fonts()
    compiled = found.assessment.solution.compiled
    title = f"{compiled.chain.name}, {compiled.variant.name}"
    pages = Pages(found, worksheets(found, date.today().isoformat()))
    for file, _ in wanted:
        write_sheet(pages, title, file)
    del made


def _print(chain: str, found: Verdict) -> None:
    build = found.build
    print(f"{chain}: {build.joints} joints, {len(build.conductors)} conductors")
    for net in build.nets:
        level = "" if net.speech_dbu is None else f"  {net.speech_dbu:.1f} dBu"
        print(f"  {net.name:44} {net.dc_v:6.2f} V{level}")
        print(f"    {' – '.join(net.contacts)}")
    for part in build.parts:
        print(f"  {part.words()}")
    if build.keying is not None:
        print(f"  transmit: {build.keying.says}")
    for left in build.leftovers:
        print(f"  not used: {left.contact} ({left.role}): {left.do}")
    for finding in found.found("wiring"):
        print(f"{finding.severity.upper():5} {finding.says}: {finding.proof}")
