"""The command `wiring`: what is joined to what, contact by contact."""

from __future__ import annotations

import argparse
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from tonleiter.cli_chain import assessed
from tonleiter.cli_common import RAN, STOPPED, print_json
from tonleiter.core.report.wiring import parts_csv, wiring_of, wiring_report
from tonleiter.core.station.disk import write_file
from tonleiter.core.station.files import read_station
from tonleiter.core.wiring.build import Build
from tonleiter.core.wiring.findings import WiringFinding


def add_wiring(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    wiring = commands.add_parser("wiring", help="net list, parts and findings of a chain's wiring")
    wiring.add_argument("station", type=Path, metavar="STATION")
    wiring.add_argument("--chain", metavar="ID", help="default: the open chain")
    wiring.add_argument("--variant", metavar="ID", help="default: the variant shown")
    wiring.add_argument("--parts", type=Path, metavar="FILE.csv", help="write the parts list")
    wiring.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    wiring.add_argument("--strict", action="store_true", help="exit 1 when a stop finding stands")
    wiring.set_defaults(run=_wiring)


def _wiring(options: argparse.Namespace) -> int:
    assessment = assessed(read_station(options.station).station, options)
    build, findings = wiring_of(assessment)
    if options.parts is not None:
        write_file(options.parts, parts_csv(build.parts, assessment.station.drawer).encode())
    if options.json:
        print_json(wiring_report(assessment, build, findings))
    else:
        _print(assessment.solution.compiled.chain.name, build, findings)
    return STOPPED if options.strict and any(f.severity == "stop" for f in findings) else RAN


def _print(chain: str, build: Build, findings: Iterable[WiringFinding]) -> None:
    print(f"{chain}: {build.joints} joints")
    for net in build.nets:
        level = "" if net.speech_dbu is None else f"  {net.speech_dbu:.1f} dBu"
        print(f"  {net.name:44} {net.dc_v:6.2f} V{level}")
        print(f"    {' – '.join(net.contacts)}")
    for part in build.parts:
        print(f"  {part.words()}")
    for left in build.leftovers:
        print(f"  not used: {left.contact} ({left.role}): {left.do}")
    for finding in findings:
        print(f"{finding.severity.upper():5} {finding.says}: {finding.proof}")
