"""What was left goes piece by piece: all at once it takes longer than a hand waits.

A space is taken out of the window first, and by ``setParent``: a widget that a stack let go of, but
that was still its child when it was destroyed, was kept by the bindings for good in one of ten
cases, with its whole station; so was, now and then, what a single shot of a timer was to destroy.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

GOES_MS = 20


class Going(QObject):
    """A row of objects of the toolkit; one of them goes every now and then."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._row: deque[QObject] = deque()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._next)

    def add(self, gone: Iterable[QObject]) -> None:
        """These go, in this order; widgets are out of sight at once."""
        for one in gone:
            if isinstance(one, QWidget):
                # hidden by it as well
                one.setParent(None)
            self._row.append(one)
        self._timer.start(GOES_MS)

    def _next(self) -> None:
        if not self._row:
            self._timer.stop()
            return
        one = self._row.popleft()
        if isValid(one):
            one.deleteLater()
