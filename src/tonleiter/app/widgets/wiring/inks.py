"""How the colour of a wire is drawn; its word always stands beside it."""

from __future__ import annotations

from PySide6.QtGui import QColor

from tonleiter.app.theme.palette import Palette

_INKS = {
    "white": "#8FA3B0",
    "yellow": "#C9A227",
    "red": "#A93420",
    "black": "#1D2A35",
    "green": "#4B7A3C",
    "blue": "#2F5D9B",
    "brown": "#7A4A22",
    "orange": "#C96A1B",
    "grey": "#7B858D",
    "violet": "#6E4A8E",
    "pink": "#C46A86",
    "turquoise": "#1C8A8A",
    "bare": "#7A7F85",
    "bare braid": "#7A7F85",
    "any": "#5C6873",
}


def inks_of(colour: str, palette: Palette) -> tuple[QColor, QColor | None]:
    """The ink of a wire, and that of its second colour if it has two."""
    halves = [_ink(half, palette) for half in colour.split("/")]
    return halves[0], halves[1] if len(halves) > 1 else None


def _ink(word: str, palette: Palette) -> QColor:
    if word == "black" and palette.name == "dark":
        # black on a dark ground would not be seen: its word says what it is
        return palette.color("ink")
    return QColor(_INKS[word])


def is_braid(colour: str) -> bool:
    """Whether it is drawn thick."""
    return colour == "bare braid"
