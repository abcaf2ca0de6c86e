"""Work of the window's own thread in several turns of its loop: keys are heard in between.

What takes a quarter of a second as one piece makes the window deaf for as long; as four pieces, one
a turn, it does not.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

from tonleiter.app import turns


def _nothing() -> None:
    """A turn that is left to others."""


class InTurns(QObject):
    """A row of things to do, one a turn; a new row takes the place of what is left of the old."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._row: deque[Callable[[], object]] = deque()
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.setInterval(0)
        self._turn.timeout.connect(self._next)

    @property
    def busy(self) -> bool:
        """Whether anything is still to be done."""
        return bool(self._row)

    def take(self, *row: Callable[[], object]) -> None:
        """Do these, one in each of the next turns."""
        self._row = deque(row)
        self._turn.start()

    def take_after(self, *row: Callable[[], object]) -> None:
        """The same once what this turn changes is painted, which is done at its end."""
        self.take(_nothing, *row)

    def add(self, do: Callable[[], object]) -> None:
        """Do this as well, when all the others are done."""
        self._row.append(do)
        self._turn.start()

    def drop(self) -> None:
        """What is left is not done any more."""
        self._row.clear()
        self._turn.stop()

    @turns.at_work()
    def _next(self) -> None:
        row = self._row
        if not row:
            return
        try:
            row.popleft()()
        finally:
            # what was done may have begun another row
            if self._row:
                self._turn.start()
