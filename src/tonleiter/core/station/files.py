"""Reading and writing a station folder, so that a power cut leaves the old file or the new one."""

from __future__ import annotations

import contextlib
import json
import os
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from tonleiter.core.station.disk import (
    FileError,
    beside,
    fingerprint,
    read_file,
    reason,
    spoken,
    write_atomically,
)
from tonleiter.core.station.migrate import MIGRATIONS, Migration, MigrationError, migrate
from tonleiter.core.station.model import FORMAT, VERSION, Station
from tonleiter.core.station.records import (
    NO_RECORDS,
    RECORDS_FORMAT,
    RECORDS_VERSION,
    Records,
)
from tonleiter.core.station.refusal import one_line
from tonleiter.core.station.to_records import RECORDS_KEY
from tonleiter.core.words import quoted

STATION_FILE, RECORDS_FILE = "station.json", "records.json"
SUFFIX = ".station"


@dataclass(frozen=True)
class Identity:
    """What a folder is to the file system, whatever it is called."""

    device: int
    inode: int


@dataclass(frozen=True)
class Opened:
    """A station as it lies on disk.

    ``fingerprint`` of station and records tells later whether somebody else wrote them;
    ``identity`` whether the folder was moved. ``backup`` is where the file of an older version was
    kept; ``older`` its content where it could not be kept yet (a read-only folder): it is kept
    before the first save. ``kept`` are copies of what somebody else had written there meanwhile.
    """

    station: Station
    folder: Path
    fingerprint: str
    records: Records = NO_RECORDS
    identity: Identity | None = None
    backup: Path | None = None
    older: tuple[Path, bytes] | None = None
    kept: tuple[Path, ...] = ()


def station_file(path: Path) -> Path:
    """The station.json of a station folder, or the file itself."""
    return path / STATION_FILE if path.is_dir() or not path.exists() else path


def read_station(
    path: Path,
    version: int = VERSION,
    migrations: Mapping[int, Migration] = MIGRATIONS,
    keeps: bool = True,
) -> Opened:
    """Read a station folder (or its station.json). Raises FileError; touches nothing.

    Only a file of an older version causes a write: its backup, beside it, if the folder lets and
    ``keeps``.
    """
    with spoken(path, "cannot be read"):
        file = station_file(path)
        try:
            content = read_file(file)
        except (FileNotFoundError, NotADirectoryError):
            raise FileError(
                f"{path}: there is no station here; a folder with a {STATION_FILE} is wanted"
            ) from None
    data = json_object(str(file), content)
    data, older = _brought_up_to_date(file, content, data, version, migrations)
    came_along = data.pop(RECORDS_KEY, None) if older is not None else None
    station = _validated(file, data)
    records, beside_it = read_records(file.parent)
    if not beside_it and came_along is not None:
        records = _validated_records(file, came_along)
    backup = None
    if older is not None and keeps:
        try:
            backup = keep_older(*older)
            older = None
        except OSError:
            pass  # read-only: it is kept before the first save
    return Opened(
        station,
        file.parent,
        _both(content, beside_it),
        records,
        identity_of(file.parent),
        backup,
        older,
    )


def read_records(folder: Path) -> tuple[Records, bytes]:
    """The records beside a station and their file's content; none and nothing where none lie.

    Raises FileError.
    """
    file = folder / RECORDS_FILE
    with spoken(file, "cannot be read"):
        try:
            content = read_file(file)
        except (FileNotFoundError, NotADirectoryError):
            return NO_RECORDS, b""
    data = json_object(str(file), content)
    if data.get("format") != RECORDS_FORMAT:
        raise FileError(f"{file}: “format” must be “{RECORDS_FORMAT}”; these are no records")
    version_of(str(file), data, RECORDS_VERSION, 1, "; it was left untouched")
    return _validated_records(file, data), content


