"""A file of entries that somebody brings: contacts or a table, by the ending of its name."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from tonleiter.core.log.adif import read_adif
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.read_csv import read_csv
from tonleiter.core.station.disk import read_file, spoken

TABLES = (".csv", ".tsv", ".txt")


@dataclass(frozen=True)
class Arrived:
    """``fresh`` is what is not there already; ``known`` how many were; ``refused`` a line each."""

    fresh: tuple[LogEntry, ...]
    known: int
    refused: tuple[str, ...]


def arriving(file: Path, name: str, there: tuple[LogEntry, ...]) -> Arrived:
    """What a file brings; ``name`` is how it is called in refusals.

    Raises AdifError, TableError, FileError.
    """
    with spoken(file, "cannot be read"):
        content = read_file(file)
    read = (read_csv if file.suffix.lower() in TABLES else read_adif)(content, name)
    fresh = unknown(read.entries, there)
    return Arrived(fresh, len(read.entries) - len(fresh), read.refused)


def unknown(read: tuple[LogEntry, ...], there: tuple[LogEntry, ...]) -> tuple[LogEntry, ...]:
    """What of a file is not there already: at one time one station gives one report."""

    def about(e: LogEntry) -> tuple[object, ...]:
        return (e.utc, e.kind, e.who) if e.kind == "report" else (e.utc, e.kind, e.says())

    known = {about(e) for e in there}
    return tuple(e for e in read if about(e) not in known)
