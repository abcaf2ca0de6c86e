"""One open station: its document, its jobs, its spaces. Another station is another session."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from importlib import import_module

from PySide6.QtCore import QObject, QTimer, Signal

from tonleiter.app import turns
from tonleiter.app.asking import Asking
from tonleiter.app.document import Document
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.reckoning import Reckoning
from tonleiter.app.safety.garbage import collect_here, let_go
from tonleiter.app.safety.trouble import trouble
from tonleiter.app.spaces.registry import SPACES
from tonleiter.app.spaces.space import Context, Space
from tonleiter.app.theme.look import Look, SpaceLook
from tonleiter.app.verdicts import Verdicts

# when the first space stands, and how long it rests between two spaces that are read
WARM_AFTER_MS, REST_MS = 1_200, 60
# how long nothing has been done for what can wait to be done, and how often it is put off
EASE_S, EASE_TRIES = 0.03, 30
# what other spaces rest on and takes long to read
HEAVY = (
    "scipy.linalg.blas",
    "soundfile",
    "soxr",
    "tonleiter.core.bench.tone",
    "tonleiter.core.circuit.transient",
    "tonleiter.core.learn.learned",
    "tonleiter.core.listen.measures",
    "tonleiter.core.log.next_task",
    "tonleiter.core.manual.book",
    "tonleiter.core.plan.search",
    "tonleiter.core.plan.transmit_switch",
    "tonleiter.core.practice.missions",
    "tonleiter.core.prove.prove",
    "tonleiter.core.report.worksheet",
    "tonleiter.core.setup.advice",
    "tonleiter.core.setup.modes",
)


def _read() -> None:
    for name in HEAVY:
        import_module(name)
    from tonleiter.core.manual.book import standing

    # its pages of kinds read the whole library
    standing()


class Session(QObject):
    """Makes spaces when they are first wanted; ended, it stops everything and keeps nothing."""

    made = Signal(str)

    def __init__(self, document: Document, look: Look) -> None:
        super().__init__()
        collect_here()
        self.document, self.jobs = document, Jobs()
        self.verdicts = Verdicts()
        self.reckoning = Reckoning(document, self.jobs, self.verdicts)
        self.asking = Asking(document, self.jobs)
        self._context = Context(
            document, self.jobs, look, self.verdicts, self.reckoning, self.asking
        )
        self._entries = {entry.name: entry for entry in SPACES}
        self.spaces: dict[str, Space] = {}
        trouble().keep_with(document.keep)
        document.watch()
        self._warms = self.jobs.desk(Wait.LATER)
        self._warms.done.connect(self._warm_spaces)
        self._unread = [entry.module for entry in SPACES]
        self.later(WARM_AFTER_MS, self._warm)

    def later(self, after_ms: int, do: Callable[[], object]) -> None:
        """Do something a moment later, unless the session has ended by then."""
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.timeout.connect(do)
        timer.timeout.connect(timer.deleteLater)
        timer.start(after_ms)

    def at_ease(self, after_ms: int, do: Callable[[], object], tries: int = EASE_TRIES) -> None:
        """Do something a moment later that can wait while the window is at something else."""

        def look() -> None:
            if tries and turns.rested_s() < EASE_S:
                self.at_ease(after_ms, do, tries - 1)
            else:
                do()

        self.later(after_ms, look)

    def _warm(self) -> None:
        """What other spaces are made of is read before somebody goes there.

        What they rest on is read by a worker. They themselves are not: a class of the toolkit that
        comes to be in one thread, while another asks a widget what it is, takes the program down.
        """
        self._warms.start(lambda _: _read())

    def _warm_spaces(self) -> None:
        if self._unread:
            import_module(self._unread.pop(0))
            self.later(REST_MS, self._warm_spaces)

    def space(self, name: str) -> Space:
        """A space by its name, made now if it is wanted for the first time. Raises KeyError."""
        if name not in self.spaces:
            look = SpaceLook(self._context.look)
            space = self._entries[name].make(replace(self._context, look=look))
            look.setParent(space)
            self.spaces[name] = space
            # into its place first: whoever is dressed and then moved is dressed once more
            self.made.emit(name)
            look.worn_by(space)
        return self.spaces[name]

    def end(self) -> None:
        """Nobody waits for anything any more."""
        trouble().forget(self.document.keep)
        self._unread.clear()
        # a timer holds what it is to call where nobody who looks for garbage sees it, and that
        # holds the session: left unfired they would keep each other, with all spaces
        for timer in self.findChildren(QTimer):
            timer.stop()
            timer.deleteLater()
        for space in self.spaces.values():
            space.rest()
        self.reckoning.rest()
        self.asking.rest()
        self.jobs.end()
        self.document.close()
        let_go()
