"""The user's own copy of the demo station."""

from __future__ import annotations

import shutil
import tempfile
from datetime import datetime
from pathlib import Path

from tonleiter.core.station.disk import FileError, reason
from tonleiter.core.station.files import STATION_FILE
from tonleiter.core.station.places import data_folder

NAME = "hochtal.station"


def shipped_demo() -> Path:
    """The demo station as shipped: inside the installed package, or in the source tree."""
    package = Path(__file__).resolve().parents[1]
    candidates = (package / "demo" / NAME, package.parents[1] / "demo" / NAME)
    for candidate in candidates:
        if (candidate / STATION_FILE).is_file():
            return candidate
    raise FileError("the demo station is missing from this installation")


def demo_copy(fresh: bool = False) -> Path:
    """The user's copy of the demo, made if there is none; ``fresh`` sets an old copy aside.

    What was saved in the copy stays, so a second start finds it again. A copy that was cut short
    is set aside and made anew. Raises FileError.
    """
    source = shipped_demo()
    copy = data_folder() / "demo" / NAME
    try:
        if copy.is_dir() and not (copy / STATION_FILE).is_file():
            copy.rename(copy.with_name(f"hochtal-incomplete-{datetime.now():%Y%m%d-%H%M%S-%f}"))
        if fresh and copy.exists():
            copy.rename(copy.with_name(f"hochtal-{datetime.now():%Y%m%d-%H%M%S-%f}.station"))
        if not copy.exists():
            copy.parent.mkdir(parents=True, exist_ok=True)
            # made under another name first: a start that is cut short leaves no half of a demo
            with tempfile.TemporaryDirectory(prefix=".hochtal-", dir=copy.parent) as half:
                made = Path(half) / NAME
                shutil.copytree(source, made)
                for path in (made, *made.rglob("*")):
                    path.chmod(0o755 if path.is_dir() else 0o644)
                made.rename(copy)
    except OSError as error:
        raise FileError(f"{copy}: the demo cannot be copied: {reason(error)}") from None
    return copy
