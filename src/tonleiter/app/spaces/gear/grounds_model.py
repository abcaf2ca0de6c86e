"""The grounds of the open chain: solved behind the window while their page is seen."""

from __future__ import annotations

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.spaces.no_chain import no_chain
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.grounds import Grounds, grounds_of
from tonleiter.core.station.basis import Basis, basis_of, chain_basis


class GroundsModel(Watched):
    """``changed``: what is known of them, or whether it is being worked out."""

    changed = Signal()

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts = verdicts
        self._grounds: Derived[Grounds] = self.derive(jobs, Wait.PAGE, self.changed.emit)

    @property
    def grounds(self) -> Grounds | None:
        """Of the chain as it stands; while that is worked out those before, of the same boxes."""
        before, wanted = self._grounds.basis, chain_basis(self.station)
        if self._grounds.stale and not (
            isinstance(before, Basis)
            and wanted is not None
            and before.chain == wanted.chain
            and [b.id for b in before.boxes] == [b.id for b in wanted.boxes]
        ):
            return None
        return None if self._grounds.trouble else self._grounds.value

    @property
    def trouble(self) -> str:
        """Why there are none, in a sentence."""
        if not self.station.chains:
            return no_chain("look at")
        return self._grounds.trouble

    @property
    def busy(self) -> bool:
        """Whether they are being worked out."""
        return self._grounds.busy

    def rests_on(self, basis: Basis) -> bool:
        """Whether they are of this chain."""
        return self._grounds.rests_on(basis)

    def _follow(self) -> None:
        if not self.seen:
            return
        if not self.station.chains:
            self._grounds.nothing()
            self.changed.emit()
            return
        station, basis, verdicts = self.station, basis_of(self.station), self._verdicts

        def compute(_: object) -> Grounds:
            try:
                return grounds_of(verdicts.of(station, basis).assessment)
            except CircuitError as error:
                raise RefusedError(f"This chain cannot be computed: {error}.") from error

        self._grounds.want(basis, compute)
        self.changed.emit()
