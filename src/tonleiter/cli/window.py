"""The command `open`, and no command at all: the window."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from tonleiter.cli.common import BadInputError


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the command to a parser's subparsers."""
    opened = commands.add_parser("open", help="open a station in the window")
    opened.add_argument("station", type=Path, metavar="STATION")
    opened.add_argument(
        "--look", action="store_true", help="only look at it: nothing is written into it"
    )
    opened.set_defaults(run=open_window, demo=False, fresh=False)


def is_place(word: str) -> bool:
    """Whether a word on the command line is a place on disk: it is there, or is written as one."""
    return "/" in word or word.endswith((".station", ".zip")) or Path(word).exists()


def open_window(options: argparse.Namespace) -> int:
    """Open the window on a station, or on the demo."""
    if options.fresh and not options.demo:
        raise BadInputError("--fresh goes with --demo")
    # Qt is loaded only when a window is wanted
    from tonleiter.app.start import run

    looks_only = getattr(options, "look", False)
    code: int = run(options.station, demo=options.demo, fresh=options.fresh, looks_only=looks_only)
    return code
