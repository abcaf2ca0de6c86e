"""What all fields for typing share: taking over, refusing, and never losing what was typed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol, cast

from PySide6.QtWidgets import QWidget

from tonleiter.app.drafts import Draft, Drafts, Key
from tonleiter.core.refused import RefusedError

NOT_YET = "what was typed there is not taken over yet"


class Field(Protocol):
    """A widget that takes typed text over."""

    def take_over(self) -> str:
        """Take over what was typed; returns the refusal, empty if all is taken over."""
        ...

    def retire(self) -> None:
        """Its panel is built anew: what was typed is kept for its successor."""
        ...


class Keeping:
    """Drafts of one field: refused or not yet taken over. Without a key nothing is kept."""

    def __init__(self, drafts: Drafts | None, key: Key | None, name: str) -> None:
        self._drafts, self._key, self._name = drafts, key, name
        self.retired = False
        self.why = ""

    def kept(self) -> Draft | None:
        """What a predecessor of this field left."""
        if self._drafts is None or self._key is None:
            return None
        return self._drafts.get(self._key)

    def keep(self, text: str, why: str = NOT_YET) -> None:
        """Keep a text that is not taken over."""
        self.why = why
        if self._drafts is not None and self._key is not None:
            self._drafts.keep(self._key, Draft(text, self._name, why))

    def drop(self) -> None:
        """Taken over, or given up."""
        self.why = ""
        if self._drafts is not None and self._key is not None:
            self._drafts.drop(self._key)


class TypedText:
    """What fields for text do alike: offer what was typed, keep what was refused.

    A mixin for widgets, which say how their text is read and written and have ``accepted``.
    """

    accepted: Any
    _text: str
    _keeping: Keeping

    def typed(self) -> str:
        """The text as it stands in the widget."""
        raise NotImplementedError

    def write(self, text: str) -> None:
        """Put a text into the widget."""
        raise NotImplementedError

    def begin(self, text: str, keeping: Keeping) -> None:
        """The text that is shown, or what a predecessor was left with."""
        self._text, self._keeping = text, keeping
        if (draft := keeping.kept()) is not None:
            self.write(draft.text)
            keeping.why = draft.why
            mark(cast(QWidget, self), draft.why != NOT_YET)

    def show_text(self, text: str) -> None:
        """Show another text, unless there is something typed that is not taken over."""
        at_hand = cast(QWidget, self).hasFocus() or bool(self._keeping.why)
        typing = self.typed() != self._text and at_hand
        self._text = text
        if not typing and self.typed() != text:
            self.write(text)
            self.settle()

    def commit(self) -> None:
        """Offer what was typed."""
        if self._keeping.retired:
            return
        if self.typed() != self._text:
            self.send(self.typed())
        else:
            self.settle()

    def send(self, typed: str) -> None:
        """Tell of a text to be taken over; a field for something else reads it first."""
        self.accepted.emit(typed)

    def give_back(self) -> None:
        """The old text again."""
        self.write(self._text)
        self.settle()

    def take_over(self) -> str:
        """Commit; returns the refusal, empty if all is taken over."""
        self.commit()
        return self._keeping.why

    def retire(self) -> None:
        """Its panel is built anew: what was typed is kept for its successor."""
        if self.typed() != self._text and not self._keeping.why:
            self._keeping.keep(self.typed())
        self._keeping.retired = True

    def answer(self, why: str) -> None:
        """What became of the text that was offered: a refusal keeps and marks it."""
        if why:
            self._keeping.keep(self.typed(), why)
            mark(cast(QWidget, self), bad=True)
        else:
            self.settle()

    def offer(self, take: Callable[[], object]) -> str:
        """Let ``take`` take the text over; returns the refusal, which is shown here as well."""
        why = ""
        try:
            take()
        except RefusedError as error:
            why = str(error)
        self.answer(why)
        return why

    def settle(self) -> None:
        """Nothing is refused here."""
        self._keeping.drop()
        mark(cast(QWidget, self), bad=False)


def mark(widget: QWidget, bad: bool) -> None:
    """Show that a widget's text was refused, or that it was not."""
    if bool(widget.property("bad")) != bad:
        widget.setProperty("bad", bad)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


def fields_in(widget: QWidget) -> list[Field]:
    """All fields inside a widget."""
    # asked by name: the protocol's own check is slow, and a window has hundreds of widgets
    found = [w for w in widget.findChildren(QWidget) if hasattr(type(w), "take_over")]
    return cast("list[Field]", found)


def take_over_all(widget: QWidget) -> None:
    """Take over what was typed anywhere inside a widget; what is refused stays, as a draft."""
    for field in fields_in(widget):
        field.take_over()
