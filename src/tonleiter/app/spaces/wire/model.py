"""What the Wire space's views share: the build of the open chain, which part of it, what is lit."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.drafts import Drafts
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.spaces.no_chain import no_chain
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.bench.ohms import Ohmmeter
from tonleiter.core.bench.unit import unit_of
from tonleiter.core.gear.base import Gear
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.certainty import Doubts
from tonleiter.core.judge.findings.model import Finding, Remedies, Remedy
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.judge.wiring.schools import School, as_ghost, schools
from tonleiter.core.report.together import Together, together
from tonleiter.core.solve.solution import DRAFT_POINTS
from tonleiter.core.station import boxes, wirings
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.contacts import At
from tonleiter.core.station.devices import Connector, Contact
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import End, usual_contacts
from tonleiter.core.station.shells import SHELLS, Face, Shell
from tonleiter.core.wiring.model import Build, Conductor, Net, Span

# what follows an edit behind the window begins when the hand rests
REST_MS = 150


class WireModel(Watched):
    """Solves when it is seen; out of sight an edit costs nothing."""

    changed = Signal()
    lit_changed = Signal()
    remedies_changed = Signal()
    schools_changed = Signal()
    doubts_changed = Signal()
    grounds_wanted = Signal()
    pinout_wanted = Signal(object, str)
    no_remedy = "No single edit mends this: see what it says."
    doubts: Doubts | None = None

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts = verdicts
        self.at = -1
        self.lit = ""
        self.wire = ""
        self.contact: tuple[str, str] | None = None
        self.faces: dict[str, Face] = {"left": "front", "right": "front"}
        self._meters: dict[int, Ohmmeter] = {}
        self._draft: Derived[Verdict] = self.derive(jobs, Wait.HAND, self._judged, False)
        self._verdict: Derived[Verdict] = self.derive(jobs, Wait.HAND, self._judged_whole, False)
        self._tried: Derived[Remedies] = self.derive(
            jobs, Wait.HAND, self.remedies_changed.emit, False
        )
        self._schools: Derived[tuple[School, ...]] = self.derive(
            jobs, Wait.HAND, self.schools_changed.emit, False
        )
        self._together: Derived[tuple[Together, ...]] = self.derive(
            jobs, Wait.PAGE, self.schools_changed.emit, False
        )
        self._resting = self.when_resting(REST_MS, self._after_rest)

    # --- solving ---------------------------------------------------------------------------------

    @property
    def verdict(self) -> Verdict | None:
        """The chain solved at its contacts, as it stands now: coarsely while the hand moves."""
        return self._verdict.current or self._draft.current

    @property
    def trouble(self) -> str:
        """Why there is nothing to see."""
        if not self.station.chains:
            return no_chain("wire")
        why = self._verdict.trouble or self._draft.trouble
        return f"This chain cannot be computed: {why}." if why else ""

    @property
    def schools(self) -> tuple[School, ...] | None:
        """The other ways to couple the part that is shown; None while they are being tried."""
        return self._schools.current

    @property
    def together(self) -> tuple[Together, ...]:
        """What other chains have soldered in the plugs of this one, as far as it is known."""
        return self._together.current or ()

    def rests_on(self, basis: Basis) -> bool:
        """Whether the verdict is on this basis, on whichever grid."""
        return self._verdict.rests_on(basis) or self._draft.rests_on(basis)

    def _follow(self) -> None:
        if not self.seen:
            return
        if not self.station.chains:
            for derived in (
                self._draft,
                self._verdict,
                self._tried,
                self._schools,
                self._together,
            ):
                derived.nothing()
            self.changed.emit()
            return
        basis, station = basis_of(self.station), self.station
        if not self._verdict.rests_on(basis):
            self._verdict.nothing()
            known = self._verdicts.known(basis)
            if known is not None:
                # another space has it already; the views are told by its coming
                self._draft.nothing()
                self._verdict.want_now(basis, lambda: known)
                return
            # on a coarser grid first: the hand does not wait for the last tenth of a decibel
            self._draft.want_now(basis, lambda: verdict_of(station, points=DRAFT_POINTS))
        self._resting.start()
        self.changed.emit()

    def _judged_whole(self) -> None:
        """The verdict on the full grid is there: shown, and what follows from it is due."""
        if self._verdict.current is None:
            return
        self._judged()
        if self.seen and self.is_of_now:
            self.changed.emit()
            self._resting.start()

    def _judged(self) -> None:
        """Another verdict: what was chosen stays where it is still there."""
        self._meters = {}
        build = self.build
        if build is None:
            return
        if not -1 <= self.at < len(build.spans):
            self.at = -1
        if self.wire:
            # the wire that was chosen may carry another net by now
            now = next((c for c in build.conductors if c.key == self.wire), None)
            self.lit = now.net if now is not None else self.lit
        if all(net.name != self.lit for net in build.nets):
            self.lit = self.wire = ""

    def _after_rest(self) -> None:
        """The hand rests: the full grid, then remedies, then the other schools."""
        if not self.seen or not self.station.chains:
            return
        basis, station, verdicts = basis_of(self.station), self.station, self._verdicts
        self._verdict.want(basis, lambda _: verdicts.of(station, basis))
        verdict = self._verdict.current
        if verdict is None or not verdict.build.spans:
            return
        at = self.place

        def job(task: Task) -> Remedies:
            known: Remedies = {}
            for finding in verdict.found("wiring"):
                known = {**known, finding.key: verdict.remedies(finding)}
                task.tell(known)
            return known

        self._tried.want(basis, job)
        self._schools.want((basis, at), lambda _: schools(verdict, at))
        others = tuple(basis_of(station, c.id) for c in station.chains if c.id != basis.chain)
        self._together.want((basis, others), lambda _: together(station, verdict))

    # --- what is shown ---------------------------------------------------------------------------

    def judged_on(self) -> Assessment | None:
        """The chain that is wired."""
        return self.assessment

    @property
    def assessment(self) -> Assessment | None:
        """The chain, solved at its contacts."""
        return None if self.verdict is None else self.verdict.assessment

    @property
    def build(self) -> Build | None:
        """The build of the open chain."""
        return None if self.verdict is None else self.verdict.build

    @property
    def span(self) -> Span | None:
        """The part of the chain that is shown: by default the last."""
        if self.build is None or not self.build.spans:
            return None
        return self.build.spans[self.at]

    @property
    def place(self) -> int:
        """The number of the part that is shown."""
        return self.at % len(self.build.spans) if self.build and self.build.spans else 0

    def found(self) -> tuple[Finding, ...]:
        """What was found in the build, gravest first."""
        return () if self.verdict is None else self.verdict.found("wiring")

    def place_of(self, finding: Finding) -> str:
        """Where on the build: a contact of a box by its name, or the piece."""
        build = self.build
        for end in build.ends if build else ():
            if finding.place == end.id:
                return f"{end.name}, {end.connector.name}"
            if isinstance(finding.place, At) and finding.place.thing == end.id:
                return f"{end.name}, contact {finding.place.label}"
        rows = self.assessment.rows if self.assessment else ()
        return next((r.name for r in rows if r.id == finding.stage), finding.stage)

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """Remedies that were tried and work; None while they are still being tried."""
        return (self._tried.current or {}).get(finding.key)

    def net(self) -> Net | None:
        """The net that is lit up."""
        nets = self.build.nets if self.build else ()
        return next((n for n in nets if n.name == self.lit), None)

    def net_of(self, contact: str) -> Net | None:
        """The net of a contact."""
        return None if self.build is None else self.build.net_of(contact)

    @property
    def drafts(self) -> Drafts:
        """What was typed and refused."""
        return self.document.drafts

    def gear_of(self, end: End) -> Gear | None:
        """The piece that is plugged in at an end, where there is one."""
        ports = end.connector.ports
        return self.station.gear_by_id.get(ports[0]) if ports else None

    def conductor(self) -> Conductor | None:
        """The wire that is chosen."""
        wires = self.build.conductors if self.build else ()
        return next((c for c in wires if c.key and c.key == self.wire), None)

    def chosen(self) -> tuple[End, Contact] | None:
        """The contact that is chosen."""
        if self.contact is None or self.build is None:
            return None
        for end in self.build.ends:
            for contact in end.connector.contacts:
                if (end.id, contact.label) == self.contact:
                    return end, contact
        return None

    def meter(self) -> Ohmmeter | None:
        """An ohmmeter on the part that is shown."""
        found = self.verdict
        if found is None or self.span is None:
            return None
        if self.place not in self._meters:
            self._meters[self.place] = Ohmmeter(unit_of(found, self.place))
        return self._meters[self.place]

    # --- what is looked at -----------------------------------------------------------------------

    def show_span(self, at: int) -> None:
        """Show another part of the chain."""
        self.at = at
        self.lit = self.wire = ""
        self.contact = None
        self._resting.start()
        self.changed.emit()

    def light(self, net: str, wire: str = "", contact: tuple[str, str] | None = None) -> None:
        """Light a net up, with the wire or contact that was pressed; the same again puts it out."""
        same = (net, wire, contact) == (self.lit, self.wire, self.contact)
        self.lit, self.wire, self.contact = ("", "", None) if same else (net, wire, contact)
        self.lit_changed.emit()

    def turn(self, side: str, face: Face) -> None:
        """Look at the other face of a plug."""
        self.faces[side] = face
        self.changed.emit()

    # --- edits -----------------------------------------------------------------------------------

    def _ids(self) -> tuple[str, str]:
        if self.verdict is None:
            raise EditRefusedError("there is no build to change")
        compiled = self.verdict.assessment.solution.compiled
        return compiled.chain.id, compiled.variant.id

    def _change(self, label: str, end: End, said: Callable[[Connector], dict[str, Any]]) -> None:
        """Say more of an end's connector as it is now; a guessed one is written down by that."""

        def change(station: Station) -> Station:
            connector = present(station, end)
            fields = {n: getattr(connector, n) for n in Connector.model_fields} | said(connector)
            return boxes.set_connector(station, end.device, Connector.model_validate(fields))

        self.edit(label, change)

    def set_contact(self, end: End, label: str, **said: Any) -> None:  # noqa: ANN401
        """Say what a contact carries; a plug that was guessed is written down by that."""

        def changed(connector: Connector) -> dict[str, Any]:
            contacts = tuple(
                Contact.model_validate({n: getattr(c, n) for n in Contact.model_fields} | said)
                if c.label == label
                else c
                for c in connector.contacts
            )
            return {"contacts": contacts, "basis": "manual" if end.guessed else connector.basis}

        self._change(f"contact {label}", end, changed)

    def set_connector(self, end: End, **said: Any) -> None:  # noqa: ANN401
        """Say more of a connector: where its pinout is from, how its figures run."""
        self._change(f"connector {end.connector.name}", end, lambda _: said)

    def reshell(self, end: End, shell: Shell) -> None:
        """Another shell: roles stay where a contact of that mark is, else they are usual ones."""

        def changed(connector: Connector) -> dict[str, Any]:
            was = {c.label: c for c in connector.contacts}
            kept = [was[n] for n in SHELLS[shell].labels if n in was]
            gear = self.gear_of(end)
            if not kept and gear is not None:
                kept = list(usual_contacts(shell, gear, balanced=SHELLS[shell].only_balanced))
            known = {c.label for c in kept}
            kept += [Contact(label=n) for n in SHELLS[shell].labels if n not in known]
            return {"shell": shell, "contacts": tuple(kept)}

        self._change(f"connector {end.connector.name}", end, changed)

    def land(self, end: End, leg: str, contact: str | None) -> None:
        """Solder a wire to another contact, or cut it back."""
        ids = self._ids()
        usual = end.contact_of(leg)

        def change(station: Station) -> Station:
            if usual is not None and usual.label == contact:
                return wirings.unland(station, *ids, end.id, leg)
            return wirings.land(station, *ids, end.id, leg, contact)

        self.edit(f"{leg.replace('-', ' ')} to {contact or 'nothing'}", change)

    def join(self, end: End, one: str, other: str) -> None:
        """Join two contacts of an end, or part them again."""
        ids = self._ids()
        self.edit("join contacts", lambda s: wirings.bridge(s, *ids, end.id, one, other))

    def put_plug(self, end: End, shell: Shell | None) -> None:
        """Put another plug on the lead."""
        ids = self._ids()
        self.edit("plug", lambda s: wirings.put_plug(s, *ids, end.id, shell))

    def dress(self, wire: str, **said: Any) -> None:  # noqa: ANN401
        """Choose a wire's colour or length."""
        ids = self._ids()
        self.edit("wire", lambda s: wirings.dress(s, *ids, wire, **said))

    def set_wiring(self, label: str, **said: Any) -> None:  # noqa: ANN401
        """Choose how it transmits, the case, and what else hands decide."""
        ids = self._ids()
        self.edit(label, lambda s: wirings.change_wiring(s, *ids, **said))

    def forget_hands(self) -> None:
        """Wire it as the pinouts say."""
        ids = self._ids()
        self.edit("wired as the pinouts say", lambda s: wirings.as_derived(s, *ids))

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply a tried remedy as one undo step."""
        self.edit(remedy.title, remedy.change)

    def take_school(self, school: School) -> None:
        """Couple this part by another school."""
        self.edit(school.title, school.change)

    def show_as_ghost(self, school: School) -> None:
        """Another school as a variant of its own, the ghost of this one."""
        found = self.verdict
        if found is not None:
            self.edit(f"ghost: {school.title}", lambda s: as_ghost(s, found, school))


def present(station: Station, end: End) -> Connector:
    """A connector as it is now: what is shown may be of the station before the last edit."""
    box = station.device_by_id.get(end.device)
    there = box.connectors if box is not None else ()
    return next((c for c in there if c.id == end.connector.id), end.connector)
