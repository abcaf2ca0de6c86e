"""The log goes along when a station is saved into another folder."""

from __future__ import annotations

import contextlib
import sqlite3
from pathlib import Path

from tonleiter.core.log.store import LOG_FILE


def carry_log(old: Path, new: Path) -> str:
    """Copy it whole, as it stands this moment; why it could not be, in one line, or nothing.

    A log that lies there already is somebody's: it is left, and that is said.
    """
    source, target = old / LOG_FILE, new / LOG_FILE
    if not source.exists() or source.resolve() == target.resolve():
        return ""
    if target.exists():
        return f"{target}: there is a log already; that of this station was left in {old}"
    fresh = target.with_name(f"{LOG_FILE}.new")
    try:
        copied(source, fresh)
        fresh.replace(target)
    except (sqlite3.Error, OSError) as error:
        with contextlib.suppress(OSError):
            fresh.unlink()
        return f"{target}: the log could not be carried along: {error}"
    return ""


def copied(source: Path, target: Path) -> None:
    """A whole copy, whoever writes meanwhile. Raises sqlite3.Error, OSError."""
    where = f"{source.resolve().as_uri()}?mode=ro"
    with (
        contextlib.closing(sqlite3.connect(where, uri=True)) as old,
        contextlib.closing(sqlite3.connect(target)) as new,
    ):
        old.backup(new)
