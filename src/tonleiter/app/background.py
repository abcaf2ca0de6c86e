"""Work that takes longer than a frame: one job at a time in a thread, the newest one counts."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

# all spaces share one thread: two cores are there, and the window needs one of them
# results are shown this often: often enough to see it move, seldom enough to cost nothing
TELL_EVERY_S = 0.06
_THREAD = ThreadPoolExecutor(max_workers=1, thread_name_prefix="background")


class Task:
    """A running job's side: whether it is still wanted, and a way to show what it has so far."""

    def __init__(self, owner: Background, number: int) -> None:
        self._owner, self._number = owner, number

    def stopped(self) -> bool:
        """Whether nobody waits for this job any more."""
        return self._owner.wanted != self._number

    def tell(self, news: object) -> None:
        """Show something before the job is done."""
        self._owner.send(self._number, "told", news)

    def tell_along(self, steps: Iterable[object]) -> object:
        """Run through steps, show one every now and then, and return the last; None if none came.

        The last one is not told: it is the job's result.
        """
        last: object = None
        told = time.monotonic()
        for last in steps:
            if time.monotonic() - told >= TELL_EVERY_S:
                told = time.monotonic()
                self.tell(last)
        return last


Job = Callable[[Task], object]


class Background(QObject):
    """Runs jobs for one owner; results of a job that was followed by another do not arrive."""

    done = Signal(object)
    told = Signal(object)
    failed = Signal(str)
    _arrived = Signal(int, str, object)

    def __init__(self) -> None:
        super().__init__()
        self.wanted = 0
        self._arrived.connect(self._take)

    def start(self, job: Job) -> None:
        """Run ``job`` after whatever runs now."""
        self.wanted += 1
        number = self.wanted

        def run() -> None:
            task = Task(self, number)
            if task.stopped():
                return
            try:
                result = job(task)
            except Exception as error:  # an error must reach the window, not die in a thread
                self.send(number, "failed", str(error) or type(error).__name__)
            else:
                self.send(number, "done", result)

        _THREAD.submit(run)

    def stop(self) -> None:
        """No result is wanted any more."""
        self.wanted += 1

    def send(self, number: int, kind: str, payload: object) -> None:
        """From the thread: hand something over to the window."""
        # a window that was closed meanwhile hears nothing any more
        with contextlib.suppress(RuntimeError):
            self._arrived.emit(number, kind, payload)

    def _take(self, number: int, kind: str, payload: object) -> None:
        if number == self.wanted:
            getattr(self, kind).emit(payload)
