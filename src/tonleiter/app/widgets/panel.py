"""A frame whose content scrolls and is built anew when something else is shown."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QApplication, QFrame, QLayout, QScrollArea, QVBoxLayout, QWidget

from tonleiter.app.widgets.field import fields_in


def put_away(old: QWidget) -> None:
    """Take a widget out of sight now and delete it later.

    A signal of a widget inside it may be running just now: deleting it at once would pull the
    ground from under that. What was typed into its fields is kept for their successors.
    """
    for field in fields_in(old):
        field.retire()
    old.hide()
    old.deleteLater()


def clear(layout: QLayout) -> None:
    """Put away everything in a layout."""
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            put_away(widget)


class _Holder(QWidget):
    """What stays in a scroll area while its content changes.

    A widget that leaves its parent is undressed of the style sheet with all that is in it, and
    dressed again by the next parent: twice the work of showing it, for something that goes.
    """

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)

    def content(self) -> QWidget | None:
        item = self._column.itemAt(0)
        return item.widget() if item is not None else None

    def take(self, new: QWidget, area: QScrollArea) -> None:
        # before the keyboard leaves them: what is typed there is kept, not taken over
        for field in fields_in(self):
            field.retire()
        focus = QApplication.focusWidget()
        if focus is not None and self.isAncestorOf(focus):
            # it goes: hiding it would hand the keyboard to whatever comes next
            focus.clearFocus()
        # laid out while nothing is seen, and seen at once: not empty, nor squeezed, for a turn
        self.hide()
        clear(self._column)
        self._column.addWidget(new)
        # before those that go: who looks for a field finds the new one first
        new.lower()
        new.show()
        QApplication.sendEvent(area, QEvent(QEvent.Type.LayoutRequest))
        self.show()


def content_of(area: QScrollArea) -> QWidget | None:
    """What a scroll area shows by ``replace_content``."""
    holder = area.widget()
    return holder.content() if isinstance(holder, _Holder) else holder


def replace_content(area: QScrollArea, new: QWidget) -> None:
    """Show another widget in a scroll area; the keyboard stays on the successor of its field."""
    at = _focused_in(content_of(area))
    holder = area.widget()
    if not isinstance(holder, _Holder):
        holder = _Holder()
        area.setWidget(holder)
    holder.take(new, area)
    area.verticalScrollBar().setValue(0)
    if at:
        successor = next(
            (w for w in new.findChildren(QWidget) if w.accessibleName() == at and w.isEnabled()),
            None,
        )
        if successor is not None:
            successor.setFocus(Qt.FocusReason.OtherFocusReason)


def _focused_in(widget: QWidget | None) -> str:
    """Accessible name of what has the keyboard inside a widget; empty if nothing has."""
    focus = QApplication.focusWidget()
    if widget is None or focus is None or not widget.isAncestorOf(focus):
        return ""
    return focus.accessibleName()


class Panel(QFrame):
    """``name`` is its style; its content is a column that ``begin`` starts and ``finish`` shows."""

    def __init__(self, name: str, margins: tuple[int, int, int, int] = (16, 14, 14, 14)) -> None:
        super().__init__()
        self._name, self._margins = name, margins
        self._body = QWidget()
        self.setObjectName(name)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self.area)

    def begin(self, spacing: int) -> QVBoxLayout:
        """An empty column; what was shown stays until ``finish``."""
        if (shown := content_of(self.area)) is not None:
            # before their successors are made: these shall show what was typed
            for field in fields_in(shown):
                field.retire()
        self._body = body = QWidget()
        body.setObjectName("inspectorBody" if self._name == "inspector" else self._name)
        column = QVBoxLayout(body)
        column.setContentsMargins(*self._margins)
        column.setSpacing(spacing)
        return column

    def finish(self, column: QVBoxLayout) -> None:
        """Show the column that was begun."""
        column.addStretch(1)
        replace_content(self.area, self._body)
