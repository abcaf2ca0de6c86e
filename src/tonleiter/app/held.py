"""Who works on a station: a lock in its folder, told apart by machine and process.

It keeps two windows from working on one station without knowing of each other; it guards no file:
what somebody else saves is never written over in any case. A folder that nobody may write has none.
"""

from __future__ import annotations

import contextlib
import os
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QLockFile

LOCK_FILE = ".station.lock"


@dataclass(frozen=True)
class Holder:
    """Somebody who has the station open: where, and since when; the machine may be unknown."""

    machine: str
    since: datetime | None

    def says(self) -> str:
        """Who it is, in words."""
        when = f" since {self.since:%d %B, %H:%M}" if self.since is not None else ""
        return f"on {self.machine}{when}" if self.machine else f"in another window{when}"


class Lock:
    """The lock of one folder; ``holder`` is who has it where it is not ours."""

    def __init__(self, folder: Path) -> None:
        self.file = folder / LOCK_FILE
        self._lock = QLockFile(str(self.file))
        # a window may be open for days: only a process that is gone leaves a stale one
        self._lock.setStaleLockTime(0)
        self.holder: Holder | None = None
        self.take()

    def take(self) -> None:
        """Take it if nobody else has it."""
        self.holder = None
        if self._lock.isLocked() or self._lock.tryLock(0):
            return
        if self._lock.error() == QLockFile.LockError.LockFailedError:
            pid, machine, _ = self._lock.getLockInfo()
            # one process has one window: what it left behind a moment ago is its own
            if pid == os.getpid() and machine == os.uname().nodename:
                return
            self.holder = Holder("" if machine == os.uname().nodename else machine, self._since())

    def take_over(self) -> None:
        """Somebody says that nobody else works on it any more."""
        with contextlib.suppress(OSError):
            self.file.unlink(missing_ok=True)
        self.take()

    def let_go(self) -> None:
        """Nobody works here any more."""
        if self._lock.isLocked():
            self._lock.unlock()

    def _since(self) -> datetime | None:
        try:
            return datetime.fromtimestamp(self.file.stat().st_mtime).astimezone()
        except OSError:
            return None