def _validated_records(file: Path, data: Any) -> Records:  # noqa: ANN401 - any JSON
    try:
        return Records.model_validate(data)
    except ValidationError as error:
        raise FileError(f"{file}: {one_line(error, data, Records)}") from None


def _both(station: bytes, records: bytes) -> str:
    """The fingerprint of a station's file with its records'; the station's alone without."""
    return fingerprint(station + b"\0" + records if records else station)


def present_fingerprint(folder: Path) -> str:
    """The fingerprint of what lies in a folder now. Raises OSError, FileError."""
    return _both(read_file(folder / STATION_FILE), _lying(folder / RECORDS_FILE))


def _lying(file: Path) -> bytes:
    """A file's content; nothing where there is none. Raises OSError, FileError."""
    try:
        return read_file(file)
    except FileNotFoundError:
        return b""


def identity_of(folder: Path) -> Identity | None:
    """What a folder is to the file system; None where it is not there."""
    try:
        found = folder.stat()
    except OSError:
        return None
    return Identity(found.st_dev, found.st_ino)


def moved_to(folder: Path, identity: Identity) -> Path | None:
    """Where a folder that was opened as ``folder`` lies now: there, or under another name beside.

    None where it is neither.
    """
    if identity_of(folder) == identity:
        return folder
    try:
        with os.scandir(folder.parent) as entries:
            for entry in entries:
                if entry.is_dir() and entry.inode() == identity.inode:
                    found = Path(entry.path)
                    if identity_of(found) == identity:
                        return found
    except OSError:
        pass
    return None


def keep_older(file: Path, content: bytes) -> Path:
    """Keep a file of an older version beside itself, once. Raises OSError.

    Another old file that was kept under the name stays; this one gets a number.
    """
    version = json.loads(content)["version"]
    count = 1
    while True:
        tail = "" if count == 1 else f"-{count}"
        backup = file.with_name(f"{file.stem}.version-{version}{tail}.json")
        try:
            if backup.read_bytes() == content:
                return backup
        except FileNotFoundError:
            write_atomically(backup, content)
            return backup
        count += 1


