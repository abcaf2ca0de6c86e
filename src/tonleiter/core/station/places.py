"""The user's folders, by the XDG base directory specification."""

from __future__ import annotations

import os
from pathlib import Path


def _folder(variable: str, *usual: str) -> Path:
    base = os.environ.get(variable, "")
    # the specification wants absolute paths and others ignored
    return Path(base) if base.startswith("/") else Path.home().joinpath(*usual)


def data_folder() -> Path:
    """Where the user's data lives."""
    return _folder("XDG_DATA_HOME", ".local", "share") / "tonleiter"


def state_folder() -> Path:
    """Where what should outlive a start lives: the log file, autosaves that find no other place."""
    return _folder("XDG_STATE_HOME", ".local", "state") / "tonleiter"
