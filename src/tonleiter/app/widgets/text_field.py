"""A field for a line of text (a name, a node), taken over on Enter or on leaving it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit

from tonleiter.app.drafts import Drafts, Key
from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.field import Keeping, TypedText


class TextField(TypedText, QLineEdit):
    """What was typed and refused stays, marked, until it is right or Escape is pressed."""

    accepted = Signal(str)

    def __init__(
        self, text: str, name: str, drafts: Drafts | None = None, key: Key | None = None
    ) -> None:
        QLineEdit.__init__(self, text)
        self.setAccessibleName(name)
        self.returnPressed.connect(self.commit)
        self.begin(text, Keeping(drafts, key, name))

    def typed(self) -> str:
        """The text as it stands there."""
        return self.text()

    def write(self, text: str) -> None:
        """Put a text there."""
        self.setText(text)
        self.setCursorPosition(0)  # a long name is read from its beginning

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape gives the old text back."""
        if event.key() == Qt.Key.Key_Escape and self.text() != self._text:
            self.give_back()
        else:
            super().keyPressEvent(event)

    @guarded
    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving the field takes over what was typed."""
        super().focusOutEvent(event)
        self.commit()
