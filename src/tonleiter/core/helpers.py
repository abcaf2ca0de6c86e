"""A second pair of hands: the core makes no threads, but whoever runs it may lend one.

NumPy lets go of the interpreter while it solves, so two halves of a batch can be solved on two
cores. Without a helper the parts are simply done one after the other.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from typing import TypeVar

Part = TypeVar("Part")
Result = TypeVar("Result")

_lent: Executor | None = None


def lend(executor: Executor | None) -> None:
    """Lend an executor (or take it back with None)."""
    global _lent
    _lent = executor


def hands() -> int:
    """How many parts are worth making."""
    return 1 if _lent is None else 2


def both(work: Callable[[Part], Result], parts: Sequence[Part]) -> list[Result]:
    """``work`` on each part, in order; the first by the helper, if one was lent."""
    if _lent is None or len(parts) < 2:
        return [work(part) for part in parts]
    try:
        first = _lent.submit(work, parts[0])
    except RuntimeError:  # the helper went home: the application is being left
        return [work(part) for part in parts]
    rest = [work(part) for part in parts[1:]]
    return [first.result(), *rest]
