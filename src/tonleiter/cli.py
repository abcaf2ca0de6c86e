"""Tonleiter from the command line: the window, or tables and JSON without one."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NoReturn

from tonleiter import __version__
from tonleiter.cli_chain import assessed
from tonleiter.cli_common import (
    BAD_INPUT,
    RAN,
    STOPPED,
    BadInputError,
    complain,
    flush,
    give_up_output,
    prepare_output,
    print_json,
)
from tonleiter.cli_deviation import add_deviation
from tonleiter.cli_match import add_commands
from tonleiter.cli_prove import add_prove
from tonleiter.cli_wiring import add_wiring
from tonleiter.core.circuit.cards.lines import CardError
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.headline import headline
from tonleiter.core.report.levels_report import levels_report
from tonleiter.core.station.disk import read_file, spoken
from tonleiter.core.station.files import read_station
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import OHM, VOLT, format_quantity

# what a shell reports for a program that Ctrl+C ended
INTERRUPTED = 130


def main(arguments: Sequence[str] | None = None) -> int:
    """Entry point; returns the exit code."""
    prepare_output()
    try:
        options = _parser().parse_args(arguments)
        result: int = options.run(options)
        flush()
    except RefusedError as error:
        complain(str(error))
        return BAD_INPUT
    except MemoryError:
        complain("there is not enough memory for this; a smaller circuit or fewer points will do")
        return BAD_INPUT
    except KeyboardInterrupt:
        return INTERRUPTED
    except OSError as error:
        return give_up_output(error)
    return result


class _Parser(argparse.ArgumentParser):
    """Refuses in one line, like everything else here."""

    def error(self, message: str) -> NoReturn:
        raise BadInputError(f"{message}; see {self.prog} --help")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="tonleiter", description=__doc__)
    parser.add_argument("--version", action="version", version=f"tonleiter {__version__}")
    parser.add_argument("--demo", action="store_true", help="open a copy of the demo station")
    parser.add_argument(
        "--fresh", action="store_true", help="with --demo: a new copy, the old one is kept aside"
    )
    parser.set_defaults(run=_window, station=None)
    commands = parser.add_subparsers(title="without a window", metavar="COMMAND")

    opened = commands.add_parser("open", help="open a station in the window")
    opened.add_argument("station", type=Path, metavar="STATION")
    opened.set_defaults(run=_window, demo=False, fresh=False)

    levels = commands.add_parser("levels", help="levels, response and findings of a chain")
    levels.add_argument("station", type=Path, metavar="STATION")
    levels.add_argument("--chain", metavar="ID", help="default: the open chain")
    levels.add_argument("--variant", metavar="ID", help="default: the variant shown")
    _output_options(levels)
    levels.set_defaults(run=_levels)

    add_commands(commands)
    add_wiring(commands)
    add_prove(commands)
    add_deviation(commands)

    circuit = commands.add_parser("circuit", help="solve a circuit given as netlist cards")
    circuit.add_argument("file", type=Path, metavar="FILE.cir")
    circuit.add_argument("--json", action="store_true", help="print JSON")
    circuit.set_defaults(run=_circuit)
    return parser


def _output_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    parser.add_argument("--strict", action="store_true", help="exit 1 when a stop finding stands")


def _window(options: argparse.Namespace) -> int:
    if options.fresh and not options.demo:
        raise BadInputError("--fresh goes with --demo")
    # Qt is loaded only when a window is wanted
    from tonleiter.app.start import run

    code: int = run(options.station, demo=options.demo, fresh=options.fresh)
    return code


def _levels(options: argparse.Namespace) -> int:
    station = read_station(options.station).station
    assessment = assessed(station, options)
    if options.json:
        print_json(levels_report(assessment))
    else:
        _print_levels(assessment)
    return STOPPED if options.strict and assessment.stops() else RAN


_COLUMNS = (
    ("stage", 26), ("gain dB", 8), ("speech dBu", 11), ("peaks dBu", 10), ("noise dBu", 10),
    ("ceiling", 8), ("clear dB", 9), ("from", 9), ("into", 9), ("DC", 9),
)  # fmt: skip


def _print_levels(assessment: Assessment) -> None:
    line = headline(assessment)
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
    report = levels_report(assessment)
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


def _circuit(options: argparse.Namespace) -> int:
    with spoken(options.file, "cannot be read"):
        content = read_file(options.file)
    try:
        deck = read_deck(content.decode("utf-8", "replace"))
        results = run_deck(deck)
    except CardError as error:
        raise BadInputError(f"{options.file}, {error}") from None
    except CircuitError as error:
        raise BadInputError(f"{options.file}: {error}") from None
    for note in deck.notes:
        complain(f"{options.file}, {note}")
    if options.json:
        print_json(results)
    else:
        _print_circuit(results)
    return RAN


def _print_circuit(results: dict[str, Any]) -> None:
    if not results:
        print("nothing asked for; add .op, .ac, .noise or .tran to the file")
    for node, volts in results.get("op", {}).items():
        print(f"{node:<20}{format_quantity(volts, VOLT, 6):>16}")
    if "ac" in results:
        nodes = results["ac"]["nodes"]
        print("f/Hz".rjust(14), *(n.rjust(22) for n in nodes))
        for i, f_hz in enumerate(results["ac"]["f_hz"]):
            cells = (complex(v["re"][i], v["im"][i]) for v in nodes.values())
            print(f"{f_hz:14.6g}", *(f"{c:22.6g}" for c in cells))
    if "tran" in results:
        nodes = results["tran"]["nodes"]
        print("t/s".rjust(14), *(n.rjust(14) for n in nodes))
        for i, t_s in enumerate(results["tran"]["t_s"]):
            print(f"{t_s:14.6g}", *(f"{v[i]:14.6g}" for v in nodes.values()))
    if "noise" in results:
        noise = results["noise"]
        print(f"noise, total {format_quantity(noise['total_v'], VOLT, 4)} RMS")
        for name, volts in sorted(noise["contributors"].items(), key=lambda c: -c[1]):
            print(f"  {name:<28}{format_quantity(volts, VOLT, 4):>14}")


if __name__ == "__main__":
    sys.exit(main())
