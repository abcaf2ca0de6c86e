"""A field of several lines (netlist cards, notes), taken over on Ctrl+Enter or on leaving it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QPlainTextEdit

from tonleiter.app.drafts import Drafts, Key
from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.field import NOT_YET, Keeping, mark


class LinesField(QPlainTextEdit):
    """What was typed and refused stays, marked, until it is right or Escape is pressed."""

    accepted = Signal(str)

    def __init__(
        self, text: str, name: str, drafts: Drafts | None = None, key: Key | None = None
    ) -> None:
        super().__init__(text)
        self._text = text
        self._keeping = Keeping(drafts, key, name)
        self.setObjectName("cards")
        self.setAccessibleName(name)
        self.setToolTip("Ctrl+Enter takes it over, Escape gives the old text back")
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setTabChangesFocus(True)
        if (draft := self._keeping.kept()) is not None:
            self.setPlainText(draft.text)
            self._keeping.why = draft.why
            mark(self, draft.why != NOT_YET)

    def show_text(self, text: str) -> None:
        """Show another text, unless there is something typed that is not taken over."""
        typing = self.toPlainText() != self._text and (self.hasFocus() or bool(self._keeping.why))
        self._text = text
        if not typing and self.toPlainText() != text:
            self.setPlainText(text)
            self.settle()

    def commit(self) -> None:
        """Offer what was typed."""
        if self._keeping.retired:
            return
        if self.toPlainText() != self._text:
            self.accepted.emit(self.toPlainText())
        else:
            self.settle()

    def take_over(self) -> str:
        """Commit; returns the refusal, empty if all is taken over."""
        self.commit()
        return self._keeping.why

    def retire(self) -> None:
        """Its panel is built anew: what was typed is kept for its successor."""
        if self.toPlainText() != self._text and not self._keeping.why:
            self._keeping.keep(self.toPlainText())
        self._keeping.retired = True

    def answer(self, why: str) -> None:
        """What became of the text that was offered: a refusal keeps and marks it."""
        if why:
            self._keeping.keep(self.toPlainText(), why)
            mark(self, bad=True)
        else:
            self.settle()

    def settle(self) -> None:
        """Nothing is refused here."""
        self._keeping.drop()
        mark(self, bad=False)

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Ctrl+Enter takes over, Escape restores."""
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.commit()
        elif event.key() == Qt.Key.Key_Escape:
            self.setPlainText(self._text)
            self.settle()
        else:
            super().keyPressEvent(event)

    @guarded
    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving the field takes over what was typed."""
        super().focusOutEvent(event)
        self.commit()
