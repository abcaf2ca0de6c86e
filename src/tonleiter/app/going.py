"""What was left goes piece by piece: all at once it takes longer than a hand waits.

By one timer and a row: what a single shot of a timer was to destroy was kept by the bindings, with
its whole station, about twice as often.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable

from PySide6.QtCore import QObject, QTimer
from shiboken6 import isValid

GOES_MS = 20


class Going(QObject):
    """A row of objects of the toolkit, out of sight already; one goes every now and then."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._row: deque[QObject] = deque()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._next)

    def add(self, gone: Iterable[QObject]) -> None:
        """These go, in this order."""
        self._row.extend(gone)
        self._timer.start(GOES_MS)

    def _next(self) -> None:
        if not self._row:
            self._timer.stop()
            return
        one = self._row.popleft()
        if isValid(one):
            one.deleteLater()
