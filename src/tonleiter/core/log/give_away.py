"""A copy of a station to give away: one zip file that is opened to look at, and saved to keep.

On request without people: whoever speaks becomes "operator 1", notes are empty, and log, photos,
recordings (a voice is a person too), cards and readings stay at home. What pieces and chains are
called stays.
"""

from __future__ import annotations

import hashlib
import tempfile
from pathlib import Path
from typing import Any

from tonleiter.core.log.backup import BLOCK, backup, restore
from tonleiter.core.log.carry import carry_log
from tonleiter.core.log.photos import carry_photos
from tonleiter.core.station.disk import FileError, reason
from tonleiter.core.station.files import STATION_FILE, SUFFIX, save_station
from tonleiter.core.station.kept_sound import carry
from tonleiter.core.station.model import Station
from tonleiter.core.station.places import data_folder
from tonleiter.core.station.records import Records

FOLDER = "looked-at"


def give_away(
    station: Station, records: Records, folder: Path, file: Path, without_people: bool
) -> tuple[str, ...]:
    """Write the station as it is now, saved or not, with what lies in ``folder``, into ``file``.

    The names of what is in it. Raises BackupError, FileError.
    """
    try:
        with tempfile.TemporaryDirectory() as held:
            copy = Path(held) / f"copy{SUFFIX}"
            if without_people:
                save_station(nobody_in(station), copy)
            else:
                save_station(station, copy, records=records)
                carry(records.recordings, folder, copy)
                carry_log(folder, copy)
                carry_photos(folder, copy)
            return backup(copy, file)
    except OSError as error:
        raise FileError(f"{file}: the copy cannot be made: {reason(error)}") from None


def nobody_in(station: Station) -> Station:
    """The station without names of people and without notes."""
    new = {o.id: f"operator-{k}" for k, o in enumerate(station.operators, 1)}
    data: dict[str, Any] = station.model_dump(mode="json")
    for k, operator in enumerate(data["operators"], 1):
        operator |= {"id": new[operator["id"]], "name": f"operator {k}"}
    for chain in data["chains"]:
        chain["operator"] = new.get(chain["operator"], chain["operator"])
    for thing in (*data["gear"], *data["devices"], *data["chains"]):
        if "notes" in thing:
            thing["notes"] = ""
    return Station.model_validate(data)


def unpacked(file: Path) -> Path:
    """A folder with the station of a copy, to look at. Raises BackupError, FileError.

    The same file leads to the same folder. Nobody works in it.
    """
    try:
        mark = hashlib.sha256()
        with file.open("rb") as source:
            while block := source.read(BLOCK):
                mark.update(block)
    except OSError as error:
        raise FileError(f"{file}: cannot be read: {reason(error)}") from None
    folder = data_folder() / FOLDER / f"{mark.hexdigest()[:16]}{SUFFIX}"
    if not (folder / STATION_FILE).is_file():
        restore(file, folder)
    return folder
