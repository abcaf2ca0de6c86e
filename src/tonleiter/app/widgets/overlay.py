"""A card over the middle of the window: Escape, or a press beside it, asks for its end."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QFrame, QWidget

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
        if (application := QApplication.instance()) is not None:
            application.installEventFilter(self)

    def to_the_middle(self) -> None:
        """As large as what stands in it, in the middle of the window."""
        window = self._over
        self.adjustSize()
        self.move((window.width() - self.width()) // 2, (window.height() - self.height()) // 2)

    @guarded
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Escape wherever the keyboard is, and presses beside it; both go no further."""
        if not self.isVisible() or not isinstance(watched, QWidget):
            return False
        if watched.window() is not self.window():
            return False
        escape = isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape
        if escape and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # it is a key here, and nobody's shortcut
            return True
        if escape and event.type() == QEvent.Type.KeyPress:
            self.left.emit()
            return True
        pressed = event.type() == QEvent.Type.MouseButtonPress
        if self.ends_beside and pressed and isinstance(event, QMouseEvent):
            at = self.mapFromGlobal(event.globalPosition().toPoint())
            if not self.rect().contains(at):
                self.left.emit()
                # a button beside it does what it says; an edit by the way is not meant
                return not isinstance(watched, QAbstractButton)
        return False
