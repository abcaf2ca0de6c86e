"""A field of several lines (netlist cards, notes), taken over on Ctrl+Enter or on leaving it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QPlainTextEdit

from tonleiter.app.drafts import Drafts, Key
from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.field import Keeping, TypedText


class LinesField(TypedText, QPlainTextEdit):
    """What was typed and refused stays, marked, until it is right or Escape is pressed."""

    accepted = Signal(str)

    def __init__(
        self, text: str, name: str, drafts: Drafts | None = None, key: Key | None = None
    ) -> None:
        QPlainTextEdit.__init__(self, text)
        self.setObjectName("cards")
        self.setAccessibleName(name)
        self.setToolTip("Ctrl+Enter takes it over, Escape gives the old text back")
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setTabChangesFocus(True)
        self.begin(text, Keeping(drafts, key, name))

    def typed(self) -> str:
        """The text as it stands there."""
        return self.toPlainText()

    def write(self, text: str) -> None:
        """Put a text there."""
        self.setPlainText(text)

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Ctrl+Enter takes over, Escape restores."""
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.commit()
        elif event.key() == Qt.Key.Key_Escape:
            self.give_back()
        else:
            super().keyPressEvent(event)

    @guarded
    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving the field takes over what was typed."""
        super().focusOutEvent(event)
        self.commit()
