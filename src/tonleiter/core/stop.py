"""Ending long work early: the core asks now and then whether somebody still waits for it.

Whoever starts long work (a job of the window, a command) says in a ``with`` block how it may be
stopped; loops of the core call ``checkpoint``. The core makes no threads: each thread has a
question of its own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_asked: ContextVar[Callable[[], bool] | None] = ContextVar("stopped", default=None)


class StoppedError(Exception):
    """Nobody waits for this work any more. Not a refusal: there is nothing to say."""


@contextmanager
def stopping(when: Callable[[], bool]) -> Iterator[None]:
    """Within the block, ``checkpoint`` raises StoppedError once ``when()`` is true."""
    before = _asked.set(when)
    try:
        yield
    finally:
        _asked.reset(before)


def checkpoint() -> None:
    """Raise StoppedError if this work is not wanted any more."""
    stopped = _asked.get()
    if stopped is not None and stopped():
        raise StoppedError
