"""What `match` and `plan` are asked in terms of: a purpose, an operator."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import get_args

from tonleiter.cli.common import BadInputError
from tonleiter.core.match.terms import Terms, usual_terms
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PURPOSES, PurposeId
from tonleiter.core.words import quoted


def terms_options(parser: argparse.ArgumentParser) -> None:
    """Purpose and operator that a station is judged for."""
    purposes = ", ".join(get_args(PurposeId))
    parser.add_argument("--purpose", metavar="NAME", help=f"one of {purposes}")
    parser.add_argument("--operator", metavar="ID", help="default: the open chain's")
    parser.add_argument("--json", action="store_true", help="print JSON; keys carry units")


def terms_of(options: argparse.Namespace, station: Station) -> Terms:
    """The terms that were asked for. Raises BadInputError."""
    known("purpose", options.purpose, list(PURPOSES), options.station)
    known("operator", options.operator, [o.id for o in station.operators], options.station)
    return usual_terms(station, options.purpose, options.operator)


def known(what: str, wanted: str | None, known: list[str], where: Path) -> None:
    """Refuse a name that is none. Raises BadInputError."""
    if wanted is not None and wanted not in known:
        raise BadInputError(
            f"{where}: there is no {what} called {quoted(wanted)};"
            f" known: {', '.join(known) or 'none'}"
        )
