"""Any table or picture of the window on the clipboard: tab-separated and HTML; PNG and SVG."""

from __future__ import annotations

import html
from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QMimeData, QModelIndex, QPoint, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QGridLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QMenu,
    QWidget,
)

from tonleiter.app.notice import Notice
from tonleiter.app.theme.look import Look

Rows = Sequence[Sequence[str]]
SVG = "image/svg+xml"
# smaller ones are marks beside words
LEAST_PX = 60
# a table of labels has at least so many rows
LEAST_ROWS = 2


def copyable(widget: QWidget | None) -> QWidget | None:
    """The table or the picture that a widget is, or stands in; None for neither."""
    while widget is not None:
        if isinstance(widget, QAbstractItemView) or is_picture(widget) or rows_of_grid(widget):
            return widget
        if widget.isWindow():
            return None
        widget = widget.parentWidget()
    return None


def is_picture(widget: QWidget) -> bool:
    """Whether it is painted by us: a ladder, a response, a meter, a drawing."""
    ours = type(widget).__module__.startswith("tonleiter")
    painted = any(
        "paintEvent" in vars(kind)
        for kind in type(widget).__mro__
        if kind.__module__.startswith("tonleiter")
    )
    written = isinstance(widget, QLabel | QAbstractButton | QComboBox | QLineEdit)
    roomy = widget.width() >= LEAST_PX and widget.height() >= LEAST_PX
    return ours and painted and not written and roomy and widget.layout() is None


def what(widget: QWidget) -> str:
    """What it is called in a menu."""
    return "picture" if is_picture(widget) else "table"


def copy_from(widget: QWidget | None, notice: Notice) -> None:
    """Put the table or picture that a widget is, or stands in, on the clipboard, and say so."""
    found = copyable(widget)
    if found is None:
        notice.say("There is no table and no picture here to copy.", fades=True)
        return
    QApplication.clipboard().setMimeData(data_of(found))
    notice.say(f"The {what(found)} is on the clipboard", fades=True)


def menu_of(
    found: QWidget, parent: QWidget, look: Look, copy: Callable[[QWidget], object]
) -> QMenu:
    """A menu of one line: to copy what was found."""
    menu = QMenu(parent)
    look.dress(menu)
    menu.addAction(f"Copy as a {what(found)}", partial(copy, found))
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    return menu


def data_of(widget: QWidget) -> QMimeData:
    """What goes on the clipboard for a table or a picture."""
    if is_picture(widget):
        return _picture(widget)
    rows = _of_view(widget) if isinstance(widget, QAbstractItemView) else rows_of_grid(widget)
    return table(rows)


def table(rows: Rows) -> QMimeData:
    """Rows as tab-separated text, and as a table that a word processor takes."""
    made = QMimeData()
    clean = [[" ".join(cell.split()) for cell in row] for row in rows]
    made.setText("\n".join("\t".join(row) for row in clean))
    cells = "".join(
        f"<tr>{''.join(f'<td>{html.escape(c)}</td>' for c in row)}</tr>" for row in clean
    )
    made.setHtml(f"<table>{cells}</table>")
    return made


def _picture(widget: QWidget) -> QMimeData:
    made = QMimeData()
    made.setImageData(widget.grab().toImage())
    made.setData(SVG, svg_of(widget))
    words = widget.accessibleDescription() or widget.accessibleName()
    if words:
        made.setText(words)
    return made


def svg_of(widget: QWidget) -> bytes:
    """The widget as it is painted, as an SVG."""
    from tonleiter.app.widgets.vector import svg_bytes

    return svg_bytes(
        widget.accessibleName(),
        widget.width(),
        widget.height(),
        lambda painter: widget.render(painter, QPoint(0, 0)),
    )


def _of_view(view: QAbstractItemView) -> Rows:
    """What a list, a tree or a table shows, line by line; a tree's lower lines are put in."""
    model = view.model()
    rows: list[list[str]] = []

    def walk(parent: QModelIndex, depth: int) -> None:
        for k in range(model.rowCount(parent)):
            cells = [
                str(model.index(k, n, parent).data() or "")
                for n in range(model.columnCount(parent))
            ]
            cells[0] = "  " * depth + cells[0]
            rows.append(cells)
            walk(model.index(k, 0, parent), depth + 1)

    if model is not None:
        walk(QModelIndex(), 0)
    return rows


def rows_of_grid(widget: QWidget) -> Rows:
    """Rows of a grid of names and figures within a panel; nothing where there is no such one."""
    grids = [g for g in _grids(widget.layout()) if g.rowCount() >= LEAST_ROWS]
    rows = []
    for grid in grids:
        for line in range(grid.rowCount()):
            cells = [_text(grid, line, n) for n in range(grid.columnCount())]
            if sum(bool(c) for c in cells) >= 2:
                rows.append(cells)
    return rows if len(rows) >= LEAST_ROWS else []


def _grids(layout: QLayout | None) -> list[QGridLayout]:
    if layout is None:
        return []
    made = [layout] if isinstance(layout, QGridLayout) else []
    for k in range(layout.count()):
        item = layout.itemAt(k)
        inside = item.layout() if item is not None else None
        if inside is not None:
            made += _grids(inside)
    return made


def _text(grid: QGridLayout, line: int, column: int) -> str:
    item = grid.itemAtPosition(line, column)
    widget = item.widget() if item is not None else None
    if widget is None or widget.isHidden():
        return ""
    if isinstance(widget, QComboBox):
        return widget.currentText()
    if isinstance(widget, QLabel | QLineEdit | QAbstractButton):
        return widget.text()
    return ""
