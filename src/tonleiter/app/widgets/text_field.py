"""A field for a line of text (a name, a node), taken over on Enter or on leaving it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit

from tonleiter.app.drafts import Drafts, Key
from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.field import NOT_YET, Keeping, mark


class TextField(QLineEdit):
    """What was typed and refused stays, marked, until it is right or Escape is pressed."""

    accepted = Signal(str)

    def __init__(
        self, text: str, name: str, drafts: Drafts | None = None, key: Key | None = None
    ) -> None:
        super().__init__(text)
        self._text = text
        self._keeping = Keeping(drafts, key, name)
        self.setAccessibleName(name)
        self.returnPressed.connect(self.commit)
        if (draft := self._keeping.kept()) is not None:
            self.setText(draft.text)
            self._keeping.why = draft.why
            mark(self, draft.why != NOT_YET)

    def show_text(self, text: str) -> None:
        """Show another text, unless there is something typed that is not taken over."""
        typing = self.text() != self._text and (self.hasFocus() or bool(self._keeping.why))
        self._text = text
        if not typing and self.text() != text:
            self.setText(text)
            self.setCursorPosition(0)  # a long name is read from its beginning
            self._settle()

    def commit(self) -> None:
        """Offer what was typed."""
        if self._keeping.retired:
            return
        if self.text() != self._text:
            self.accepted.emit(self.text())
        else:
            self._settle()

    def take_over(self) -> str:
        """Commit; returns the refusal, empty if all is taken over."""
        self.commit()
        return self._keeping.why

    def retire(self) -> None:
        """Its panel is built anew: what was typed is kept for its successor."""
        if self.text() != self._text and not self._keeping.why:
            self._keeping.keep(self.text())
        self._keeping.retired = True

    def answer(self, why: str) -> None:
        """What became of the text that was offered: a refusal keeps and marks it."""
        if why:
            self._keeping.keep(self.text(), why)
            mark(self, bad=True)
        else:
            self._settle()

    def _settle(self) -> None:
        self._keeping.drop()
        mark(self, bad=False)

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape gives the old text back."""
        if event.key() == Qt.Key.Key_Escape and self.text() != self._text:
            self.setText(self._text)
            self._settle()
        else:
            super().keyPressEvent(event)

    @guarded
    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving the field takes over what was typed."""
        super().focusOutEvent(event)
        self.commit()
