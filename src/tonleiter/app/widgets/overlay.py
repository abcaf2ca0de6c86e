"""A card over the middle of the window: Escape, or a press beside it, asks for its end.

It listens at the window's own door, where a press or a key comes once: a filter on the whole
application would be asked about each of some ten thousand events when the look changes.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeySequence, QMouseEvent, QShortcut, QWindow
from PySide6.QtWidgets import QAbstractButton, QFrame, QWidget

from tonleiter.app.safety.events import guarded


class Overlay(QFrame):
    """``left`` asks for its end: by Escape, or by a press beside it."""

    left = Signal()
    ends_beside = True
    """Whether a press beside it ends it."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._over = window
        self.setObjectName("card")
        escape = QShortcut(QKeySequence(Qt.Key.Key_Escape), self)
        escape.setContext(Qt.ShortcutContext.WindowShortcut)
        for asked in (escape.activated, escape.activatedAmbiguously):
            asked.connect(self.left)
        self._door: QWindow | None = window.window().windowHandle()
        if self._door is not None:
            self._door.installEventFilter(self)

    def to_the_middle(self) -> None:
        """As large as what stands in it, in the middle of the window."""
        window = self._over
        self.adjustSize()
        self.move((window.width() - self.width()) // 2, (window.height() - self.height()) // 2)

    @guarded
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """A press beside it goes no further, but to a button: that does what it says."""
        if event.type() != QEvent.Type.MouseButtonPress or not self.isVisible():
            return False
        if not self.ends_beside or not isinstance(event, QMouseEvent):
            return False
        at = self.mapFromGlobal(event.globalPosition().toPoint())
        if self.rect().contains(at):
            return False
        self.left.emit()
        there = self._over.childAt(self._over.mapFromGlobal(event.globalPosition().toPoint()))
        return not isinstance(there, QAbstractButton)
