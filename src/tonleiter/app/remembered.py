"""How a window was left, by the station that it showed: its size, and the space one was in."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QSettings
from PySide6.QtGui import QGuiApplication

from tonleiter.app.spaces.registry import SPACES

if TYPE_CHECKING:
    from tonleiter.app.window import MainWindow

LEAST_PX, MOST_PX = 200, 20_000


def _key(folder: Path) -> str:
    return f"left/{hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:16]}"


def keep(window: MainWindow) -> None:
    """Keep how a window is left. What is only looked at is left as it was found."""
    if not window.is_open or window.document.looks_only or not window.document.placed:
        return
    box = window.normalGeometry()
    whole = "maximised" if window.isMaximized() else "window"
    chain = window.document.station.open_chain or "-"
    said = f"{box.width()} {box.height()} {whole} {window.shown} {box.x()} {box.y()} {chain}"
    QSettings().setValue(_key(window.document.folder), said)


def _put(window: MainWindow, place: QPoint) -> None:
    """There again, if a screen is still there; where the desktop places windows it does."""
    middle = place + QPoint(window.width() // 2, 20)
    if QGuiApplication.screenAt(middle) is not None:
        window.move(place)


@dataclass(frozen=True)
class Left:
    """How a window was left; what nobody knows is empty or None."""

    size: tuple[int, int]
    whole: str
    space: str
    place: tuple[int, int] | None = None
    chain: str = ""


def left_at(folder: Path) -> Left | None:
    """How the window of a station was left; what cannot be understood is ignored."""
    said = str(QSettings().value(_key(folder), "")).split()
    # a window of before its place was kept left four words
    if len(said) not in (4, 7):
        return None
    wide, high, whole, name = said[:4]
    space = name if name in {entry.name for entry in SPACES} else ""
    try:
        size = int(wide), int(high)
        if len(said) == 4:
            return Left(size, whole, space)
        return Left(size, whole, space, (int(said[4]), int(said[5])), said[6])
    except ValueError:
        return None


def restore(window: MainWindow, sized: bool = True) -> None:
    """As it was left, which its own first space is already. ``sized``: its size as well."""
    left = left_at(window.document.folder)
    if left is None:
        return
    if sized and all(LEAST_PX <= px <= MOST_PX for px in left.size):
        window.resize(window.fitting(*left.size))
    if sized and left.place is not None:
        _put(window, QPoint(*left.place))
    window.look_at_chain(left.chain)
    if sized and left.whole == "maximised":
        window.showMaximized()
    if left.space and left.space != window.shown:
        window.go_to(left.space)
