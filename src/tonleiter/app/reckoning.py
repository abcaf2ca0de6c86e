"""The station as levels, pairs and settings reckon with it: as typed, or with what readings taught.

Worked out behind the window; until it is there, what was typed counts.
"""

from __future__ import annotations

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Editing
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.learn.gathered import has_any
from tonleiter.core.learn.reckoned import Known, reckoned
from tonleiter.core.station.basis import Basis, basis_of, chain_basis
from tonleiter.core.station.model import Station


class Reckoning(Editing):
    """``changed``: what is reckoned with, or whether that is what was learned."""

    changed = Signal()

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts, self._known = verdicts, Known()
        self._learned: Derived[Station] = self.derive(jobs, Wait.PAGE, self._news, False)
        self._shown: Station | None = None
        document.changed.connect(self._follow)
        self._follow()

    @property
    def learned(self) -> Station | None:
        """The station with what was learned; None until that is known, or with nothing read."""
        made = self._learned.current
        return None if made is None or made is self.document.station else made

    @property
    def is_learned(self) -> bool:
        """Whether what was learned is reckoned with."""
        return self.records.reckoned == "learned" and self.learned is not None

    @property
    def reckoned(self) -> Station:
        """What levels, pairs and settings reckon with."""
        made = self.learned
        return made if made is not None and self.is_learned else self.document.station

    def _follow(self) -> None:
        station, records, verdicts = self.document.station, self.records, self._verdicts
        if not has_any(station, records):
            self._learned.nothing()
            return
        asked, known = (station, records.readings, records.proved, records.struck), self._known
        self._learned.want(
            asked,
            # somebody waits for it: the verdict that another space makes serves here too
            lambda _: reckoned(
                station, records, lambda s, c: verdicts.of(s, basis_of(s, c)), known
            ),
        )

    def _news(self) -> None:
        """Told once it is known: an edit by itself is told by the document."""
        if self._learned.current is not None and self.learned is not self._shown:
            self._shown = self.learned
            self.changed.emit()


class Reckons(Editing):
    """A model that reckons with what was learned, where that is wanted; edits are of the typed."""

    reckoning: Reckoning | None = None

    @property
    def station(self) -> Station:
        """The station as it is reckoned with."""
        return self.document.station if self.reckoning is None else self.reckoning.reckoned

    @property
    def is_of_now(self) -> bool:
        """Whether what it knows is of the station as it is written."""
        basis = chain_basis(self.typed)
        return basis is not None and self.rests_on(basis)

    def rests_on(self, basis: Basis) -> bool:
        """Whether what it knows is of this basis."""
        raise NotImplementedError

    @property
    def typed(self) -> Station:
        """The station as it is written."""
        return self.document.station
