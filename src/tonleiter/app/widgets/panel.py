"""A frame whose content scrolls and is built anew when something else is shown."""

from __future__ import annotations

from PySide6.QtCore import Qt
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


def replace_content(area: QScrollArea, new: QWidget) -> None:
    """Show another widget in a scroll area; the keyboard stays on the successor of its field."""
    at = _focused_in(area.widget())
    for field in fields_in(area):
        field.retire()
    old = area.takeWidget()
    area.setWidget(new)
    if old is not None:
        # without a parent it would go with the last name for it here, which is at once
        old.setParent(area)
        put_away(old)
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
        if (shown := self.area.widget()) is not None:
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
