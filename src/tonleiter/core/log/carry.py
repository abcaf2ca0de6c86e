"""The log goes along when a station is saved into another folder."""

from __future__ import annotations

import contextlib
import sqlite3
from pathlib import Path

from tonleiter.core.log.store import LOG_FILE
from tonleiter.core.station.disk import beside


def carry_log(old: Path, new: Path) -> tuple[tuple[Path, ...], str]:
    """Copy it whole, as it stands this moment; a log that lay there is kept beside it.

    Returns what was kept, and why it could not be carried, in one line, or nothing.
    """
    source, target = old / LOG_FILE, new / LOG_FILE
    if not source.exists() or source.resolve() == target.resolve():
        return (), ""
    fresh = target.with_name(f"{LOG_FILE}.new")
    kept: tuple[Path, ...] = ()
    try:
        copied(source, fresh)
        if target.exists():
            theirs = beside(target, "kept")
            target.replace(theirs)
            kept = (theirs,)
        fresh.replace(target)
    except (sqlite3.Error, OSError) as error:
        with contextlib.suppress(OSError):
            fresh.unlink()
        return kept, f"{target}: the log could not be carried along: {error}"
    return kept, ""


def copied(source: Path, target: Path) -> None:
    """A whole copy, whoever writes meanwhile. Raises sqlite3.Error, OSError."""
    where = f"{source.resolve().as_uri()}?mode=ro"
    with (
        contextlib.closing(sqlite3.connect(where, uri=True)) as old,
        contextlib.closing(sqlite3.connect(target)) as new,
    ):
        old.backup(new)
