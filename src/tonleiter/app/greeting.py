"""On opening a station that has open ends: what to do next, in one sentence, once."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from tonleiter.app.derived import Derived
from tonleiter.app.jobs import Task, Wait
from tonleiter.app.notice import Notice
from tonleiter.app.session import Session
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.next_task import headline, next_tasks
from tonleiter.core.log.store import LogError, LogStore
from tonleiter.core.log.telling import lanes_of, sayings

# the first space stands, and nobody is kept waiting for it
AFTER_MS = 2_500


class Greeting(QObject):
    """Worked out when nobody waits for anything; said where the notice says nothing else."""

    def __init__(self, session: Session, notice: Notice, lead: Callable[[], object]) -> None:
        super().__init__(session)
        self._session, self._notice, self._lead = session, notice, lead
        self._says: Derived[str] = Derived(session.jobs, Wait.LATER)
        self._says.setParent(self)
        self._says.changed.connect(self._say)
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.timeout.connect(self._ask)
        timer.start(AFTER_MS)

    def _ask(self) -> None:
        document, judge = self._session.document, self._session.verdicts.held_or_made
        station, records, folder = document.station, document.records, document.folder
        looks_only = document.looks_only

        def compute(_: Task) -> str:
            entries, now = entries_of(folder, looks_only), datetime.now().astimezone()
            said = sayings(lanes_of(entries), now)
            return headline(next_tasks(station, records, said, judge, entries))

        self._says.want((station, records), compute)

    def _say(self) -> None:
        made = self._says
        if made.whole and made.value and self._notice.isHidden():
            self._notice.ask(f"{made.value}.", (("What next", self._lead),))


def entries_of(folder: Path, looks_only: bool) -> tuple[LogEntry, ...]:
    """What the log has; one that cannot be read says nothing here, and why in its own space."""
    store = LogStore(folder, looks_only)
    try:
        return store.entries()
    except LogError:
        return ()
    finally:
        store.close()
