"""Results that know what they rest on: kept while that stands, computed anew when it does not.

One pattern for everything that a space shows and did not read from the document. What a result
rests on is compared, never listed beside it; a result that comes after its question is gone is not
heard; whoever needs the result here and now waits for the queue and goes past nothing.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtCore import QEventLoop, QObject, QTimer, Signal

from tonleiter.app import turns
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.safety.trouble import trouble
from tonleiter.core.refused import RefusedError

T = TypeVar("T")
# how long somebody waits for work behind the window before it counts as hung
PATIENCE_S = 120.0
LOOK_MS = 4
SLIPPED = "something went wrong while it was computed"


class Derived(QObject, Generic[T]):
    """A value, its basis, and the work on a new one.

    ``value`` is the newest that is known; it is ``stale`` while it rests on something else than
    what is wanted, and ``whole`` once nothing more comes. ``trouble`` is one line for a value that
    could not be made. ``changed`` tells of any of that.
    """

    changed = Signal()

    def __init__(self, jobs: Jobs, wait: Wait, keeps: bool = True) -> None:
        """``keeps``: an old value is shown until the new one is there."""
        super().__init__()
        self.wait = wait
        self._desk = jobs.desk(wait)
        self._desk.told.connect(self._take_part)
        self._desk.done.connect(self._take_whole)
        self._desk.failed.connect(self._take_refusal)
        self._keeps = keeps
        self._wanted: object = None
        self.basis: object = None
        self.value: T | None = None
        self.whole = False
        self.trouble = ""

    @property
    def busy(self) -> bool:
        """Whether it is being worked at."""
        return self._desk.busy

    @property
    def stale(self) -> bool:
        """Whether the value rests on something else than what is wanted now."""
        return self.value is not None and self.basis != self._wanted

    @property
    def current(self) -> T | None:
        """The value, if it rests on what is wanted now."""
        return None if self.stale else self.value

    def rests_on(self, basis: object) -> bool:
        """Whether what is known, or being made, is for this basis."""
        return self._wanted is not None and self._wanted == basis

    def want(self, basis: object, compute: Callable[[Task], T]) -> bool:
        """The value for a basis, behind the window; whether that is a new question.

        ``compute`` may tell values on the way, each of them whole as far as it goes.
        """
        if not self._ask(basis):
            return False
        self._desk.start(compute)
        self.changed.emit()
        return True

    @turns.at_work()
    def want_now(self, basis: object, compute: Callable[[], T]) -> bool:
        """The same before this call returns: for what the hand at the screen waits for."""
        if not self._ask(basis):
            return False
        self._desk.stop()
        try:
            made = compute()
        except RefusedError as error:
            self._take_refusal(str(error))
        except Exception as error:  # a slip in a rule must not leave a dead window
            trouble().report(error, "deriving a result")
            self._take_refusal(SLIPPED)
        else:
            self._take_whole(made)
        return True

    def _ask(self, basis: object) -> bool:
        if self.rests_on(basis) and (self.busy or self.whole or self.trouble):
            return False
        self._wanted, self.trouble, self.whole = basis, "", False
        if not self._keeps:
            self.value, self.basis = None, None
        return True

    def nothing(self, why: str = "") -> None:
        """There is nothing to derive, and why; what was known is forgotten."""
        was = (self.value, self.trouble, self.busy)
        self._desk.stop()
        self._wanted = self.basis = self.value = None
        self.whole, self.trouble = False, why
        if was != (None, why, False):
            self.changed.emit()

    def cancel(self) -> None:
        """Nobody waits any more; what is known stays, and is asked for again when it is wanted."""
        if self.busy:
            self._desk.stop()
            self._wanted = None if not self.whole else self._wanted

    def stop_here(self) -> None:
        """What was told so far is enough."""
        self._desk.stop()
        self.whole = self.value is not None
        self.changed.emit()

    def finish(self, seconds: float = PATIENCE_S) -> T | None:
        """Wait for what is being computed and return it. Raises TimeoutError."""
        wait_until(lambda: not self.busy, seconds)
        return self.value

    def _take_part(self, value: T) -> None:
        self.value, self.basis = value, self._wanted
        self.changed.emit()

    def _take_whole(self, value: T) -> None:
        self.value, self.basis, self.whole, self.trouble = value, self._wanted, True, ""
        self.changed.emit()

    def _take_refusal(self, why: str) -> None:
        self.value, self.basis, self.trouble = None, None, why
        self.changed.emit()


class Rest(QTimer):
    """Something that is done when the hand has rested for a while."""

    def __init__(
        self, parent: QObject, after_ms: int, do: Callable[[], object], wait: Wait = Wait.PAGE
    ) -> None:
        super().__init__(parent)
        self.wait = wait
        self.setSingleShot(True)
        self.setInterval(after_ms)
        self._do = do
        self.timeout.connect(do)

    def settle(self) -> bool:
        """Do it now, if it waits; whether it did."""
        if not self.isActive():
            return False
        self.stop()
        self._do()
        return True


def wait_until(done: Callable[[], bool], seconds: float = PATIENCE_S) -> None:
    """Let events go on until something is done. Raises TimeoutError."""
    if done():
        return
    until = time.monotonic() + seconds
    # the loop sleeps between looks: a busy one would take the interpreter from the workers
    loop, looks = QEventLoop(), QTimer()
    looks.timeout.connect(lambda: loop.quit() if done() or time.monotonic() > until else None)
    looks.start(LOOK_MS)
    try:
        # what comes in the turn that ends the loop may ask for more: then it is waited for as well
        while not done():
            if time.monotonic() > until:
                raise TimeoutError("work behind the window did not end")
            loop.exec()
    finally:
        looks.stop()
