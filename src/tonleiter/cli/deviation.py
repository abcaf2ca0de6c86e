"""The command `deviation`: tones that null the carrier, what a tone makes, corrections."""

from __future__ import annotations

import argparse
import math
from typing import Any

from tonleiter.cli.common import RAN, BadInputError, print_json
from tonleiter.core.radio.deviation import (
    NULLS,
    PAIR_HZ,
    carrier_db,
    correction_db,
    nulls_for,
    pre_emphasis_db,
    sidebands_db,
)
from tonleiter.core.radio.fm import NARROW_HZ, WIDE_HZ
from tonleiter.core.units.quantity import HERTZ, QuantityError, parse_quantity

LEAST_HZ, LEAST_TONE_HZ, MOST_TONE_HZ = 100.0, 20.0, 20_000.0


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    made = commands.add_parser("deviation", help="deviation of FM by carrier nulls and sidebands")
    made.add_argument("--target", required=True, metavar="HZ", help="wanted deviation, as 3.5k")
    made.add_argument("--tone", metavar="HZ", help="a tone: its index, lines and corrections")
    made.add_argument("--narrow", action="store_true", help="a system of 2.5 kHz, not of 5")
    made.add_argument("--json", action="store_true", help="print JSON")
    made.set_defaults(run=_deviation)


def _deviation(options: argparse.Namespace) -> int:
    most = NARROW_HZ if options.narrow else WIDE_HZ
    system = "a narrow" if options.narrow else "a wide"
    target = _hertz("--target", options.target, LEAST_HZ, most, f"{system} system")
    tone = None
    if options.tone is not None:
        tone = _hertz("--tone", options.tone, LEAST_TONE_HZ, MOST_TONE_HZ, "audio")
    report = deviation_report(target, tone)
    if options.json:
        print_json(report)
    else:
        _print(report)
    return RAN


def deviation_report(target_hz: float, tone_hz: float | None) -> dict[str, Any]:
    """As plain data; what belongs to a tone is there where one is given."""
    report: dict[str, Any] = {
        "target_hz": target_hz,
        "nulls": [
            {"order": n.order, "beta": n.beta, "tone_hz": n.tone_hz} for n in nulls_for(target_hz)
        ],
        "pre_emphasis_db": pre_emphasis_db(),
    }
    if tone_hz is not None:
        beta = target_hz / tone_hz
        found = [b * tone_hz for b in NULLS]
        report |= {
            "tone_hz": tone_hz,
            "beta": beta,
            "carrier_db": carrier_db(beta),
            "sidebands_db": list(sidebands_db(beta)),
            "null_deviation_hz": found,
            "correction_db": [correction_db(target_hz, f) for f in found],
        }
    return report


def _hertz(name: str, text: str, low: float, high: float, of: str) -> float:
    try:
        value = parse_quantity(text, HERTZ)
    except QuantityError as error:
        raise BadInputError(f"{name} {text}: {error}") from None
    if not (math.isfinite(value) and low <= value <= high):
        raise BadInputError(f"{name} {text}: {low:g} to {high:g} Hz is wanted for {of}")
    return value


def _print(report: dict[str, Any]) -> None:
    print(f"a deviation of {report['target_hz']:g} Hz: these tones null the carrier")
    for null in report["nulls"]:
        print(f"  {null['order']}. null  β {null['beta']:7.4f}  tone {null['tone_hz']:9.1f} Hz")
    low, high = PAIR_HZ
    print(
        f"  behind pre-emphasis {high:g} Hz deviates {report['pre_emphasis_db']:.1f} dB further"
        f" than {low:g} Hz; one tone at a time, by the way that the data takes"
    )
    if "tone_hz" not in report:
        return
    print(f"a tone of {report['tone_hz']:g} Hz there: β {report['beta']:.4f}")
    print(f"  carrier {report['carrier_db']:7.1f} dB")
    for n, db in enumerate(report["sidebands_db"], 1):
        print(f"  ±{n * report['tone_hz']:g} Hz {db:7.1f} dB")
    print("its nulls, and by how much the level must change from there:")
    for hertz, db in zip(report["null_deviation_hz"], report["correction_db"], strict=True):
        print(f"  {hertz:9.1f} Hz {db:+7.2f} dB")
