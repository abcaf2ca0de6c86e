"""What is written behind the window: one thing after another, told in the window's thread."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, QTimer

# how soon it is told that something is written: the eye sees no delay
LOOK_EVERY_MS = 20


class Writing(QObject):
    """A disk may take seconds, a stick or a folder on a network more: who types does not wait.

    Nothing that was begun is given up: ``finish`` waits for it, and whoever reads or writes the
    same files himself calls that first.
    """

    def __init__(self) -> None:
        super().__init__()
        self._pool: ThreadPoolExecutor | None = None
        self._due: deque[tuple[Future[Any], Callable[[Future[Any]], None]]] = deque()
        self._look = QTimer(self)
        self._look.setInterval(LOOK_EVERY_MS)
        self._look.timeout.connect(self._tell_what_is_done)

    def begin(self, write: Callable[[], Any], then: Callable[[Future[Any]], None]) -> None:
        """Write something after what was begun before; ``then`` is given what came of it."""
        if self._pool is None:
            self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="writing")
        self._due.append((self._pool.submit(write), then))
        self._look.start()

    def finish(self) -> None:
        """Wait until all is written, and tell."""
        while self._due:
            self._tell_next()

    def close(self) -> None:
        """Finish; nothing more is begun."""
        self.finish()
        if self._pool is not None:
            self._pool.shutdown()
            self._pool = None

    def _tell_what_is_done(self) -> None:
        while self._due and self._due[0][0].done():
            self._tell_next()

    def _tell_next(self) -> None:
        written, then = self._due.popleft()
        if not self._due:
            self._look.stop()
        # it waits where it is not done, and raises nothing yet: that is for whoever asks
        written.exception()
        then(written)
