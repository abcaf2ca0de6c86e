"""The command `prove`: what meters should show on a build, and what would explain others."""

from __future__ import annotations

import argparse
import json
import math
from pathlib import Path
from typing import Any

from tonleiter.cli.chain import solved
from tonleiter.cli.common import RAN, BadInputError, print_json
from tonleiter.core.bench.reading import Reading
from tonleiter.core.bench.tone import tones_wav
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.prove import Proof, ReadingError, check_value, read_value
from tonleiter.core.report.proving import OPEN, faults_report, proof_report
from tonleiter.core.station.disk import read_file, spoken, write_file
from tonleiter.core.station.files import json_object, read_station
from tonleiter.core.words import quoted


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    prove = commands.add_parser("prove", help="readings of a build's bring-up, and their faults")
    prove.add_argument("station", type=Path, metavar="STATION")
    prove.add_argument("--chain", metavar="ID", help="default: the open chain")
    prove.add_argument("--variant", metavar="ID", help="default: the variant shown")
    prove.add_argument(
        "--part", type=int, metavar="N", help="part of the chain, 1 first; default last"
    )
    prove.add_argument(
        "--readings", type=Path, metavar="FILE.json", help='what was read: {"ID": 4.7}'
    )
    prove.add_argument("--hide", metavar="FAULT_ID", help="show what the bench shows with a fault")
    prove.add_argument("--list-faults", action="store_true", help="every fault that can be hidden")
    prove.add_argument("--tones", type=Path, metavar="FILE.wav", help="write the tones to play")
    prove.add_argument("--json", action="store_true", help="print JSON")
    prove.set_defaults(run=_prove)


def _prove(options: argparse.Namespace) -> int:
    found = solved(read_station(options.station).station, options, verdict_of)
    count = len(found.build.spans)
    if options.part is not None and not 1 <= options.part <= count:
        raise BadInputError(f"{options.station}: there is no part {options.part}; 1 to {count}")
    proof = Proof(found, count - 1 if options.part is None else options.part - 1)
    if options.tones is not None:
        write_file(options.tones, tones_wav())
    if options.list_faults:
        report = faults_report(proof)
    else:
        readings = None if options.readings is None else _read(options.readings, proof)
        report = proof_report(proof, readings, options.hide)
    if options.json:
        print_json(report)
    else:
        _print(report)
    return RAN


def _read(file: Path, proof: Proof) -> dict[str, float]:
    """Readings from a file. Raises BadInputError in one line."""
    with spoken(file, "cannot be read"):
        content = read_file(file)
    known = {r.id: r for r in proof.readings}
    found = {}
    for name, value in json_object(str(file), content).items():
        if name not in known:
            proof_names = ", ".join(known)
            raise BadInputError(
                f"{file}: there is no reading called {quoted(name)}; known: {proof_names[:300]}"
            )
        try:
            found[name] = _value(value, known[name])
        except ReadingError as error:
            raise BadInputError(f"{file}: {name}: {error}") from None
    return found


def _value(value: object, reading: Reading) -> float:
    unit = reading.unit
    if isinstance(value, str):
        return read_value(value, unit, reading.step)
    number = isinstance(value, int | float) and not isinstance(value, bool)
    if not number or not math.isfinite(float(value)):  # type: ignore[arg-type]
        raise ReadingError(f"{json.dumps(value)} is no reading; a number in {unit}, or “{OPEN}”")
    found = float(value)  # type: ignore[arg-type]
    check_value(found, unit, reading.step)
    return found


def _print(report: dict[str, Any]) -> None:
    for row in report.get("readings", ()):
        low, value, high = (_short(row[k]) for k in ("low", "value", "high"))
        print(f"  {row['id']:34} {value:>10} {row['unit']:2}  [{low} … {high}]  {row['says']}")
    for fault in report["faults"]:
        share = f"{fault['likelihood']:7.1%}  " if "likelihood" in fault else ""
        equals = f"  (or {', '.join(fault['equals'])})" if fault.get("equals") else ""
        print(f"{share}{fault['id']:34} {fault['says']}{equals}")
    for key in ("headline", "remedy"):
        if report.get(key):
            print(report[key])
    if report.get("next"):
        print(f"read next: {report['next']}")


def _short(value: object) -> str:
    return f"{value:.3g}" if isinstance(value, float) else str(value)
