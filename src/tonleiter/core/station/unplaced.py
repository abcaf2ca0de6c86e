"""Stations that nobody gave a place yet: a folder of the application's own holds them meanwhile.

So a log, readings and recordings have somewhere to be from the first minute, a power cut loses
nothing, and people are asked for a place when they know what they have.
"""

from __future__ import annotations

import contextlib
import secrets
import shutil
from datetime import datetime
from pathlib import Path

from tonleiter.core.station.disk import FileError, reason
from tonleiter.core.station.files import RECORDS_FILE, STATION_FILE, SUFFIX, save_station
from tonleiter.core.station.model import Station
from tonleiter.core.station.places import data_folder

FOLDER = "not-saved"
# what may go without a word when a station is given up: everything else is somebody's work
_SLIGHT = {STATION_FILE, RECORDS_FILE}


def unplaced_folder() -> Path:
    """Where stations without a place lie."""
    return data_folder() / FOLDER


def is_unplaced(folder: Path) -> bool:
    """Whether a station's folder is one of those."""
    return folder.parent == unplaced_folder() or folder.parent.resolve() == (
        unplaced_folder().resolve()
    )


def put_unplaced(station: Station) -> Path:
    """Write a new station where those without a place lie. Raises FileError."""
    name = f"{datetime.now():%Y%m%d-%H%M%S}-{secrets.token_hex(3)}{SUFFIX}"
    folder = unplaced_folder() / name
    save_station(station, folder)
    return folder


def unplaced() -> tuple[Path, ...]:
    """Stations that were left without a place, the newest first."""
    try:
        found = [p for p in unplaced_folder().iterdir() if (p / STATION_FILE).is_file()]
    except OSError:
        return ()
    return tuple(sorted(found, key=lambda p: p.name, reverse=True))


def is_slight(folder: Path) -> bool:
    """Whether nothing lies there but the station itself: no log, no recordings, no photos."""
    try:
        inside = {p.name for p in folder.iterdir()}
    except OSError:
        return False
    return all(name in _SLIGHT or name.startswith(".") for name in inside)


def give_up(folder: Path, whole: bool = False) -> bool:
    """Delete a station without a place, if nothing else lies with it, or ``whole``.

    Raises FileError. Nothing outside the folder of those is ever deleted.
    """
    if not is_unplaced(folder) or not (whole or is_slight(folder)):
        return False
    try:
        shutil.rmtree(folder)
    except FileNotFoundError:
        pass
    except OSError as error:
        raise FileError(f"{folder}: cannot be put away: {reason(error)}") from None
    # an empty folder of ours is left lying nowhere
    with contextlib.suppress(OSError):
        unplaced_folder().rmdir()
    return True
