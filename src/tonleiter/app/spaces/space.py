"""What the window knows of a space, whichever it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QWidget

from tonleiter.app.asking import Asking
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs
from tonleiter.app.reckoning import Reckoning
from tonleiter.app.safety.events import guarded
from tonleiter.app.theme.look import Look
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.judge.findings.model import Finding


@dataclass(frozen=True)
class Context:
    """What a space is made with: the open document, its queue of jobs, the look, the verdicts."""

    document: Document
    jobs: Jobs
    look: Look
    verdicts: Verdicts
    reckoning: Reckoning
    asking: Asking


@dataclass(frozen=True)
class Action:
    """Something a key does while a space is shown; several keys are parted by blanks."""

    words: str
    keys: str
    do: Callable[[], object]


@dataclass(frozen=True)
class Badge:
    """How many findings of a severity stand in a space."""

    count: int
    severity: str


def gravest(findings: Sequence[Finding]) -> Badge | None:
    """How many there are of the gravest that ask for something; None where nothing does."""
    for severity in ("stop", "mind"):
        count = sum(f.severity == severity for f in findings)
        if count:
            return Badge(count, severity)
    return None


class Space(QWidget):
    """A page of the window. ``refused`` is a line to say (empty takes it away).

    ``wanted`` asks for another space by name, with a word for it that it understands.
    """

    refused = Signal(str)
    wanted = Signal(str, str)
    badge_changed = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.late = False
        """It is shown, and catches up a turn of the loop later."""
        self.setObjectName("space")

    def arrive(self, word: str = "") -> None:
        """The space is shown: the keyboard goes where work begins."""

    def catch_up(self) -> None:
        """It was shown late: what was left undone out of sight is done now."""

    def take_files(self, files: Sequence[Path]) -> None:
        """Files of the endings that it takes were dropped on the window; it is shown."""

    def rest(self) -> None:
        """Nobody waits any more for what is being computed here."""

    def key_actions(self) -> tuple[Action, ...]:
        """What keys do while this space is shown."""
        return ()

    def hints(self) -> tuple[tuple[str, str], ...]:
        """Keys and words of what else the space's own widgets understand, for the list of keys."""
        return ()

    def badge(self) -> Badge | None:
        """What the space's button on the rail should warn of."""
        return None


class WatchedSpace(Space):
    """A space whose model works only while it is looked at."""

    model: Watched

    def rest(self) -> None:
        """Stop what runs behind the window."""
        self.model.rest()

    @guarded
    def hideEvent(self, event: QHideEvent) -> None:
        """Out of sight nothing is worked at."""
        super().hideEvent(event)
        self.model.leave()
