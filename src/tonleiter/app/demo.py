"""The user's own copy of the demo station."""

from __future__ import annotations

import os
import shutil
from datetime import datetime
from pathlib import Path

from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import STATION_FILE

NAME = "hochtal.station"


def shipped_demo() -> Path:
    """The demo station as shipped: inside the installed package, or in the source tree."""
    package = Path(__file__).resolve().parents[1]
    candidates = (package / "demo" / NAME, package.parents[1] / "demo" / NAME)
    for candidate in candidates:
        if (candidate / STATION_FILE).is_file():
            return candidate
    raise FileError("the demo station is missing from this installation")


def data_folder() -> Path:
    """Where the user's data lives, by the XDG base directory specification."""
    base = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Path(base) / "tonleiter"


def demo_copy(fresh: bool = False) -> Path:
    """The user's copy of the demo, made if there is none; ``fresh`` sets an old copy aside.

    What was saved in the copy stays, so a second start finds it again. Raises FileError.
    """
    source = shipped_demo()
    copy = data_folder() / "demo" / NAME
    try:
        if fresh and copy.exists():
            copy.rename(copy.with_name(f"hochtal-{datetime.now():%Y%m%d-%H%M%S-%f}.station"))
        if not copy.exists():
            shutil.copytree(source, copy)
            for path in (copy, *copy.rglob("*")):
                path.chmod(0o755 if path.is_dir() else 0o644)
    except OSError as error:
        raise FileError(f"{copy}: the demo cannot be copied: {error.strerror}") from None
    return copy
