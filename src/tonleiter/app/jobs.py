"""Work that takes longer than a frame, in threads of its own, with an order and a way to stop.

A ``Desk`` belongs to whoever wants results: only its newest job is heard. The ``Jobs`` of a session
run them, what the hand waits for first. A worker knows a desk by its number only and holds nothing
of the window; what it has to say goes through a mailbox that lives as long as the process.
"""

from __future__ import annotations

import heapq
import itertools
import sys
import threading
import time
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from enum import IntEnum
from queue import Empty, SimpleQueue

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from tonleiter.app import turns
from tonleiter.app.safety.trouble import trouble
from tonleiter.core import helpers
from tonleiter.core.refused import RefusedError
from tonleiter.core.stop import StoppedError, stopping

# results are shown this often: often enough to see it move, seldom enough to cost nothing
TELL_EVERY_S = 0.06
# so long results are handed over in one turn of the loop; one is, however long it takes
DELIVERS_S = 0.02
# nearly every call into the toolkit hands the interpreter over; this long it takes, at worst, until
# a worker hands it back. At a millisecond a page of five hundred calls took half a second longer
SWITCH_S = 1e-4
# work that nobody waits for yet rests so long at most, whatever else there is to do
MOST_REST_S = 3.0


class Wait(IntEnum):
    """Who waits for a job: the hand at the screen, the eye on a page, or nobody yet."""

    HAND = 0
    PAGE = 1
    LATER = 2


@dataclass(order=True)
class _Job:
    order: tuple[int, int]
    desk: int = field(compare=False)
    number: int = field(compare=False)
    run: Callable[[Task], object] = field(compare=False)
    stop: threading.Event = field(compare=False, default_factory=threading.Event)


class Task:
    """A running job's side: whether it is still wanted, and a way to show what it has so far."""

    def __init__(self, job: _Job) -> None:
        self._job = job

    def stopped(self) -> bool:
        """Whether nobody waits for this job any more."""
        return self._job.stop.is_set()

    def tell(self, news: object) -> None:
        """Show something before the job is done."""
        _MAILBOX.put(self._job, "told", news)

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


_Letter = tuple[int, int, str, object]


class _Mailbox(QObject):
    """Takes what workers send and hands it to desks in the window's thread.

    What comes at once is handed over in turns of the loop: a space may be built anew for each of
    them. A part that has been overtaken, by a later one or by the whole, is not handed over.
    """

    _arrived = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.desks: dict[int, Desk] = {}
        self._letters: SimpleQueue[_Letter] = SimpleQueue()
        self._waiting: list[_Letter] = []
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._deliver)
        self._arrived.connect(self._sort, Qt.ConnectionType.QueuedConnection)

    def put(self, job: _Job, kind: str, payload: object) -> None:
        """From a worker."""
        self._letters.put((job.desk, job.number, kind, payload))
        self._arrived.emit()

    def _sort(self) -> None:
        while True:
            try:
                letter = self._letters.get_nowait()
            except Empty:
                break
            self._waiting = [
                old for old in self._waiting if old[:2] != letter[:2] or old[2] != "told"
            ]
            self._waiting.append(letter)
        if self._waiting and not self._turn.isActive():
            self._turn.start(0)

    def _deliver(self) -> None:
        begun = time.monotonic()
        try:
            while self._waiting and time.monotonic() - begun < DELIVERS_S:
                desk, number, kind, payload = self._waiting.pop(0)
                if (to := self.desks.get(desk)) is not None:
                    with turns.at_work():
                        to.take(number, kind, payload)
        finally:
            if self._waiting:
                self._turn.start(0)


# made once, in the window's thread, when this module is first imported there; never destroyed
_MAILBOX = _Mailbox()
_NUMBERS = itertools.count(1)


class Desk(QObject):
    """One that wants results. ``failed`` tells a refusal in one line; slips are reported."""

    done = Signal(object)
    told = Signal(object)
    failed = Signal(str)

    def __init__(self, jobs: Jobs, wait: Wait) -> None:
        super().__init__()
        self._jobs, self._wait = jobs, wait
        self._number = next(_NUMBERS)
        self._wanted = 0
        self._job: _Job | None = None
        _MAILBOX.desks[self._number] = self

    @property
    def busy(self) -> bool:
        """Whether a result is still to come."""
        return self._job is not None

    def start(self, run: Callable[[Task], object]) -> None:
        """Run a job; one that this desk wanted before is stopped."""
        self.stop()
        self._job = _Job((int(self._wait), next(_NUMBERS)), self._number, self._wanted, run)
        self._jobs.add(self._job)

    def stop(self) -> None:
        """No result is wanted any more."""
        self._wanted += 1
        if self._job is not None:
            self._job.stop.set()
            self._job = None

    def close(self) -> None:
        """Nobody sits here any more."""
        self.stop()
        _MAILBOX.desks.pop(self._number, None)

    def take(self, number: int, kind: str, payload: object) -> None:
        """What a worker sent, if it is about the newest job."""
        if number != self._wanted:
            return
        if kind == "told":
            self.told.emit(payload)
            return
        self._job = None
        if kind == "done":
            self.done.emit(payload)
        elif isinstance(payload, RefusedError):
            self.failed.emit(str(payload))
        elif isinstance(payload, BaseException):
            trouble().report(payload, "work behind the window")


