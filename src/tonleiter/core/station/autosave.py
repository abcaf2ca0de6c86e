"""Work that is not saved yet, kept beside the station in case the application ends unasked."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import socket
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from pydantic import ValidationError

from tonleiter.core.station.disk import FileError, is_running, read_file, write_atomically
from tonleiter.core.station.files import json_object
from tonleiter.core.station.migrate import MigrationError, migrate
from tonleiter.core.station.model import VERSION, Station
from tonleiter.core.station.places import state_folder
from tonleiter.core.station.records import NO_RECORDS, Records
from tonleiter.core.station.to_records import RECORDS_KEY

FORMAT = "tonleiter-autosave"
_WORD = "station.autosave-"


@dataclass(frozen=True)
class Autosave:
    """Unsaved work that was found: its file, what it holds, when it was kept."""

    file: Path
    station: Station
    kept_at: datetime
    records: Records = NO_RECORDS


def _started(pid: int) -> str:
    """When a process began, in clock ticks since the machine started; empty if unknown."""
    try:
        return (
            Path(f"/proc/{pid}/stat").read_text("ascii", "replace").rpartition(")")[2].split()[19]
        )
    except (OSError, IndexError):
        return ""


def _places(folder: Path) -> tuple[Path, Path]:
    """Beside the station, and where that cannot be written: the user's state folder."""
    real = os.path.realpath(folder)
    number = hashlib.sha256(os.fsencode(real)).hexdigest()[:16]
    return Path(real), state_folder() / "autosave" / number


def write_autosave(station: Station, folder: Path, records: Records = NO_RECORDS) -> Path:
    """Keep the work of this process, replacing what it kept before. Raises OSError."""
    pid = os.getpid()
    data = {
        "format": FORMAT,
        "kept_at": datetime.now().astimezone().isoformat(timespec="seconds"),
        "by": {"host": socket.gethostname(), "pid": pid, "started": _started(pid)},
        "station": station.model_dump(mode="json"),
        "records": records.model_dump(mode="json"),
    }
    content = (json.dumps(data, ensure_ascii=False) + "\n").encode()
    beside, elsewhere = _places(folder)
    name = f"{_WORD}{pid}.json"
    try:
        write_atomically(beside / name, content)
        return beside / name
    except OSError:
        elsewhere.mkdir(parents=True, exist_ok=True)
        write_atomically(elsewhere / name, content)
        return elsewhere / name


def sweep_own(folder: Path) -> None:
    """What this process kept was saved, or given up."""
    for place in _places(folder):
        with contextlib.suppress(OSError):
            (place / f"{_WORD}{os.getpid()}.json").unlink()


def found_autosaves(
    folder: Path, but: Station | None = None, with_records: Records = NO_RECORDS
) -> list[Autosave]:
    """What applications that ended unasked have left, newest first.

    Work of an application that still runs is its own; what cannot be read is left to
    ``set_aside``; what holds nothing but ``but``, the station as it is saved, and its records is
    swept.
    """
    found = []
    for place in _places(folder):
        for file in sorted(place.glob(f"{_WORD}*.json")):
            kept = _read(file)
            if kept is None:
                continue
            if but is not None and (kept.station, kept.records) == (but, with_records):
                with contextlib.suppress(OSError):
                    file.unlink()
                continue
            found.append(kept)
    return sorted(found, key=lambda a: a.kept_at, reverse=True)


def set_aside(folder: Path) -> list[Path]:
    """What was kept and cannot be read, under a name of its own that nobody takes for work."""
    aside = []
    for place in _places(folder):
        for file in sorted(place.glob(f"{_WORD}*.json")):
            if _read(file) is not None or _is_someone_s(file):
                continue
            there = file.with_suffix(".unreadable")
            with contextlib.suppress(OSError):
                aside.append(file.replace(there))
    return aside


def _is_someone_s(file: Path) -> bool:
    """Whether an application that runs keeps it: it may be writing it just now."""
    try:
        return _lives(json_object(str(file), read_file(file)).get("by"))
    except (OSError, FileError, ValueError):
        number = file.stem.removeprefix(_WORD)
        return number.isdecimal() and int(number) != os.getpid() and is_running(int(number))


def _read(file: Path) -> Autosave | None:
    try:
        data = json_object(str(file), read_file(file))
        if data.get("format") != FORMAT or _lives(data.get("by")):
            return None
        brought = migrate(dict(data["station"]), VERSION)
        records = Records.model_validate(brought.pop(RECORDS_KEY, None) or data.get("records", {}))
        station = Station.model_validate(brought)
        # one without a zone is of a time before they had one: it was local
        kept_at = datetime.fromisoformat(str(data["kept_at"])).astimezone()
    except (
        OSError,
        FileError,
        MigrationError,
        ValidationError,
        KeyError,
        TypeError,
        ValueError,
        OverflowError,
    ):
        return None
    return Autosave(file, station, kept_at, records)


def _lives(by: object) -> bool:
    """Whether the application that kept it still runs on this machine."""
    if not isinstance(by, dict) or by.get("host") != socket.gethostname():
        return False
    pid = by.get("pid")
    if not isinstance(pid, int) or pid == os.getpid():
        return False
    return is_running(pid) and _started(pid) == by.get("started")
