"""The list of keys, over the middle of the window."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QScrollArea, QVBoxLayout, QWidget

from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.overlay import Overlay

Lines = Sequence[tuple[str, Sequence[tuple[str, str]]]]


class KeyList(Overlay):
    """Headings, and under each its keys with what they do."""

    def __init__(self, groups: Lines, window: QWidget) -> None:
        super().__init__(window)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 18, 24, 18)
        column.addWidget(label("Keys", "title"))
        body = QWidget()
        body.setObjectName("keyList")
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 0, 12, 0)
        grid.setHorizontalSpacing(24)
        grid.setVerticalSpacing(2)
        line = 0
        for heading, keys in groups:
            grid.addWidget(label(heading, "section"), line, 0, 1, 2)
            line += 1
            for key, words in keys:
                grid.addWidget(label(key, "figure"), line, 0)
                grid.addWidget(label(words, ""), line, 1)
                line += 1
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(body)
        self._area.setMinimumWidth(body.sizeHint().width() + 20)
        self._area.setMinimumHeight(min(body.sizeHint().height() + 4, window.height() - 150))
        column.addWidget(self._area)
        column.addWidget(label("F1 or Esc closes this list, or a press beside it.", "caption"))
        self.to_the_middle()
