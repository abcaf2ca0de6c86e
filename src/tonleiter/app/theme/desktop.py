"""What the desktop asks for at a first start: size of text, night, high contrast."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

# what desktops set where nobody has touched their text: ten points at 96 dots an inch
USUAL_PT, USUAL_DPI = 10.0, 96.0
# steps of the window's text; see ``look.SCALES``
STEPS = (1.0, 1.15, 1.3, 1.5)


@dataclass(frozen=True)
class Asked:
    """A theme by name, a step of the text's size, and whether contrast shall be high."""

    theme: str
    scale: float
    contrast: bool


def desktop_asks(app: QApplication) -> Asked:
    """Read before a font and a palette of our own are set."""
    hints = app.styleHints()
    contrast = hints.accessibility().contrastPreference() == Qt.ContrastPreference.HighContrast
    dark = hints.colorScheme() == Qt.ColorScheme.Dark
    theme = "dark" if dark else "contrast" if contrast else "light"
    screen = app.primaryScreen()
    dots = screen.logicalDotsPerInch() if screen is not None else USUAL_DPI
    points = app.font().pointSizeF()
    return Asked(theme, step_for(points if points > 0 else USUAL_PT, dots), contrast)


def step_for(points: float, dots_per_inch: float) -> float:
    """The step of text for a desktop's own; a point more or less is nobody's wish."""
    wanted = points / USUAL_PT * dots_per_inch / USUAL_DPI
    if wanted < 1.12:
        return 1.0
    return min(STEPS, key=lambda step: abs(step - wanted))
