"""Tonleiter from the command line: the window, or tables and JSON without one."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module
from typing import NoReturn

from tonleiter import __version__
from tonleiter.cli import window
from tonleiter.cli.common import (
    BAD_INPUT,
    BadInputError,
    complain,
    flush,
    give_up_output,
    prepare_output,
)
from tonleiter.core.refused import RefusedError

# files of commands, in the order in which --help lists them; read when one is wanted: a window
# stands sooner without them
COMMANDS = (
    "window",
    "levels",
    "match",
    "plan",
    "learn",
    "wiring",
    "prove",
    "loop",
    "listen",
    "log",
    "cause",
    "next",
    "deviation",
    "circuit",
)
# what is no place on disk, whatever lies there
NAMES = frozenset(
    {
        "open",
        "levels",
        "match",
        "plan",
        "learn",
        "wiring",
        "prove",
        "loop",
        "measure",
        "compare",
        "log",
        "backup",
        "restore",
        "cause",
        "next",
        "deviation",
        "circuit",
    }
)
# what a shell reports for a program that Ctrl+C ended
INTERRUPTED = 130


def main(arguments: Sequence[str] | None = None) -> int:
    """Entry point; returns the exit code."""
    prepare_output()
    try:
        given = list(sys.argv[1:] if arguments is None else arguments)
        given = spelled_out(given)
        options = _parser(_wanted(given)).parse_args(given)
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


def spelled_out(given: list[str]) -> list[str]:
    """``tonleiter STATION`` means ``tonleiter open STATION``: a place, and no command's name."""
    words = [one for one in given if not one.startswith("-")]
    if not words or words[0] in NAMES or not window.is_place(words[0]):
        return given
    first = words[0]
    at = given.index(first)
    # what stood before it belongs to the command
    return ["open", *given[:at], *given[at:]]


class _Parser(argparse.ArgumentParser):
    """Refuses in one line, like everything else here."""

    def error(self, message: str) -> NoReturn:
        raise BadInputError(f"{message}; see {self.prog} --help")


def _wanted(given: list[str]) -> Sequence[str]:
    """The files of commands that a command line may ask for: the window's alone where it can."""
    words = [one for one in given if not one.startswith("-")]
    help_wanted = any(one in ("-h", "--help") for one in given)
    only_window = not help_wanted and (not words or words[0] == "open")
    return ("window",) if only_window else COMMANDS


def manual_page() -> str:
    """The manual page, as roff source."""
    from tonleiter.cli import man

    return man.manual_page(_parser())


def _parser(files: Sequence[str] = COMMANDS) -> argparse.ArgumentParser:
    parser = _Parser(prog="tonleiter", description=__doc__)
    parser.add_argument("--version", action="version", version=f"tonleiter {__version__}")
    parser.add_argument("--demo", action="store_true", help="open a copy of the demo station")
    parser.add_argument(
        "--fresh", action="store_true", help="with --demo: a new copy, the old one is kept aside"
    )
    parser.set_defaults(run=window.open_window, station=None)
    commands = parser.add_subparsers(title="without a window", metavar="COMMAND")
    for name in files:
        import_module(f"tonleiter.cli.{name}").add(commands)
    return parser
