"""A box to tick whose words may take several lines."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.labels import label


class WrappedCheck(QWidget):
    """The box bears the words' name; a press on the words ticks it."""

    toggled = Signal(bool)

    def __init__(self, words: str, role: str = "", on: bool = False) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.box = QCheckBox()
        self.box.setAccessibleName(words)
        self.box.setChecked(on)
        self.box.toggled.connect(self.toggled)
        self._words = label(words, role, wraps=True)
        row.addWidget(self.box, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self._words, 1)
        self.setFocusProxy(self.box)

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """On the words as on the box."""
        if event.button() == Qt.MouseButton.LeftButton:
            self.box.toggle()
