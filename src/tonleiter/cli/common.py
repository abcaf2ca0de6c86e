"""What the commands share: exit codes, refusals, JSON, an output that may close or fill up."""

from __future__ import annotations

import argparse
import contextlib
import errno
import io
import json
import os
import sys
from typing import Any

from tonleiter.core.refused import RefusedError
from tonleiter.core.station.disk import reason

RAN, STOPPED, BAD_INPUT = 0, 1, 2


class BadInputError(RefusedError):
    """One line for the user: what, where, what would be accepted."""


def output_options(parser: argparse.ArgumentParser) -> None:
    """What is asked of every command that judges: JSON, and whether a stop is an error."""
    parser.add_argument("--json", action="store_true", help="print JSON; keys carry units")
    parser.add_argument("--strict", action="store_true", help="exit 1 when a stop finding stands")


def print_json(data: Any) -> None:  # noqa: ANN401 - whatever JSON holds
    """Print data whose keys carry their units."""
    print(json.dumps(data, indent=1, ensure_ascii=False, allow_nan=False))


def prepare_output() -> None:
    """Characters that the terminal cannot show are spelled out, not a reason to end."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")


def complain(message: str) -> None:
    """One line on the error output, if there is one."""
    with contextlib.suppress(OSError, ValueError, AttributeError):
        print(f"tonleiter: {message}", file=sys.stderr, flush=True)


def flush() -> None:
    """Write out what was printed. Raises OSError."""
    if sys.stdout is not None and not sys.stdout.closed:
        sys.stdout.flush()


def give_up_output(error: OSError) -> int:
    """The output is closed (then its reader has had enough, as ``head`` does) or full."""
    with contextlib.suppress(OSError, ValueError):
        # what is left in the buffer must not be tried again when the interpreter ends
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    if isinstance(error, BrokenPipeError):
        return RAN
    if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EIO, errno.EFBIG, errno.EBADF):
        complain(f"the output cannot be written: {reason(error)}")
        return BAD_INPUT
    raise error
