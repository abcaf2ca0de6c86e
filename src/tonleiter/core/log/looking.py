"""What of a log is looked at: from a day on, of a radio or microphone, with words in it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.telling import By

# days that mean all of them
EVER = 0
# seen before the first entry of all: it does not stand on the edge
BEFORE_DAYS = 7
# seen of everything where nothing is written yet
EMPTY_DAYS = 30


@dataclass(frozen=True)
class Looked:
    """Filters; ``by`` is what a line is of. None is every radio, every microphone."""

    radio: str | None = None
    microphone: str | None = None
    by: By = "microphone"
    since_days: int = 365
    find: str = ""

    def since(self, entries: Sequence[LogEntry], now: datetime) -> datetime:
        """From which day on; of everything, a little before the first entry."""
        since = now - timedelta(days=self.since_days)
        if self.since_days == EVER:
            first = min((e.when for e in entries), default=None)
            since = now - timedelta(days=EMPTY_DAYS)
            since = since if first is None else first - timedelta(days=BEFORE_DAYS)
        return since.replace(hour=0, minute=0, second=0, microsecond=0)

    def of(
        self, entries: Sequence[LogEntry], since: datetime, found: Collection[int] | None
    ) -> tuple[LogEntry, ...]:
        """Those of them that are looked at; ``found`` are the numbers that have the words."""
        return tuple(
            e for e in entries if self._is(e, since) and (found is None or e.number in found)
        )

    def of_kept(self, kept: Sequence[LogEntry], since: datetime) -> tuple[LogEntry, ...]:
        """The same of what is kept elsewhere, whose words are those of its title."""
        words = self.find.lower().split()
        return tuple(
            e for e in kept if self._is(e, since) and all(w in e.title.lower() for w in words)
        )

    def _is(self, entry: LogEntry, since: datetime) -> bool:
        return (
            entry.when >= since
            and (self.radio is None or entry.radio == self.radio)
            and (self.microphone is None or entry.microphone == self.microphone)
        )


def until(entries: Sequence[LogEntry], now: datetime) -> datetime:
    """The end of today, or of the newest entry's day if somebody's clock was ahead."""
    newest = max([now, *(e.when for e in entries)])
    return newest.replace(hour=23, minute=59, second=0, microsecond=0)
