"""The command `loop`: a computer in front of a radio, both ways."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.chain import solved
from tonleiter.cli.common import RAN, STOPPED, BadInputError, output_options, print_json
from tonleiter.core.desk.devices import NoDeskError
from tonleiter.core.report.loop_report import loop_report
from tonleiter.core.setup.loop.laid import loop_of
from tonleiter.core.setup.loop.scene import LoopScene
from tonleiter.core.station.files import read_station
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import VOLT, format_quantity
from tonleiter.core.words import the


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    made = commands.add_parser("loop", help="a computer in front of a radio: levels, keying, back")
    made.add_argument("station", type=Path, metavar="STATION")
    made.add_argument("--chain", metavar="ID", help="default: the open chain")
    output_options(made)
    made.set_defaults(run=_loop, variant=None)


def _loop(options: argparse.Namespace) -> int:
    station = read_station(options.station).station
    try:
        scene = solved(station, options, lambda s, chain, _: loop_of(s, chain))
    except NoDeskError as error:
        raise BadInputError(f"{options.station}: {error}") from None
    if options.json:
        print_json(loop_report(scene))
    else:
        _print(scene)
    stops = any(f.severity == "stop" for f in scene.findings)
    return STOPPED if options.strict and stops else RAN


def _print(scene: LoopScene) -> None:
    sent, keyed, desk = scene.sent, scene.keyed, scene.desk
    for line in scene.headline:
        print(line)
    print()
    print(f"{desk.computer.name}, by “{desk.sends.called}”, to {the(desk.radio)}")
    volts = format_quantity(sent.out_v, VOLT, 3)
    print(f"  program {signed(sent.program_dbfs)} dBFS, out {signed(sent.out_dbfs)} dBFS = {volts}")
    print(f"  at the socket {signed(sent.socket_dbu)} dBu")
    if keyed.spare_db is not None:
        opens = sent.switch.threshold_db
        print(
            f"  switch opens at {signed(opens)} dBFS: {signed(keyed.spare_db)} dB to spare,"
            f" hangs on for {1000 * sent.switch.hang_s:.0f} ms"
        )
    if scene.back is not None:
        print(
            f"  back: strong signals {signed(-scene.strongest_db)} dBFS, noise"
            f" {signed(-scene.noise_db)} dBFS"
        )
    print()
    for number, step in enumerate(scene.steps, 1):
        mark = {"done": "✓", "now": "→", "open": "!", "later": " "}[step.state]
        print(f"{mark} {number}. {step.title}: {step.shown}")
        if step.state == "now" and step.move is not None:
            print(f"     {step.move.says} ({step.move.why})")
    for finding in scene.findings:
        print(f"{finding.severity}: {finding.says} ({finding.proof})")