class Jobs:
    """Two workers: one takes everything, one only what somebody waits for at the screen.

    While the first is at something that nobody waits for yet, the second takes pages as well.
    """

    def __init__(self) -> None:
        self._queue: list[_Job] = []
        self._jobs: dict[int, _Job] = {}
        self._there = threading.Condition()
        self._ended = False
        self._desks: list[Desk] = []
        self._threads: list[threading.Thread] = []

    def desk(self, wait: Wait) -> Desk:
        """A desk whose jobs come in the order of who waits for them."""
        made = Desk(self, wait)
        self._desks.append(made)
        return made

    def add(self, job: _Job) -> None:
        """Put a job into the queue."""
        with self._there:
            if self._ended:
                return
            if not self._threads:
                # a worker hands the interpreter back sooner: the window's thread waits less
                sys.setswitchinterval(SWITCH_S)
                for least in (Wait.LATER, Wait.HAND):
                    thread = threading.Thread(
                        target=self._work, args=(least,), daemon=True, name=f"jobs-{least.name}"
                    )
                    self._threads.append(thread)
                    thread.start()
            heapq.heappush(self._queue, job)
            self._there.notify_all()

    def end(self) -> None:
        """Stop everything; nobody hears of it any more."""
        with self._there:
            self._ended = True
            for job in (*self._queue, *self._jobs.values()):
                job.stop.set()
            self._queue.clear()
            self._there.notify_all()
        for desk in self._desks:
            desk.close()
        self._desks.clear()

    def wait(self, seconds: float) -> bool:
        """Whether the workers have gone home within ``seconds``."""
        until = time.monotonic() + seconds
        for thread in self._threads:
            thread.join(max(0.0, until - time.monotonic()))
        return not any(thread.is_alive() for thread in self._threads)

    def _next(self, least: Wait) -> _Job | None:
        with self._there:
            while True:
                if self._ended:
                    return None
                while self._queue and self._queue[0].stop.is_set():
                    heapq.heappop(self._queue)
                if self._queue and self._queue[0].order[0] <= self._takes(least):
                    job = heapq.heappop(self._queue)
                    self._jobs[id(job)] = job
                    return job
                self._there.wait()

    def _takes(self, least: Wait) -> int:
        """What a worker takes now: a page does not wait for what nobody waits for yet."""
        held_up = any(job.order[0] == Wait.LATER for job in self._jobs.values())
        return max(least, Wait.PAGE) if held_up else least

    def _asked_by(self, job: _Job) -> Callable[[], bool]:
        """Whether a job is to stop; it gives way to the window's thread at each question.

        What nobody waits for yet rests while others are waited for.
        """

        def unwanted() -> bool:
            if not job.stop.is_set():
                turns.give_way()
            return job.stop.is_set()

        if job.order[0] < Wait.LATER:
            return unwanted

        def stopped() -> bool:
            with self._there:
                self._there.wait_for(
                    lambda: (
                        self._ended
                        or job.stop.is_set()
                        or not any(j.order[0] < Wait.LATER for j in self._jobs.values())
                    ),
                    MOST_REST_S,
                )
            return unwanted()

        return stopped

    def _work(self, least: Wait) -> None:
        while (job := self._next(least)) is not None:
            _run(job, self._asked_by(job))
            with self._there:
                self._jobs.pop(id(job), None)
                self._there.notify_all()
            del job  # nothing of it is kept while the worker waits


def _run(job: _Job, stopped: Callable[[], bool]) -> None:
    try:
        with stopping(stopped):
            result = job.run(Task(job))
    except StoppedError:
        return
    except Exception as error:  # whole, to be said or logged in the window's thread
        _MAILBOX.put(job, "failed", error)
    else:
        _MAILBOX.put(job, "done", result)


def lend_a_hand() -> None:
    """Let the core solve the halves of a batch on two cores."""
    helpers.lend(ThreadPoolExecutor(max_workers=1, thread_name_prefix="solve"))
