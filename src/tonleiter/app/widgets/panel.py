"""A frame whose content scrolls and is built anew when something else is shown."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget


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
        self._body = body = QWidget()
        body.setObjectName("inspectorBody" if self._name == "inspector" else self._name)
        column = QVBoxLayout(body)
        column.setContentsMargins(*self._margins)
        column.setSpacing(spacing)
        return column

    def finish(self, column: QVBoxLayout) -> None:
        """Show the column that was begun."""
        column.addStretch(1)
        self.area.setWidget(self._body)
