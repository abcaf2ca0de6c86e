"""Tonleiter from the command line: the window, or tables and JSON without one."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterable, Sequence
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

# commands by their files, in the order in which --help lists them; a file is read when a command
# of it is wanted: a window stands sooner without them
COMMANDS: dict[str, tuple[str, ...]] = {
    "window": ("open",),
    "levels": ("levels",),
    "match": ("match",),
    "plan": ("plan",),
    "learn": ("learn",),
    "wiring": ("wiring",),
    "prove": ("prove",),
    "loop": ("loop",),
    "listen": ("measure", "compare"),
    "log": ("log", "backup", "restore"),
    "cause": ("cause",),
    "next": ("next",),
    "deviation": ("deviation",),
    "circuit": ("circuit",),
}
FILES = {name: file for file, names in COMMANDS.items() for name in names}
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
    if not words or words[0] in FILES or not window.is_place(words[0]):
        return given
    first = words[0]
    at = given.index(first)
    # what stood before it belongs to the command
    return ["open", *given[:at], *given[at:]]


class _Parser(argparse.ArgumentParser):
    """Refuses in one line, like everything else here."""

    def error(self, message: str) -> NoReturn:
        raise BadInputError(f"{message}; see {self.prog} --help")


def _wanted(given: list[str]) -> Iterable[str]:
    """The files of commands that a command line asks for: all, where that cannot be said."""
    words = [one for one in given if not one.startswith("-")]
    if words and words[0] in FILES:
        return (FILES[words[0]],)
    help_wanted = any(one in ("-h", "--help") for one in given)
    return COMMANDS.keys() if words or help_wanted else ("window",)


def manual_page() -> str:
    """The manual page, as roff source."""
    from tonleiter.cli import man

    return man.manual_page(_parser())


def _parser(files: Iterable[str] = COMMANDS.keys()) -> argparse.ArgumentParser:
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
