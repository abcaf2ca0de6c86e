"""A whole station as one zip file with checksums, and back; what is damaged or hostile is refused.

Nothing is written where the station shall lie before all of it was read, checked and understood.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import re
import secrets
import shutil
import sqlite3
import stat
import tempfile
import zipfile
import zlib
from pathlib import Path

from tonleiter.core.log.carry import copied
from tonleiter.core.log.photos import FOLDER as PHOTOS
from tonleiter.core.log.photos import photos_in
from tonleiter.core.log.store import LOG_FILE
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.disk import reason
from tonleiter.core.station.files import RECORDS_FILE, STATION_FILE, read_station
from tonleiter.core.station.kept_sound import ENDINGS, fingerprint_of
from tonleiter.core.station.kept_sound import FOLDER as RECORDINGS

SUMS = "checksums.json"
# what an archive may hold, and how much of it
_MAY = re.compile(
    rf"^(?:{re.escape(STATION_FILE)}|{re.escape(RECORDS_FILE)}|{re.escape(LOG_FILE)}|{SUMS}"
    rf"|{RECORDINGS}/[a-z0-9][a-z0-9-]{{0,120}}\.(?:flac|wav)"
    rf"|{PHOTOS}/[0-9a-f]{{24}}\.(?:jpg|png))$"
)
MOST_FILES, MOST_BYTES = 6_000, 8 * 1024**3
# ten minutes of silence are smaller, and what is larger and packs like this is nothing
MOST_PACKED, MOST_RATIO = 100_000_000, 300
BLOCK = 1 << 20


class BackupError(RefusedError):
    """A backup that cannot be made or taken; one line says what, where, what to do."""


def backup(folder: Path, file: Path) -> tuple[str, ...]:
    """Write a station into one file; the names of what is in it. Raises BackupError, FileError."""
    opened = read_station(folder)  # what cannot be read is not worth keeping
    where = opened.folder
    fresh = file.with_name(f"{file.name}.{secrets.token_hex(4)}.new")
    sums: dict[str, str] = {}
    try:
        with (
            tempfile.TemporaryDirectory() as held,
            zipfile.ZipFile(fresh, "w", zipfile.ZIP_DEFLATED) as out,
        ):
            for name, source in _sources(where, Path(held)):
                packed = source.suffix in (".flac", ".jpg", ".png")
                kind = zipfile.ZIP_STORED if packed else zipfile.ZIP_DEFLATED
                out.write(source, name, kind)
                sums[name] = fingerprint_of(source)
            out.writestr(SUMS, json.dumps(sums, indent=1, sort_keys=True))
        fresh.replace(file)
    except (OSError, sqlite3.Error) as error:
        with contextlib.suppress(OSError):
            fresh.unlink()
        why = reason(error) if isinstance(error, OSError) else str(error)
        raise BackupError(f"{file}: the backup cannot be written: {why}") from None
    return tuple(sums)


def _sources(where: Path, held: Path) -> list[tuple[str, Path]]:
    made = [(n, where / n) for n in (STATION_FILE, RECORDS_FILE) if (where / n).exists()]
    if (where / LOG_FILE).exists():
        copied(where / LOG_FILE, held / LOG_FILE)
        made.append((LOG_FILE, held / LOG_FILE))
    recordings = where / RECORDINGS
    if recordings.is_dir():
        files = sorted(f for f in recordings.iterdir() if f.suffix in ENDINGS and f.is_file())
        made += [
            (f"{RECORDINGS}/{f.name}", f) for f in files if _MAY.match(f"{RECORDINGS}/{f.name}")
        ]
    return [*made, *((f"{PHOTOS}/{f.name}", f) for f in photos_in(where))]


def restore(file: Path, folder: Path) -> tuple[str, ...]:
    """Take a station out of a backup into a folder that is not there yet, or is empty.

    Returns the names of what was in it. Raises BackupError; then nothing is there that was not.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise BackupError(f"{folder}: something lies there: an empty folder, or none, is wanted")
    fresh = folder.with_name(f"{folder.name}.{secrets.token_hex(4)}.new")
    try:
        with _archive(file) as archive:
            names = _checked(file, archive)
            fresh.mkdir(parents=True)
            _unpacked(file, archive, names, fresh)
        _understood(file, fresh)
        if folder.exists():
            folder.rmdir()
        fresh.rename(folder)
    except OSError as error:
        raise BackupError(f"{folder}: it cannot be written: {reason(error)}") from None
    finally:
        shutil.rmtree(fresh, ignore_errors=True)
    return tuple(n for n in names if n != SUMS)


