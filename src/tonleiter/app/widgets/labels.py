"""Labels and buttons with a role that the style sheet knows."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QLabel, QPushButton

from tonleiter.app import turns
from tonleiter.app.widgets.canvas.words import broken
from tonleiter.app.widgets.said import Said

# roles of what is a figure, or a name of somebody's
FIGURES = ("figure", "reading", "brand", "brand2", "mine")


def label(text: str, role: str, wraps: bool = False) -> QLabel:
    """A label; terms in its words can be pressed, but in what is only a figure."""
    made = QLabel() if role in FIGURES else Said()
    # names and notes are people's: a "<" in them is one
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setText(text)
    made.setProperty("role", role)
    made.setWordWrap(wraps)
    return made


def wrapped_button(
    text: str, role: str, action: Callable[[], object], metrics: QFontMetrics, width_px: int
) -> QPushButton:
    """The same with its words broken into lines: a button does not do so by itself."""
    made = button(text, role, action)
    made.setText("\n".join(broken(text, metrics, width_px)))
    return made


def button(text: str, role: str, action: Callable[[], object], tip: str = "") -> QPushButton:
    """A button that does something."""
    made = QPushButton(text)
    made.setProperty("role", role)
    made.setAccessibleName(text)
    made.setToolTip(tip)
    made.setCursor(Qt.CursorShape.PointingHandCursor)

    def do() -> None:
        with turns.at_work():
            action()

    made.clicked.connect(do)
    return made
