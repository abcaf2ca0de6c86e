"""A damaged log: what of it can be read is written anew; the damaged file is kept beside it."""

from __future__ import annotations

import contextlib
import json
import sqlite3
import zlib
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError

from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.store import LOG_FILE, MOST_STATE, LogError, LogStore
from tonleiter.core.station.disk import beside, reason

# numbers are looked for one by one where a whole look breaks off, up to so many
MOST_NUMBERS = 1_000_000
# so many in a row that are not there, and nobody looks further
MOST_GONE = 5_000


@dataclass(frozen=True)
class Repaired:
    """How many entries were brought over, and where the damaged file is kept."""

    entries: int
    kept: Path


def repair(folder: Path) -> Repaired:
    """Write what can be read of a folder's log anew. Raises LogError; then all is as it was."""
    file = folder / LOG_FILE
    if not file.exists():
        raise LogError(f"{file}: there is no log to repair")
    store = LogStore(folder)
    damaged, trouble = store.damaged, store.trouble
    store.close()
    if not damaged:
        raise LogError(trouble or f"{file}: it is not damaged")
    found = _read(file)
    fresh = folder / f"{LOG_FILE}.repaired"
    with contextlib.suppress(OSError):
        fresh.unlink()
    try:
        made = _Fresh(fresh)
        made.add_all(found)
        made.close()
        kept = beside(file, "damaged")
        file.replace(kept)
        for tail in ("-journal", "-wal", "-shm"):
            # what belongs to the damaged one must not be taken for the new one's
            with contextlib.suppress(OSError):
                file.with_name(file.name + tail).replace(kept.with_name(kept.name + tail))
        fresh.replace(file)
    except OSError as error:
        raise LogError(f"{file}: it cannot be repaired: {reason(error)}") from None
    return Repaired(len(found), kept)


class _Fresh(LogStore):
    """A log under another name."""

    def __init__(self, file: Path) -> None:
        super().__init__(file.parent / f".{file.name}.nowhere")
        self.file = file


def _read(file: Path) -> list[tuple[LogEntry, bytes | None]]:
    """Every entry that can be read, the oldest first; none of a file that is no database."""
    try:
        base = sqlite3.connect(f"{file.resolve().as_uri()}?mode=ro&immutable=1", uri=True)
    except sqlite3.Error:
        return []
    made = []
    with contextlib.closing(base):
        for number in _numbers(base):
            entry = _entry(base, number)
            if entry is not None:
                made.append((entry, _state(base, number)))
    return sorted(made, key=lambda x: x[0].utc)


def _numbers(base: sqlite3.Connection) -> list[int]:
    """Numbers of entries: all that a look finds, then one by one past where it breaks off."""
    found: list[int] = []
    with contextlib.suppress(sqlite3.Error):
        for (number,) in base.execute("SELECT number FROM entry ORDER BY number"):
            found.append(number)
        return found
    number, gone = (found[-1] if found else 0), 0
    while number < MOST_NUMBERS and gone < MOST_GONE:
        number += 1
        try:
            row = base.execute("SELECT 1 FROM entry WHERE number=?", (number,)).fetchone()
        except sqlite3.Error:
            row = None
        gone = 0 if row else gone + 1
        if row:
            found.append(number)
    return found


def _entry(base: sqlite3.Connection, number: int) -> LogEntry | None:
    try:
        row = base.execute("SELECT body FROM entry WHERE number=?", (number,)).fetchone()
        return None if row is None else LogEntry.model_validate(json.loads(row[0]))
    except (sqlite3.Error, ValidationError, ValueError, TypeError):
        return None


def _state(base: sqlite3.Connection, number: int) -> bytes | None:
    try:
        row = base.execute("SELECT station FROM state WHERE number=?", (number,)).fetchone()
        return None if row is None else zlib.decompressobj().decompress(row[0], MOST_STATE)
    except (sqlite3.Error, zlib.error, TypeError):
        return None
