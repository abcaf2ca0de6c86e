"""The log as a table and as plain data; keys carry units and zones."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import Any

from tonleiter.core.log.entry import LogEntry

COLUMNS = ("number", "at", "utc", "kind", "says", "who", "band", "signal", "microphone", "chain",
           "radio", "words", "text", "changed", "way_back", "tags", "photos", "sealed")  # fmt: skip


def row_of(entry: LogEntry) -> dict[str, Any]:
    """One entry."""
    return {
        "number": entry.number,
        "at": entry.at,
        "utc": entry.utc.isoformat(timespec="minutes"),
        "kind": entry.kind,
        "says": entry.says(),
        "who": entry.who or "",
        "band": entry.band or "",
        "signal": entry.signal,
        "microphone": entry.microphone or "",
        "chain": entry.chain or "",
        "radio": entry.radio or "",
        "words": list(entry.words),
        "text": entry.text,
        "changed": list(entry.changed),
        "way_back": entry.way_back,
        "tags": list(entry.tags),
        "photos": list(entry.photos),
        "sealed": entry.sealed,
    }


def log_csv(entries: Iterable[LogEntry]) -> str:
    """A line for each, a heading on top. A cell that a sheet would compute is made text."""
    text = io.StringIO()
    out = csv.writer(text, lineterminator="\n")
    out.writerow(COLUMNS)
    for entry in entries:
        row = row_of(entry)
        out.writerow([_cell(row[c]) for c in COLUMNS])
    return text.getvalue()


def _cell(value: object) -> str:
    said = "; ".join(value) if isinstance(value, list) else str(value)
    return f"'{said}" if said[:1] in ("=", "+", "@", "\t") else said
