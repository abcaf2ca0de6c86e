"""Reading and writing a station folder, so that a power cut leaves the old file or the new one."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import json
import os
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from tonleiter.core.station.migrate import MIGRATIONS, Migration, migrate
from tonleiter.core.station.model import FORMAT, VERSION, Station
from tonleiter.core.station.refusal import one_line

STATION_FILE = "station.json"
SUFFIX = ".station"


class StationFileError(Exception):
    """A station cannot be read or written; the message is one line: what, where, what to do."""


@dataclass(frozen=True)
class Opened:
    """A station as it lies on disk. ``fingerprint`` tells later whether somebody else wrote it."""

    station: Station
    folder: Path
    fingerprint: str
    backup: Path | None = None


def station_file(path: Path) -> Path:
    """The station.json of a station folder, or the file itself."""
    return path if path.is_file() else path / STATION_FILE


def read_station(
    path: Path, version: int = VERSION, migrations: Mapping[int, Migration] = MIGRATIONS
) -> Opened:
    """Read a station folder (or its station.json). Raises StationFileError; touches nothing.

    Only a file of an older version causes a write: its backup, beside it.
    """
    file = station_file(path)
    try:
        content = file.read_bytes()
    except FileNotFoundError:
        raise StationFileError(
            f"{path}: there is no station here; a folder with a {STATION_FILE} is wanted"
        ) from None
    except OSError as error:
        raise StationFileError(f"{file}: cannot be read: {_reason(error)}") from None
    data = json_object(file, content)
    data, backup = _brought_up_to_date(file, content, data, version, migrations)
    return Opened(_validated(file, data), file.parent, fingerprint(content), backup)


def json_object(file: Path, content: bytes) -> dict[str, Any]:
    """The object that a JSON file holds. Raises StationFileError with line and column."""
    try:
        data = json.loads(content.decode("utf-8"), parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise StationFileError(f"{file}: byte {error.start} is not UTF-8 text") from None
    except json.JSONDecodeError as error:
        raise StationFileError(
            f"{file}, line {error.lineno}, column {error.colno}: not JSON: {error.msg}"
        ) from None
    except (ValueError, RecursionError) as error:
        raise StationFileError(f"{file}: not JSON: {error}") from None
    if not isinstance(data, dict):
        raise StationFileError(f"{file}: a JSON object {{…}} is wanted")
    return data


def version_of(
    where: str, data: dict[str, Any], current: int, oldest: int, assurance: str = ""
) -> int:
    """A file's version, from the oldest up to the current one. Raises StationFileError."""
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < oldest:
        raise StationFileError(f"{where}: “version” must be a whole number up to {current}")
    if version > current:
        raise StationFileError(
            f"{where}: written by a newer Tonleiter (version {version}, this one reads up to"
            f" {current}){assurance}"
        )
    return version


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is not a number that JSON knows")


def _brought_up_to_date(
    file: Path,
    content: bytes,
    data: dict[str, Any],
    current: int,
    migrations: Mapping[int, Migration],
) -> tuple[dict[str, Any], Path | None]:
    if data.get("format") != FORMAT:
        raise StationFileError(f"{file}: “format” must be “{FORMAT}”; this is no station")
    version = version_of(str(file), data, current, 0, "; it was left untouched")
    if version == current:
        return data, None
    backup = file.with_name(f"{file.stem}.version-{version}.json")
    try:
        migrated = migrate(data, current, migrations)
    except ValueError as error:
        raise StationFileError(f"{file}: {error} can be read; it was left untouched") from None
    if not backup.exists():
        _write_atomically(backup, content)
    return migrated, backup


def _validated(file: Path, data: dict[str, Any]) -> Station:
    try:
        return Station.model_validate(data)
    except ValidationError as error:
        raise StationFileError(f"{file}: {one_line(error, data)}") from None


def new_station(folder: Path) -> Station:
    """An empty station, titled by its folder, with one person in it."""
    title = folder.name.removesuffix(SUFFIX).replace("-", " ").strip() or "station"
    return Station.model_validate(
        {"title": title[:80], "operators": [{"id": "operator", "name": "operator"}]}
    )


def fingerprint(content: bytes) -> str:
    """Hash of a file's content."""
    return hashlib.sha256(content).hexdigest()


def to_json(station: Station) -> str:
    """The text of station.json."""
    data = station.model_dump(mode="json", exclude_defaults=False)
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def save_station(station: Station, folder: Path, known_fingerprint: str | None = None) -> Opened:
    """Write ``station`` into ``folder``, which is made if need be. Raises StationFileError.

    The old file stays until the new one is safely on disk. If the file on disk is not the one that
    ``known_fingerprint`` names, somebody else wrote it: it is kept beside the new one.
    """
    content = to_json(station).encode()
    file = folder / STATION_FILE
    backup: Path | None = None
    try:
        folder.mkdir(parents=True, exist_ok=True)
        if known_fingerprint is not None and file.exists():
            present = file.read_bytes()
            if fingerprint(present) != known_fingerprint:
                backup = file.with_name(f"station.kept-{datetime.now():%Y%m%d-%H%M%S-%f}.json")
                _write_atomically(backup, present)
        _write_atomically(file, content)
    except OSError as error:
        raise StationFileError(
            f"{folder}: cannot be saved: {_reason(error)}; nothing there was changed,"
            " and your edits are still open"
        ) from None
    return Opened(station, folder, fingerprint(content), backup)


def _write_atomically(file: Path, content: bytes) -> None:
    """Write to a temporary neighbour, fsync, rename over, fsync the folder."""
    handle, name = tempfile.mkstemp(prefix=f".{file.name}.", suffix=".new", dir=file.parent)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(content)
            stream.flush()
            os.fsync(stream.fileno())
        Path(name).replace(file)
    except BaseException:
        with contextlib.suppress(OSError):
            Path(name).unlink()
        raise
    folder = os.open(file.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def write_safely(file: Path, content: bytes) -> None:
    """Write a file so that the old one or the new one is there. Raises StationFileError."""
    try:
        _write_atomically(file, content)
    except OSError as error:
        raise StationFileError(f"{file}: cannot be saved: {_reason(error)}") from None


def _reason(error: OSError) -> str:
    known = {
        errno.ENOSPC: "the disk is full",
        errno.EACCES: "no permission",
        errno.EPERM: "no permission",
        errno.EROFS: "the disk is read-only",
        errno.ENOTDIR: "a file stands where a folder should be",
        errno.EISDIR: "a folder stands where a file should be",
        errno.EDQUOT: "the disk quota is used up",
    }
    return known.get(error.errno or 0, error.strerror or str(error))