def json_object(where: str, content: bytes) -> dict[str, Any]:
    """The object that a JSON file holds. Raises FileError with line and column."""
    try:
        text = content.decode("utf-8")
        data = json.loads(text, parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise FileError(f"{where}: byte {error.start} is not UTF-8 text") from None
    except json.JSONDecodeError as error:
        raise FileError(
            f"{where}, line {error.lineno}, column {error.colno}: not JSON: {error.msg}"
        ) from None
    except (ValueError, RecursionError) as error:
        raise FileError(f"{where}: not JSON: {error}") from None
    if not isinstance(data, dict):
        raise FileError(f"{where}: a JSON object {{…}} is wanted")
    # "\ud800" alone is a half of a character: no file could be written with it again
    if "\\u" in text and (bad := _half_character(data)) is not None:
        raise FileError(f"{where}: {quoted(bad)} holds half a character")
    return data


def _half_character(data: Any) -> str | None:  # noqa: ANN401 - any JSON
    """A text in the data that is not valid Unicode; None if all are."""
    waiting = [data]
    while waiting:
        item = waiting.pop()
        if isinstance(item, dict):
            waiting += [*item.keys(), *item.values()]
        elif isinstance(item, list):
            waiting += item
        elif isinstance(item, str) and any("\ud800" <= c <= "\udfff" for c in item):
            return item
    return None


def version_of(
    where: str, data: dict[str, Any], current: int, oldest: int, assurance: str = ""
) -> int:
    """A file's version, from the oldest up to the current one. Raises FileError."""
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < oldest:
        raise FileError(f"{where}: “version” must be a whole number up to {current}")
    if version > current:
        raise FileError(
            f"{where}: written by a newer Tonleiter (version {quoted(version, 20)[1:-1]}, this one"
            f" reads up to {current}){assurance}"
        )
    return version


def only_keys(where: str, data: dict[str, Any], known: Sequence[str]) -> None:
    """Refuse keys that a file's outermost object does not have. Raises FileError."""
    unknown = sorted(set(data) - set(known))
    if unknown:
        raise FileError(
            f"{where}: unknown key {quoted(unknown[0])}; known keys: {', '.join(known)}"
        )


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is not a number that JSON knows")


def _brought_up_to_date(
    file: Path,
    content: bytes,
    data: dict[str, Any],
    current: int,
    migrations: Mapping[int, Migration],
) -> tuple[dict[str, Any], tuple[Path, bytes] | None]:
    """The data of the current version; the file and content of an older one."""
    if data.get("format") != FORMAT:
        raise FileError(f"{file}: “format” must be “{FORMAT}”; this is no station")
    version = version_of(str(file), data, current, 0, "; it was left untouched")
    if version == current:
        return data, None
    try:
        return migrate(data, current, migrations), (file, content)
    except MigrationError as error:
        raise FileError(f"{file}: {error} can be read; it was left untouched") from None


def _validated(file: Path, data: dict[str, Any]) -> Station:
    try:
        return Station.model_validate(data)
    except ValidationError as error:
        raise FileError(f"{file}: {one_line(error, data)}") from None


def to_json(model: Station | Records) -> str:
    """The text of station.json, or of records.json."""
    data = model.model_dump(mode="json", exclude_defaults=False)
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def stands_in_the_way(folder: Path, known: str | None) -> bytes | None:
    """What a save into ``folder`` would replace and nobody here has seen; None if nothing.

    ``known`` is the fingerprint of what was last read or written there. Raises OSError, FileError.
    """
    try:
        present = read_file(folder / STATION_FILE)
    except FileNotFoundError:
        return None
    return None if known is not None and present_fingerprint(folder) == known else present


def _put_back(file: Path, content: bytes) -> None:
    """What a file was before a save that failed half way; no file where there was none."""
    with contextlib.suppress(OSError):
        if content:
            write_atomically(file, content)
        else:
            file.unlink()


def save_station(
    station: Station,
    folder: Path,
    known_fingerprint: str | None = None,
    older: tuple[Path, bytes] | None = None,
    records: Records = NO_RECORDS,
) -> Opened:
    """Write station and records into ``folder``, which is made if need be. Raises FileError.

    Each old file stays until the new one is safely on disk. A file there that is not the one that
    ``known_fingerprint`` names was written by somebody else: it is kept beside the new one.
    ``older`` is a file of an older version that could not be kept when it was read.
    """
    content = to_json(station).encode()
    file = folder / STATION_FILE
    # a station of which nothing was kept needs no file for it
    noted = b"" if records == NO_RECORDS else to_json(records).encode()
    beside_it = folder / RECORDS_FILE
    kept: list[Path] = []
    try:
        folder.mkdir(parents=True, exist_ok=True)
        if older is not None:
            keep_older(*older)
        theirs = _lying(beside_it)
        if stands_in_the_way(folder, known_fingerprint) is not None:
            for lies, new, said in ((file, content, _lying(file)), (beside_it, noted, theirs)):
                if said and said != new:
                    kept.append(beside(lies, "kept"))
                    write_atomically(kept[-1], said)
        # readings that are of no station are harmless, a station without its readings is not
        if theirs and not noted:
            noted = to_json(records).encode()
        if noted != theirs:
            write_atomically(beside_it, noted)
        try:
            write_atomically(file, content)
        except OSError:
            if noted != theirs:
                _put_back(beside_it, theirs)
            raise
    except OSError as error:
        raise FileError(
            f"{folder}: cannot be saved: {reason(error)}; nothing there was changed,"
            " and your edits are still open"
        ) from None
    except FileError as error:
        raise FileError(f"{error}; nothing there was changed") from None
    except ValueError:
        raise FileError(f"{str(folder)!r}: this cannot be the name of a folder") from None
    return Opened(
        station, folder, _both(content, noted), records, identity_of(folder), kept=(*kept,)
    )
