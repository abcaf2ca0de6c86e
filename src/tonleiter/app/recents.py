"""Which stations were opened last, kept with the settings: where, called what, when."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from datetime import UTC, date, datetime
from pathlib import Path

from PySide6.QtCore import QSettings

KEY, MOST = "recent", 12
# what is written by name: a day this week is "3 days ago", then its month, then its year
WEEK = 7


@dataclass(frozen=True)
class Recent:
    """A station that was open: its folder, its title, the day in UTC as ISO 8601."""

    folder: str
    title: str
    day: str

    def when(self, today: date) -> str:
        """When, as people say it."""
        try:
            then = datetime.fromisoformat(self.day).date()
        except ValueError:
            return ""
        days = (today - then).days
        if days <= 0:
            return "today"
        if days == 1:
            return "yesterday"
        if days <= WEEK:
            return f"{days} days ago"
        return f"in {then:%B}" if days < 330 else f"in {then:%B %Y}"


def recents() -> tuple[Recent, ...]:
    """The newest first; what cannot be understood is left out."""
    try:
        listed = json.loads(str(QSettings().value(KEY, "[]")))
        made = [
            Recent(str(one["folder"]), str(one["title"])[:80], str(one["day"])[:40])
            for one in listed
        ]
    except (ValueError, TypeError, KeyError, RecursionError):
        return ()
    return tuple(made[:MOST])


def keep_recent(folder: Path, title: str) -> None:
    """It was opened, or saved, now."""
    now = Recent(str(folder), title, datetime.now(UTC).date().isoformat())
    others = [r for r in recents() if r.folder != now.folder]
    _write((now, *others))


def forget_recent(folder: str) -> None:
    """It is not listed any more; where it lies it stays."""
    _write(tuple(r for r in recents() if r.folder != folder))


def _write(listed: tuple[Recent, ...]) -> None:
    QSettings().setValue(KEY, json.dumps([asdict(r) for r in listed[:MOST]]))
