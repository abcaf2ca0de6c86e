"""The list of keys, over the middle of the window."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QFrame,
    QGridLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.labels import label

Lines = Sequence[tuple[str, Sequence[tuple[str, str]]]]


class KeyList(QFrame):
    """Headings, and under each its keys with what they do.

    ``left`` asks for its end: by Escape, or by a press beside it.
    """

    left = Signal()

    def __init__(self, groups: Lines, window: QWidget) -> None:
        super().__init__(window)
        self.setObjectName("card")
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 18, 24, 18)
        column.addWidget(label("Keys", "title"))
        body = QWidget()
        body.setObjectName("keyList")
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 0, 12, 0)
        grid.setHorizontalSpacing(24)
        grid.setVerticalSpacing(2)
        line = 0
        for heading, keys in groups:
            grid.addWidget(label(heading, "section"), line, 0, 1, 2)
            line += 1
            for key, words in keys:
                grid.addWidget(label(key, "figure"), line, 0)
                grid.addWidget(label(words, ""), line, 1)
                line += 1
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(body)
        self._area.setMinimumWidth(body.sizeHint().width() + 20)
        self._area.setMinimumHeight(min(body.sizeHint().height() + 4, window.height() - 150))
        column.addWidget(self._area)
        column.addWidget(label("F1 or Esc closes this list, or a press beside it.", "caption"))
        self.adjustSize()
        self.move((window.width() - self.width()) // 2, (window.height() - self.height()) // 2)
        if (application := QApplication.instance()) is not None:
            application.installEventFilter(self)

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
        if event.type() == QEvent.Type.MouseButtonPress and isinstance(event, QMouseEvent):
            at = self.mapFromGlobal(event.globalPosition().toPoint())
            if not self.rect().contains(at):
                self.left.emit()
                # a button beside it does what it says; an edit by the way is not meant
                return not isinstance(watched, QAbstractButton)
        return False
