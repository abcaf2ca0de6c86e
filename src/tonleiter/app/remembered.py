"""How a window was left, by the station that it showed: its size, and the space one was in."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings

from tonleiter.app.spaces.registry import SPACES

if TYPE_CHECKING:
    from tonleiter.app.window import MainWindow

LEAST_PX, MOST_PX = 200, 20_000


def _key(folder: Path) -> str:
    return f"left/{hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:16]}"


def keep(window: MainWindow) -> None:
    """Keep how a window is left. What is only looked at is left as it was found."""
    if not window.is_open or window.document.looks_only:
        return
    size = window.normalGeometry().size()
    whole = "maximised" if window.isMaximized() else "window"
    said = f"{size.width()} {size.height()} {whole} {window.shown}"
    QSettings().setValue(_key(window.document.folder), said)


def restore(window: MainWindow, sized: bool = True) -> bool:
    """As it was left; what cannot be understood is ignored. Whether there was anything.

    ``sized``: its size as well.
    """
    said = str(QSettings().value(_key(window.document.folder), "")).split()
    if len(said) != 4:
        return False
    wide, high, whole, name = said
    try:
        size = int(wide), int(high)
    except ValueError:
        return False
    if sized and all(LEAST_PX <= px <= MOST_PX for px in size):
        window.resize(window.fitting(*size))
    if sized and whole == "maximised":
        window.showMaximized()
    if name in {entry.name for entry in SPACES}:
        window.go_to(name)
        return True
    return False
