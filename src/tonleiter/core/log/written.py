"""Entries from what somebody typed, and what is wrong with it in one line."""

from __future__ import annotations

from tonleiter.core.log.entry import EntryKind, LogEntry, now_local, tags_in
from tonleiter.core.log.report_words import found_in
from tonleiter.core.station.model import Station
from tonleiter.core.station.open_chain import of_open_chain

# as many letters as a title and a way back have room for
TITLE_LETTERS, WAY_BACK_LETTERS = 400, 1_000
_REPORT = "the report: readability 1 to 5 and strength 1 to 9 are wanted, as 59"
_REFUSED = {
    "who": "the call sign: letters, figures and / are wanted, 2 to 16 of them",
    "band": "the band or way: up to 16 characters are wanted, as 40 m",
    "readability": _REPORT,
    "strength": _REPORT,
    "text": "the text: up to 4000 characters are wanted",
}


def report(station: Station, text: str, who: str, band: str, signal: str) -> LogEntry:
    """A report in a line, of the open chain. Raises ValueError."""
    call, rs = "".join(who.split()).upper(), "".join(c for c in signal if c.isdigit())
    return LogEntry(
        at=now_local(),
        kind="report",
        text=text.strip(),
        words=found_in(text),
        who=call or None,
        band=band.strip() or None,
        # what has no figure is no signal report, and refused as one
        readability=int(rs[0]) if rs else 0 if signal.strip() else None,
        strength=int(rs[1]) if len(rs) > 1 else None,
        **of_open_chain(station),
    )


def note(
    station: Station, kind: EntryKind, title: str, text: str, tags: str, way_back: str
) -> LogEntry:
    """What somebody writes by hand, of the open chain. Raises ValueError."""
    return LogEntry(
        at=now_local(),
        kind=kind,
        title=title.strip(),
        text=text.strip(),
        tags=tags_in(tags),
        way_back=way_back.strip(),
        **of_open_chain(station),
    )


def undone(entry: LogEntry) -> LogEntry:
    """The way back of a modification was gone."""
    title = f"undone: {entry.says()}"[:TITLE_LETTERS]
    return LogEntry(
        at=now_local(), kind="change", title=title, chain_id=entry.chain_id,
        chain=entry.chain, microphone=entry.microphone, radio=entry.radio,
    )  # fmt: skip


def purchase(needs: tuple[str, ...]) -> LogEntry:
    """Parts were bought and wait for what is built of them."""
    title = f"parts: {', '.join(needs)}"[:TITLE_LETTERS]
    return LogEntry(at=now_local(), kind="purchase", title=title, text="; ".join(needs))


def accepted(offered: LogEntry, title: str, way_back: str) -> LogEntry:
    """What was offered as changed, in somebody's own words and of this minute."""
    return offered.but(
        at=now_local(),
        title=title.strip()[:TITLE_LETTERS] or offered.title,
        way_back=way_back.strip()[:WAY_BACK_LETTERS],
    )


def refusal(error: ValueError) -> str:
    """The first thing that is wrong with an entry."""
    errors = getattr(error, "errors", None)
    if errors is None:
        return str(error)
    first = errors()[0]
    field = str(first["loc"][0]) if first["loc"] else "entry"
    return _REFUSED.get(field, f"{field}: {first['msg']}")
