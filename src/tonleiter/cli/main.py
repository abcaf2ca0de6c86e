"""Tonleiter from the command line: the window, or tables and JSON without one."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from typing import NoReturn

from tonleiter import __version__
from tonleiter.cli import (
    cause,
    circuit,
    deviation,
    learn,
    levels,
    listen,
    log,
    loop,
    man,
    match,
    next,
    plan,
    prove,
    window,
    wiring,
)
from tonleiter.cli.common import (
    BAD_INPUT,
    BadInputError,
    complain,
    flush,
    give_up_output,
    prepare_output,
)
from tonleiter.cli.window import is_place
from tonleiter.core.refused import RefusedError

# in the order in which --help lists them
COMMANDS = (
    window,
    levels,
    match,
    plan,
    learn,
    wiring,
    prove,
    loop,
    listen,
    log,
    cause,
    next,
    deviation,
    circuit,
)
# what a shell reports for a program that Ctrl+C ended
INTERRUPTED = 130


def main(arguments: Sequence[str] | None = None) -> int:
    """Entry point; returns the exit code."""
    prepare_output()
    try:
        given = list(sys.argv[1:] if arguments is None else arguments)
        options = _parser().parse_args(spelled_out(given))
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
    if not words or words[0] in _names() or not is_place(words[0]):
        return given
    first = words[0]
    at = given.index(first)
    # what stood before it belongs to the command
    return ["open", *given[:at], *given[at:]]


class _Parser(argparse.ArgumentParser):
    """Refuses in one line, like everything else here."""

    def error(self, message: str) -> NoReturn:
        raise BadInputError(f"{message}; see {self.prog} --help")


def _names() -> set[str]:
    """What the commands are called."""
    return {name for name, _ in man.commands_of(_parser())}


def manual_page() -> str:
    """The manual page, as roff source."""
    return man.manual_page(_parser())


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="tonleiter", description=__doc__)
    parser.add_argument("--version", action="version", version=f"tonleiter {__version__}")
    parser.add_argument("--demo", action="store_true", help="open a copy of the demo station")
    parser.add_argument(
        "--fresh", action="store_true", help="with --demo: a new copy, the old one is kept aside"
    )
    parser.set_defaults(run=window.open_window, station=None)
    commands = parser.add_subparsers(title="without a window", metavar="COMMAND")
    for command in COMMANDS:
        command.add(commands)
    return parser
