"""Work that takes longer than a frame: one job at a time in a thread, the newest one counts."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

Stopped = Callable[[], bool]
Job = Callable[[Stopped], object]

# all spaces share one thread: two cores are there, and the window needs one of them
_THREAD = ThreadPoolExecutor(max_workers=1, thread_name_prefix="background")


class Background(QObject):
    """Runs jobs for one owner. A job gets a function that says whether it is still wanted."""

    done = Signal(object)
    told = Signal(object)
    failed = Signal(str)
    _arrived = Signal(int, str, object)

    def __init__(self) -> None:
        super().__init__()
        self._wanted = 0
        self._arrived.connect(self._take)

    def start(self, job: Job) -> None:
        """Run ``job`` after whatever runs now; results of earlier jobs no longer arrive."""
        self._wanted += 1
        number = self._wanted

        def run() -> None:
            if self._wanted != number:
                return
            try:
                result = job(lambda: self._wanted != number)
            except Exception as error:  # an error must reach the window, not die in a thread
                self._send(number, "failed", str(error) or type(error).__name__)
            else:
                self._send(number, "done", result)

        _THREAD.submit(run)

    def tell(self, news: object) -> None:
        """From inside a job: something to show before it is done."""
        self._send(self._wanted, "told", news)

    def stop(self) -> None:
        """No result is wanted any more."""
        self._wanted += 1

    def _send(self, number: int, kind: str, payload: object) -> None:
        # a window that was closed meanwhile hears nothing any more
        with contextlib.suppress(RuntimeError):
            self._arrived.emit(number, kind, payload)

    def _take(self, number: int, kind: str, payload: object) -> None:
        if number == self._wanted:
            getattr(self, kind).emit(payload)
