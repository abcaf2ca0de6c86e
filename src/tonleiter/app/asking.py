"""Questions "why?": asked anywhere, worked out behind the window, shown over it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.core.report.why.model import Why

Answer = Callable[[], Why | None]
# of what has no answer here
NOTHING = Why("Why?", ())


class Asking(QObject):
    """One question at a time. ``asked`` when there is one; ``changed`` when its answer comes.

    ``led`` tells a piece and a field (or none) that somebody wants to see, ``read`` a page of the
    manual.
    """

    asked = Signal()
    changed = Signal()
    led = Signal(str, str)
    read = Signal(str)

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__()
        self._why: Derived[Why] = Derived(jobs, Wait.PAGE, keeps=False)
        self._why.setParent(self)
        self._why.changed.connect(self.changed)
        self._count = 0
        # an answer is of the station as it was asked about
        document.changed.connect(self.leave)
        self.open = False

    @property
    def why(self) -> Why | None:
        """The answer, once there is one."""
        return self._why.value

    @property
    def trouble(self) -> str:
        """Why there is none."""
        return self._why.trouble

    def ask(self, answer: Answer) -> None:
        """Ask; an older question is forgotten."""
        self._count += 1
        self.open = True
        self._why.want(self._count, lambda _: answer() or NOTHING)
        self.asked.emit()

    def finish(self) -> Why | None:
        """Wait for the answer."""
        return self._why.finish()

    def leave(self) -> None:
        """Nobody asks any more."""
        if self.open:
            self.open = False
            self._why.nothing()
            self.changed.emit()

    def rest(self) -> None:
        """Stop what runs."""
        self._why.cancel()