def _archive(file: Path) -> zipfile.ZipFile:
    try:
        if not file.is_file():
            raise BackupError(f"{file}: there is no such file")
        return zipfile.ZipFile(file)
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError, OverflowError):
        raise BackupError(
            f"{file}: it is no backup: a zip file of this program is wanted"
        ) from None


def _checked(file: Path, archive: zipfile.ZipFile) -> tuple[str, ...]:
    """Names of what may be unpacked. Raises BackupError for the first thing that may not."""
    infos = archive.infolist()
    if len(infos) > MOST_FILES:
        raise BackupError(f"{file}: {len(infos)} files: up to {MOST_FILES} are wanted")
    seen: set[str] = set()
    for info in infos:
        name = info.filename
        shown = ascii(name[:80])
        if not _MAY.match(name):
            raise BackupError(f"{file}: {shown} is nothing that a station has")
        if name in seen:
            raise BackupError(f"{file}: {shown} is in it twice")
        seen.add(name)
        mode = info.external_attr >> 16
        if stat.S_IFMT(mode) not in (0, stat.S_IFREG):
            raise BackupError(f"{file}: {shown} is a link or a device")
        if info.flag_bits & 1:
            raise BackupError(f"{file}: {shown} is encrypted")
        if info.file_size > max(MOST_RATIO * info.compress_size, MOST_PACKED):
            raise BackupError(f"{file}: {shown} would grow from {info.compress_size} bytes to"
                              f" {info.file_size}: it is no honest backup")  # fmt: skip
    whole = sum(i.file_size for i in infos)
    if whole > MOST_BYTES:
        raise BackupError(f"{file}: {whole} bytes unpacked: up to {MOST_BYTES} are wanted")
    for wanted in (STATION_FILE, SUMS):
        if wanted not in seen:
            raise BackupError(f"{file}: {wanted} is missing in it")
    return tuple(seen)


def _unpacked(file: Path, archive: zipfile.ZipFile, names: tuple[str, ...], to: Path) -> None:
    """Write and check each. Raises BackupError, OSError."""
    broken = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError,
              ValueError, OverflowError)  # fmt: skip
    try:
        if archive.getinfo(SUMS).file_size > BLOCK:
            raise BackupError(f"{file}: its {SUMS} is too large")
        sums = json.loads(archive.read(SUMS))
    except broken:
        raise BackupError(f"{file}: its {SUMS} cannot be read: it is damaged") from None
    if not isinstance(sums, dict):
        raise BackupError(f"{file}: its {SUMS} is none")
    for name in names:
        if name == SUMS:
            continue
        target = to / name
        target.parent.mkdir(exist_ok=True)
        sum_, left = hashlib.sha256(), archive.getinfo(name).file_size
        try:
            with archive.open(name) as packed, target.open("wb") as out:
                while block := packed.read(BLOCK):
                    left -= len(block)
                    if left < 0:
                        raise BackupError(f"{file}: {name} is longer than it says")
                    sum_.update(block)
                    out.write(block)
        except broken:
            raise BackupError(f"{file}: {name} in it is damaged") from None
        if sum_.hexdigest() != sums.get(name):
            raise BackupError(f"{file}: {name} in it is not what was kept: its checksum is another")


def _understood(file: Path, folder: Path) -> None:
    """Whether a station can be opened there. Raises BackupError."""
    try:
        read_station(folder)
    except RefusedError as error:
        said = str(error).replace(str(folder), str(file))
        raise BackupError(said) from None
