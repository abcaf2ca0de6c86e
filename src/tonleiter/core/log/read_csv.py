"""A table read into the log: columns by their names in any order, a line refused by itself.

The names are those of the program's own table; a column with another name is kept with the entry.
"""

from __future__ import annotations

import csv
import io

from pydantic import ValidationError

from tonleiter.core.log.entry import KIND_WORDS, LogEntry, Read
from tonleiter.core.log.report_words import KINDNESS, found_in
from tonleiter.core.refused import RefusedError

MOST_BYTES, MOST_ROWS, MOST_CELL = 64 * 1024 * 1024, 200_000, 4_000
# which columns of a table are taken, and those that follow from others
TAKEN = ("at", "kind", "title", "who", "band", "signal", "microphone", "chain", "radio", "words",
         "text", "changed", "way_back", "tags")  # fmt: skip
FOLLOW = ("number", "utc", "says", "sealed", "photos")


class TableError(RefusedError):
    """A table that is none of a log; one line says what, where, what would be accepted."""


def read_csv(data: bytes, name: str = "CSV") -> Read:
    """Every line of a table. Raises TableError where it is none, or has no column of a time."""
    if len(data) > MOST_BYTES:
        raise TableError(f"{name}: {len(data)} bytes: up to {MOST_BYTES} are wanted")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise TableError(f"{name}: byte {error.start} is no UTF-8 text") from None
    head = text.partition("\n")[0]
    between = max(",;\t", key=head.count)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=between))
    except csv.Error as error:
        raise TableError(f"{name}: it is no table: {error}") from None
    if not rows or "at" not in (names := [c.strip().lower() for c in rows[0]]):
        raise TableError(
            f"{name}: a first line with the names of columns is wanted, “at” for the time among"
            f" them; others are {', '.join(TAKEN[1:])}"
        )
    if len(rows) > MOST_ROWS:
        raise TableError(f"{name}: {len(rows)} lines: up to {MOST_ROWS} are wanted")
    entries, refused = [], []
    for number, cells in enumerate(rows[1:], 2):
        if not any(c.strip() for c in cells):
            continue
        made = _entry(dict(zip(names, (_plain(c) for c in cells), strict=False)))
        if isinstance(made, str):
            refused.append(f"{name}, line {number}: {made}")
        else:
            entries.append(made)
    return Read(tuple(entries), tuple(refused))


def _plain(cell: str) -> str:
    """A cell as it was before it was made text for a sheet that computes."""
    cell = cell.strip()
    return cell[1:] if cell[:1] == "'" and cell[1:2] in ("=", "+", "@", "\t") else cell


def _entry(cells: dict[str, str]) -> LogEntry | str:
    """The entry of a line, or why it is none."""
    too_long = next((n for n, v in cells.items() if len(v) > MOST_CELL), None)
    if too_long is not None:
        return f"its {too_long} is longer than {MOST_CELL} characters"
    kind = cells.get("kind", "") or "report"
    if kind not in KIND_WORDS:
        return f"its kind is “{kind[:20]}”: one of {', '.join(KIND_WORDS)} is wanted"
    signal = "".join(c for c in cells.get("signal", "") if c.isdigit())
    words = [w for w in _listed(cells.get("words", "")) if w in KINDNESS]
    text = cells.get("text", "")
    given = {n: cells[n] for n in ("who", "band", "microphone", "chain", "radio") if cells.get(n)}
    made = {
        "at": cells.get("at", ""),
        "kind": kind,
        "title": cells.get("title") or ("" if kind == "report" else cells.get("says", "")),
        "text": text,
        "words": tuple(words) or (found_in(text) if kind == "report" else ()),
        "changed": tuple(_listed(cells.get("changed", ""))),
        "tags": tuple(_listed(cells.get("tags", ""))),
        "way_back": cells.get("way_back", ""),
        "readability": int(signal[0]) if signal else None,
        "strength": int(signal[1]) if len(signal) > 1 else None,
        "other": {
            n[:64]: v for n, v in cells.items() if v and n and n not in TAKEN and n not in FOLLOW
        },
        **given,
    }
    try:
        return LogEntry.model_validate(made)
    except ValidationError as error:
        first = error.errors()[0]
        return f"{first['loc'][0] if first['loc'] else 'entry'}: {first['msg']}"


def _listed(cell: str) -> list[str]:
    return [p.strip() for p in cell.split(";") if p.strip()]
