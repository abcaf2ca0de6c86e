"""What the models of the spaces share: edits of the open document, what they derive from it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from PySide6.QtCore import QObject, Signal

from tonleiter.app.derived import Derived, Rest, wait_until
from tonleiter.app.document import Document
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.why.finding import why_alone, why_finding
from tonleiter.core.report.why.model import Why
from tonleiter.core.station import edits
from tonleiter.core.station.basis import Basis, chain_basis
from tonleiter.core.station.model import Station
from tonleiter.core.station.records import Records

T = TypeVar("T")


class Editing(QObject):
    """Edits raise; ``attempt`` says a refusal in the window instead.

    A field that can mark itself catches the refusal and shows it where it was typed.
    """

    refused = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self._derived: list[Derived[object]] = []
        self._rests: list[Rest] = []

    @property
    def station(self) -> Station:
        """The station as it is now."""
        return self.document.station

    @property
    def records(self) -> Records:
        """What was read and set with it."""
        return self.document.records

    # --- what is derived -------------------------------------------------------------------------

    def derive(
        self, jobs: Jobs, wait: Wait, changed: Callable[[], object], keeps: bool = True
    ) -> Derived[T]:
        """Something that this model derives; ``changed`` is called when it has changed."""
        made: Derived[T] = Derived(jobs, wait, keeps)
        made.changed.connect(changed)
        self._derived.append(made)  # type: ignore[arg-type]
        return made

    def when_resting(self, after_ms: int, do: Callable[[], object], wait: Wait = Wait.PAGE) -> Rest:
        """A timer for what waits until the hand rests."""
        made = Rest(self, after_ms, do, wait)
        self._rests.append(made)
        return made

    def rest(self) -> None:
        """Stop what runs behind the window, and what waits to run."""
        for timer in self._rests:
            timer.stop()
        for derived in self._derived:
            derived.cancel()

    def finish(self, upto: Wait = Wait.PAGE) -> None:
        """The hand rests and what is being derived comes: for whoever needs it whole.

        What nobody waits for yet is left to come by itself, unless it is asked for. It goes through
        the queue of jobs like everything else. Raises TimeoutError.
        """
        awaited = [d for d in self._derived if d.wait <= upto]

        def busy() -> bool:
            return any(d.busy for d in awaited)

        timers = [r for r in self._rests if r.wait <= upto]
        while sum(r.settle() for r in timers) or busy():
            wait_until(lambda: not busy())

    # --- why -------------------------------------------------------------------------------------

    def judged_on(self) -> Assessment | None:
        """The solved chain that the findings of this model are of, where they are of one."""
        return None

    def why_of(self, finding: Finding) -> Callable[[], Why | None]:
        """What answers why a finding stands; called behind the window."""
        now = self.judged_on()
        return (lambda: why_alone(finding)) if now is None else lambda: why_finding(now, finding)

    # --- edits -----------------------------------------------------------------------------------

    def edit(
        self, label: str, change: Callable[[Station], Station], gesture: str | None = None
    ) -> None:
        """Apply an edit as one undo step. Raises EditRefusedError."""
        self.document.edit(label, change, gesture)

    def note(self, label: str, change: Callable[[Records], Records]) -> None:
        """Change the records as one undo step. Raises EditRefusedError."""
        self.document.note(label, change)

    def attempt(self, do: Callable[[], object]) -> bool:
        """Do something that may be refused; whether it was done."""
        try:
            do()
        except RefusedError as error:
            self.refused.emit(str(error))
            return False
        return True

    def open_chain(self, chain_id: str) -> None:
        """Make another chain the open one."""
        self.attempt(lambda: self.edit("chain", lambda s: edits.open_chain(s, chain_id)))


class Watched(Editing):
    """A model that follows the document only while somebody looks at its space."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.seen = False
        document.changed.connect(self._follow)

    def arrive(self) -> None:
        """It is seen from now on."""
        self.seen = True
        self._follow()

    def leave(self) -> None:
        """Nobody looks any more: what waits for the hand to rest is left."""
        self.seen = False

    def rests_on(self, basis: Basis) -> bool:
        """Whether what it knows is of this basis; out of sight it may be of one before."""
        raise NotImplementedError

    @property
    def is_of_now(self) -> bool:
        """Whether what it knows is of the station as it is."""
        basis = chain_basis(self.station)
        return basis is not None and self.rests_on(basis)

    def _follow(self) -> None:
        """The document changed, or it is seen again."""
