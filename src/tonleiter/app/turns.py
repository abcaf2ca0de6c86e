"""Whether the window's thread is at something, and how workers give way to it meanwhile.

Nearly every call into the toolkit hands the interpreter over, and a worker that computes takes it:
what costs the window 60 ms by itself then took 300. A worker asks at its checkpoints, many times a
second, and rests while the window is at something: not for longer than a person would notice, for
the window may be waiting for just that worker.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

# after an event more of them follow as a rule: what an edit leads to is drawn next
LULL_S = 0.01
# so long a turn of the window keeps workers at rest at most
MOST_S = 0.3
_NAP_S = 0.001


# what sound is captured in is a thread of Qt as well, and is at it all the time
_WINDOW = threading.main_thread().ident


class _Turn:
    """Of the window's thread: how deep it is in calls, since when, and until when more may come."""

    depth = 0
    since_s = 0.0
    until_s = 0.0
    waits = False


def begin() -> None:
    """The window's thread begins something; in another thread nothing changes."""
    if threading.get_ident() != _WINDOW:
        return
    if _Turn.depth == 0:
        now = time.monotonic()
        if now > _Turn.until_s:
            _Turn.since_s = now
    _Turn.depth += 1


def end() -> None:
    """It is done with that."""
    if threading.get_ident() != _WINDOW:
        return
    _Turn.depth -= 1
    if _Turn.depth == 0:
        _Turn.until_s = time.monotonic() + LULL_S


@contextmanager
def at_work() -> Iterator[None]:
    """Within the block the window's thread is at something."""
    begin()
    try:
        yield
    finally:
        end()


@contextmanager
def waiting() -> Iterator[None]:
    """Within the block it waits for a worker, which must go on; from a worker nothing changes."""
    if threading.get_ident() != _WINDOW:
        yield
        return
    before, _Turn.waits = _Turn.waits, True
    try:
        yield
    finally:
        _Turn.waits = before


def rested_s() -> float:
    """How long ago the window's thread was at something; 0 while it is."""
    return 0.0 if _Turn.depth else max(0.0, time.monotonic() - _Turn.until_s)


def give_way() -> None:
    """In a worker: rest while the window's thread is at something."""
    while not _Turn.waits:
        now = time.monotonic()
        if _Turn.depth == 0 and now >= _Turn.until_s:
            return
        if now - _Turn.since_s > MOST_S:
            return
        time.sleep(_NAP_S)
