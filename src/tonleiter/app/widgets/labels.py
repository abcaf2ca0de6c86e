"""Labels and buttons with a role that the style sheet knows."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton


def label(text: str, role: str, wraps: bool = False) -> QLabel:
    """A label."""
    made = QLabel(text)
    made.setProperty("role", role)
    made.setWordWrap(wraps)
    return made


def button(text: str, role: str, action: Callable[[], object], tip: str = "") -> QPushButton:
    """A button that does something."""
    made = QPushButton(text)
    made.setProperty("role", role)
    made.setAccessibleName(text)
    made.setToolTip(tip)
    made.setCursor(Qt.CursorShape.PointingHandCursor)
    made.clicked.connect(lambda: action())
    return made
