"""Slips of ours: logged whole, said in one line, and the window goes on."""

from __future__ import annotations

import faulthandler
import logging
import sys
import threading
import time
from collections import deque
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import TextIO

from PySide6.QtCore import QObject, Signal

from tonleiter.core.refused import RefusedError
from tonleiter.core.station.places import state_folder
from tonleiter.core.words import one_line

LOG = logging.getLogger("tonleiter")
LOG_FILE = "tonleiter.log"
CRASH_FILE = "crash.log"
MOST_LOG_BYTES = 1_000_000
# one that comes with every repaint is said once, not sixty times a second
SAY_AGAIN_AFTER_S = 10.0
MOST_SEEN = 20


class Trouble(QObject):
    """Where every unexpected exception of the application ends."""

    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._last: dict[str, float] = {}
        self._keepers: list[Callable[[], None]] = []
        self.log_file: Path | None = None
        # the last ones only: an exception holds on to everything it came through
        self.seen: deque[BaseException] = deque(maxlen=MOST_SEEN)

    def keep_with(self, keeper: Callable[[], None]) -> None:
        """Call ``keeper``, which keeps the work, when something went wrong."""
        self._keepers.append(keeper)

    def forget(self, keeper: Callable[[], None]) -> None:
        """The work that ``keeper`` kept is no longer open."""
        if keeper in self._keepers:
            self._keepers.remove(keeper)

    def let_go(self) -> None:
        """What slips came through was logged: windows that were left do not live on in it."""
        for error in self.seen:
            error.__traceback__ = None

    def report(self, error: BaseException, where: str = "") -> None:
        """Log an exception, keep the work, say it in one line. Raises nothing."""
        key = f"{where} {type(error).__name__} {error}"[:300]
        now = time.monotonic()
        if now - self._last.get(key, -SAY_AGAIN_AFTER_S) < SAY_AGAIN_AFTER_S:
            return
        self._last[key] = now
        self.seen.append(error)
        if isinstance(error, RefusedError):
            self.said.emit(str(error))
            return
        LOG.error("in %s", where or "the application", exc_info=error)
        for keeper in tuple(self._keepers):
            try:
                keeper()
            except Exception:
                LOG.exception("while keeping the work")
        what = one_line(f"{type(error).__name__}: {error}")[:160]
        at = f" Details in {self.log_file}." if self.log_file else ""
        self.said.emit(f"Something went wrong here ({what}). Your work is kept.{at}")


_TROUBLE: list[Trouble] = []


def trouble() -> Trouble:
    """The one collector of the application."""
    if not _TROUBLE:
        _TROUBLE.append(Trouble())
    return _TROUBLE[0]


_crash_log: TextIO | None = None


class _Early(logging.Handler):
    """What was logged before there was a log, to be written into it."""

    def __init__(self) -> None:
        super().__init__(logging.ERROR)
        self.records: deque[logging.LogRecord] = deque(maxlen=MOST_SEEN)

    def emit(self, record: logging.LogRecord) -> None:
        """Keep a record."""
        self.records.append(record)

    def hand_over(self) -> None:
        """Whoever logs from now on has it; where nobody does it is said on the way out."""
        LOG.removeHandler(self)
        while self.records:
            LOG.handle(self.records.popleft())


_EARLY = _Early()


def catch_all() -> None:
    """Let no exception end the application."""
    LOG.addHandler(_EARLY)
    sys.excepthook = _hook
    threading.excepthook = lambda args: _hook(
        args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
    )
    sys.unraisablehook = lambda args: LOG.error("unraisable", exc_info=args.exc_value)


def keep_a_log() -> None:
    """Log into the user's state folder; once the window stands, since it wants its time."""
    global _crash_log
    from logging.handlers import RotatingFileHandler

    folder = state_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(
            folder / LOG_FILE, maxBytes=MOST_LOG_BYTES, backupCount=1, encoding="utf-8"
        )
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        LOG.addHandler(handler)
        LOG.setLevel(logging.INFO)
        trouble().log_file = folder / LOG_FILE
        # a fault below Python leaves its stack here
        _crash_log = (folder / CRASH_FILE).open("a", encoding="utf-8")
        faulthandler.enable(_crash_log)
    except OSError as error:
        print(f"tonleiter: no log is kept: {error.strerror}", file=sys.stderr)
    _EARLY.hand_over()


def _hook(kind: type[BaseException], error: BaseException, _: TracebackType | None) -> None:
    if issubclass(kind, KeyboardInterrupt | SystemExit):
        sys.__excepthook__(kind, error, error.__traceback__)
        return
    trouble().report(error)
