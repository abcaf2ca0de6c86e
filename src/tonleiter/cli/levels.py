"""The command `levels`: levels, response and findings of a chain."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.chain import solved
from tonleiter.cli.common import RAN, STOPPED, output_options, print_json
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.report.headline import headline
from tonleiter.core.report.levels_report import levels_report
from tonleiter.core.station.files import read_station
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import OHM, VOLT, format_quantity


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    levels = commands.add_parser("levels", help="levels, response and findings of a chain")
    levels.add_argument("station", type=Path, metavar="STATION")
    levels.add_argument("--chain", metavar="ID", help="default: the open chain")
    levels.add_argument("--variant", metavar="ID", help="default: the variant shown")
    output_options(levels)
    levels.set_defaults(run=_levels)


def _levels(options: argparse.Namespace) -> int:
    station = read_station(options.station).station
    verdict = solved(station, options, verdict_of)
    if options.json:
        print_json(levels_report(verdict))
    else:
        _print_levels(verdict)
    return STOPPED if options.strict and verdict.stops("chain") else RAN


_COLUMNS = (
    ("stage", 26),
    ("gain dB", 8),
    ("speech dBu", 11),
    ("peaks dBu", 10),
    ("noise dBu", 10),
    ("ceiling", 8),
    ("clear dB", 9),
    ("from", 9),
    ("into", 9),
    ("DC", 9),
)


def _print_levels(verdict: Verdict) -> None:
    assessment = verdict.assessment
    line = headline(assessment, verdict.stops("chain"))
    print(line.says)
    print(line.proves)
    print()
    print("".join(f"{t:<{w}}" if i == 0 else f"{t:>{w}}" for i, (t, w) in enumerate(_COLUMNS)))
    for row in assessment.rows:
        ceiling = signed(row.ceiling_dbu) if row.ceiling_dbu is not None else "—"
        clear = signed(row.headroom_db) if row.headroom_db is not None else "—"
        cells = (
            row.name[:25],
            signed(row.gain_db, plus=True) if row.gain_db is not None else "—",
            signed(row.speech_dbu),
            signed(row.peak_dbu),
            signed(row.noise_dbu),
            ceiling,
            clear,
            format_quantity(row.z_source_ohm, OHM),
            format_quantity(row.z_load_ohm, OHM),
            format_quantity(row.dc_v, VOLT, 2) if abs(row.dc_v) > 1e-3 else "—",
        )
        print("".join(f"{c:<{w}}" if i == 0 else f"{c:>{w}}" for i, (c, (_, w)) in _paired(cells)))
    print()
    report = levels_report(verdict)
    for item in report["possible"]:
        on = f"; depends on the {item['matters_most']}" if item["matters_most"] else ""
        share = f"in {item['share_of_draws']:.0%} of the ranges' draws"
        print(f"MAYBE {item['says']}\n      {share}{on}")
    for item in report["findings"]:
        print(f"{item['severity'].upper():<5} {item['says']}")
        print(f"      {item['proof']}")
        if item["certainty"]:
            on = f", on the {item['depends_on']}" if item["depends_on"] else ""
            print(f"      {item['certainty']}{on}")
        if item["caution"]:
            print(f"      ⚠ {item['caution']}")
        for remedy in item["remedies"]:
            print(f"      → {remedy['title']} ({remedy['effect']})")


def _paired(cells: tuple[str, ...]) -> enumerate[tuple[str, tuple[str, int]]]:
    return enumerate(zip(cells, _COLUMNS, strict=True))
