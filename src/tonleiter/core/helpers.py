"""A second pair of hands: the core makes no threads, but whoever runs it may lend one.

NumPy lets go of the interpreter while it solves, so two halves of a batch can be solved on two
cores. Without a helper the parts are simply done one after the other.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from typing import TypeVar

Part = TypeVar("Part")
Result = TypeVar("Result")

_lent: Executor | None = None
_to: int | None = None


def lend(executor: Executor | None) -> None:
    """Lend an executor to the thread that calls this (or take it back with None).

    Other threads do their parts themselves: they would only wait for each other.
    """
    global _lent, _to
    _lent, _to = executor, threading.get_ident()


def hands() -> int:
    """How many parts are worth making."""
    return 1 if _lent is None or threading.get_ident() != _to else 2


def both(work: Callable[[Part], Result], parts: Sequence[Part]) -> list[Result]:
    """``work`` on each part, in order; the first by the helper, if one was lent."""
    if _lent is None or hands() < 2 or len(parts) < 2:
        return [work(part) for part in parts]
    try:
        first = _lent.submit(work, parts[0])
    except RuntimeError:  # the helper went home: the application is being left
        return [work(part) for part in parts]
    rest = [work(part) for part in parts[1:]]
    return [first.result(), *rest]
