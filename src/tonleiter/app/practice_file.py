"""Where results of practice are kept: with the user's own data of this application."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QStandardPaths

FILE = "practice.json"


def usual_file() -> Path:
    """The file, whether it is there or not."""
    where = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.AppDataLocation)
    return Path(where) / FILE
