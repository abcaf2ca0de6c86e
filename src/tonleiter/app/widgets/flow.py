"""A row that goes on in the next line where it is too narrow, as words do."""

from __future__ import annotations

from PySide6.QtCore import QMargins, QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget

from tonleiter.app.safety.events import guarded


class Flow(QLayout):
    """Widgets beside each other as far as the width goes; none is wider than that."""

    def __init__(self, *widgets: QWidget, gap_px: int = 8) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._gap = gap_px
        self.setContentsMargins(QMargins(0, 0, 0, 0))
        for widget in widgets:
            self.addWidget(widget)

    @guarded
    def addItem(self, item: QLayoutItem) -> None:
        """Take an item at the end."""
        self._items.append(item)

    @guarded
    def count(self) -> int:
        """How many there are."""
        return len(self._items)

    @guarded
    def itemAt(self, index: int) -> QLayoutItem | None:  # type: ignore[override]
        """One of them; None where there is none."""
        return self._items[index] if 0 <= index < len(self._items) else None

    @guarded
    def takeAt(self, index: int) -> QLayoutItem | None:  # type: ignore[override]
        """Give one up."""
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        """It takes what it needs."""
        return Qt.Orientation(0)

    @guarded
    def hasHeightForWidth(self) -> bool:
        """The narrower, the taller."""
        return True

    @guarded
    def heightForWidth(self, width: int) -> int:
        """In pixels."""
        return self._laid_out(QRect(0, 0, width, 0), apply=False)

    @guarded
    def setGeometry(self, rect: QRect) -> None:
        """Put them in their places."""
        super().setGeometry(rect)
        self._laid_out(rect, apply=True)

    @guarded
    def sizeHint(self) -> QSize:
        """All in one line."""
        hints = [i.sizeHint() for i in self._items if not i.isEmpty()]
        gaps = self._gap * max(len(hints) - 1, 0)
        return QSize(sum(h.width() for h in hints) + gaps, max([0, *(h.height() for h in hints)]))

    @guarded
    def minimumSize(self) -> QSize:
        """The widest by itself."""
        size = QSize()
        for item in self._items:
            if not item.isEmpty():
                size = size.expandedTo(item.minimumSize())
        return size

    def _laid_out(self, rect: QRect, apply: bool) -> int:
        """The height that it takes; each line's items stand in its middle."""
        x, y = rect.x(), rect.y()
        line: list[tuple[QLayoutItem, int, QSize]] = []
        for item in self._items:
            if item.isEmpty():
                continue
            hint = item.sizeHint()
            size = QSize(min(hint.width(), rect.width()), hint.height())
            if x > rect.x() and x + size.width() > rect.x() + rect.width():
                x, y = rect.x(), y + _set_in_line(line, y, apply) + self._gap // 2
                line = []
            line.append((item, x, size))
            x += size.width() + self._gap
        return y + _set_in_line(line, y, apply) - rect.y()


def _set_in_line(line: list[tuple[QLayoutItem, int, QSize]], y: int, apply: bool) -> int:
    """How high a line is."""
    high = max((size.height() for _, _, size in line), default=0)
    if apply:
        for item, x, size in line:
            item.setGeometry(QRect(QPoint(x, y + (high - size.height()) // 2), size))
    return high
