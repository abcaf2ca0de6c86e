"""The command `circuit`: a circuit in netlist cards, solved."""

from __future__ import annotations

import argparse
import math
from pathlib import Path
from typing import Any

from tonleiter.cli.common import RAN, BadInputError, complain, print_json
from tonleiter.core.circuit.cards.lines import CardError
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.circuit.transient import MOST_SECONDS
from tonleiter.core.station.disk import read_file, spoken
from tonleiter.core.units.quantity import VOLT, format_quantity
from tonleiter.core.words import quoted

# a day
LONGEST_S = 86_400.0


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    circuit = commands.add_parser("circuit", help="solve a circuit given as netlist cards")
    circuit.add_argument("file", type=Path, metavar="FILE.cir")
    circuit.add_argument("--json", action="store_true", help="print JSON")
    circuit.add_argument(
        "--seconds",
        type=_seconds,
        default=MOST_SECONDS,
        metavar="N",
        help=f"work at a .tran for so long at most; {MOST_SECONDS:g} without it",
    )
    circuit.set_defaults(run=_circuit)


def _seconds(text: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not 0 < value <= LONGEST_S:
        raise argparse.ArgumentTypeError(
            f"{quoted(text)} is no time to wait: seconds above 0 and up to {LONGEST_S:g} are wanted"
        )
    return value


def _circuit(options: argparse.Namespace) -> int:
    with spoken(options.file, "cannot be read"):
        content = read_file(options.file)
    try:
        deck = read_deck(content.decode("utf-8", "replace"))
        results = run_deck(deck, options.seconds)
    except CardError as error:
        raise BadInputError(f"{options.file}, {error}") from None
    except CircuitError as error:
        raise BadInputError(f"{options.file}: {error}") from None
    for note in deck.notes:
        complain(f"{options.file}, {note}")
    if cut := results.get("tran", {}).get("cut_short"):
        complain(f"{options.file}: {cut}; what was computed is given, --seconds N goes on longer")
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
