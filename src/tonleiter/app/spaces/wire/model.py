"""What the Wire space's views share: the build of the open chain, which part of it, what is lit."""

from __future__ import annotations

from PySide6.QtCore import Signal

from tonleiter.app.document import Document
from tonleiter.app.editing import Editing
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.assess import Assessment, assess
from tonleiter.core.report.wiring import wiring_of
from tonleiter.core.station import boxes
from tonleiter.core.station.devices import Connector, Contact, Role
from tonleiter.core.station.model import Station
from tonleiter.core.station.shells import Face
from tonleiter.core.wiring.build import Build, Net, Span
from tonleiter.core.wiring.findings import WiringFinding
from tonleiter.core.wiring.pinout import End


class WireModel(Editing):
    """Solves when it is seen; out of sight an edit costs nothing."""

    changed = Signal()
    lit_changed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.assessment: Assessment | None = None
        self.build: Build | None = None
        self.findings: tuple[WiringFinding, ...] = ()
        self.trouble = ""
        self.at = -1
        self.lit = ""
        self.faces: dict[str, Face] = {"left": "front", "right": "front"}
        self.seen = False
        self._solved_of: Station | None = None
        document.changed.connect(self._follow)

    def arrive(self) -> None:
        """It is seen from now on."""
        self.seen = True
        self._follow()

    def leave(self) -> None:
        """Nobody looks any more."""
        self.seen = False

    def _follow(self) -> None:
        if not self.seen or self.station is self._solved_of:
            return
        self._solved_of = self.station
        self._solve()
        self.changed.emit()

    def _solve(self) -> None:
        self.assessment, self.build, self.findings, self.trouble = None, None, (), ""
        if not self.station.chains:
            self.trouble = "There is no chain to wire yet: make one on the Ladder (3) first."
            return
        try:
            self.assessment = assess(self.station)
        except CircuitError as error:
            self.trouble = f"This chain cannot be computed: {error}."
            return
        self.build, self.findings = wiring_of(self.assessment)
        if not -1 <= self.at < len(self.build.spans):
            self.at = -1
        if all(net.name != self.lit for net in self.build.nets):
            self.lit = ""

    @property
    def span(self) -> Span | None:
        """The part of the chain that is shown: by default the last."""
        if self.build is None or not self.build.spans:
            return None
        return self.build.spans[self.at]

    def net(self) -> Net | None:
        """The net that is lit up."""
        nets = self.build.nets if self.build else ()
        return next((n for n in nets if n.name == self.lit), None)

    def net_of(self, contact: str) -> Net | None:
        """The net of a contact."""
        nets = self.build.nets if self.build else ()
        return next((n for n in nets if contact in n.contacts), None)

    # --- what is looked at -----------------------------------------------------------------------

    def show_span(self, at: int) -> None:
        """Show another part of the chain."""
        self.at = at
        self.lit = ""
        self.changed.emit()

    def light(self, net: str) -> None:
        """Light a net up; the same again puts it out."""
        self.lit = "" if net == self.lit else net
        self.lit_changed.emit()

    def turn(self, side: str, face: Face) -> None:
        """Look at the other face of a plug."""
        self.faces[side] = face
        self.changed.emit()

    # --- edits -----------------------------------------------------------------------------------

    def set_role(self, end: End, label: str, role: Role) -> None:
        """Say what a contact carries; a plug that was guessed is written down by that."""

        def change(station: Station) -> Station:
            contacts = tuple(
                Contact(label=c.label, role=role if c.label == label else c.role)
                for c in end.connector.contacts
            )
            basis = "manual" if end.guessed else end.connector.basis
            made = Connector.model_validate(
                {n: getattr(end.connector, n) for n in Connector.model_fields}
                | {"contacts": contacts, "basis": basis}
            )
            return boxes.set_connector(station, end.device, made)

        self.edit(f"contact {label}", change)

    def mend(self, finding: WiringFinding) -> None:
        """Apply a finding's remedy."""
        if finding.fix is not None:
            self.edit(finding.remedy, finding.fix)
