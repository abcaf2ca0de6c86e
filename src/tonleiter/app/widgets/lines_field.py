"""A field of several lines (netlist cards, notes), taken over on Ctrl+Enter or on leaving it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QPlainTextEdit


class LinesField(QPlainTextEdit):
    """What was typed and refused stays, marked, until it is right or Escape is pressed."""

    accepted = Signal(str)

    def __init__(self, text: str, name: str) -> None:
        super().__init__(text)
        self._text = text
        self.setObjectName("cards")
        self.setAccessibleName(name)
        self.setToolTip("Ctrl+Enter takes it over, Escape gives the old text back")
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setTabChangesFocus(True)

    def show_text(self, text: str) -> None:
        """Show another text, unless somebody is typing."""
        typing = self.hasFocus() and self.toPlainText() != self._text
        refused = bool(self.property("bad")) and text == self._text
        self._text = text
        if not typing and not refused and self.toPlainText() != text:
            self.setPlainText(text)
            self.mark(bad=False)

    def commit(self) -> None:
        """Offer what was typed."""
        if self.toPlainText() != self._text:
            self.accepted.emit(self.toPlainText())
        else:
            self.mark(bad=False)

    def mark(self, bad: bool) -> None:
        """Show that the text was refused, or that it was not."""
        if bool(self.property("bad")) != bad:
            self.setProperty("bad", bad)
            self.style().unpolish(self)
            self.style().polish(self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Ctrl+Enter takes over, Escape restores."""
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.commit()
        elif event.key() == Qt.Key.Key_Escape:
            self.setPlainText(self._text)
            self.mark(bad=False)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving the field takes over what was typed."""
        super().focusOutEvent(event)
        self.commit()
