"""What a rule of wiring looks at: the chain solved at its contacts, its build, edits of both."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.labels import label_of_way
from tonleiter.core.judge.assess import Assessment, assess
from tonleiter.core.judge.findings.model import CHANGE, Fix
from tonleiter.core.once import cached_property
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.solution import POINTS
from tonleiter.core.solve.splice import Splice
from tonleiter.core.station import wirings
from tonleiter.core.station.devices import Contact, Role
from tonleiter.core.station.model import Station
from tonleiter.core.station.wiring import AS_DERIVED, Wiring
from tonleiter.core.wiring.model import Build

# the family of fixes that put a wire where its pinout says
AS_PINNED = "as-pinned"


@dataclass(frozen=True)
class Meeting:
    """A wire at a contact: which leg, which contact of the socket (None: cut back), its role."""

    splice: Splice
    box: str
    half: str
    leg: str
    contact: Contact | None
    by_hand: bool

    @property
    def role(self) -> Role | None:
        """What the contact carries."""
        return None if self.contact is None else self.contact.role

    @property
    def place(self) -> str:
        """The contact as a net list names it; of a wire in air its connector."""
        end = self.splice.end
        return end.id if self.contact is None else end.ref(self.contact.label)


@dataclass(frozen=True)
class WiringCase:
    """One build of one variant."""

    assessment: Assessment
    build: Build
    points: int = POINTS

    @property
    def station(self) -> Station:
        """The station."""
        return self.assessment.station

    @property
    def wiring(self) -> Wiring:
        """What hands decided."""
        return self.build.wiring

    @property
    def ids(self) -> tuple[str, str]:
        """Chain and variant."""
        compiled = self.assessment.solution.compiled
        return compiled.chain.id, compiled.variant.id

    @property
    def radio(self) -> Splice:
        """The connector at the end of the chain."""
        stages = self.assessment.solution.compiled.stages
        return self.build.splices[stages[-1].id, "in"]

    @property
    def radio_id(self) -> str:
        """The piece at the end of the chain."""
        return self.assessment.rows[-1].id

    @property
    def line_place(self) -> str:
        """The transmit line, as a place: its contact where that is known."""
        contact = self.radio.end.contact_of("transmit")
        return self.radio.end.id if contact is None else self.radio.end.ref(contact.label)

    def by_way(self, way: str) -> Fix:
        """Transmit another way."""
        return Fix(f"Transmit by {label_of_way(way)}", self.with_hands(transmit=way), "", CHANGE)

    @property
    def speech_dbu(self) -> float:
        """At the radio."""
        return self.assessment.rows[-1].speech_dbu

    @property
    def hum_dbu(self) -> float | None:
        """At the radio."""
        return self.assessment.rows[-1].hum_dbu

    def meetings(self) -> Iterator[Meeting]:
        """Every wire at every contact."""
        for (stage, half), splice in self.build.splices.items():
            contacts = {c.label: c for c in splice.end.connector.contacts}
            for leg, label in splice.landed.items():
                by_hand = self.wiring.landing(splice.end.id, leg) is not None
                contact = None if label is None else contacts.get(label)
                if label is not None and contact is None:
                    contact = Contact(label=label)
                yield Meeting(splice, stage, half, leg, contact, by_hand)

    def volts(self, node: str, splice: Splice, op: OperatingPoint | None = None) -> float:
        """DC of a node against the ground of the connector's box."""
        at = self.assessment.solution.op if op is None else op
        return at.volts(node, splice.port.chassis)

    def stands(self) -> Iterator[tuple[Splice, Contact, float, float]]:
        """Contacts by which a box gives DC, with the volts left on them and the current drawn."""
        for splice in self.build.splices.values():
            for contact in splice.end.connector.contacts:
                stand = splice.stands.get(contact.label)
                if stand is None or abs(stand.volts) < 0.1:
                    continue
                volts = self.volts(splice.nodes[contact.label], splice)
                yield splice, contact, volts, (stand.volts - volts) / stand.ohm

    @cached_property
    def derived(self) -> Assessment | None:
        """The same chain wired as its pinouts say; None where that is what is wired.

        Nor while a hand moves: it is the comparison that can wait.
        """
        if self.wiring == AS_DERIVED or self.points < POINTS:
            return None
        derived = wirings.as_derived(self.station, *self.ids)
        return assess(derived, *self.ids, self.points, contacts=True)

    @cached_property
    def keyed(self) -> OperatingPoint:
        """DC with the transmit switch pressed."""
        compiled = compile_chain(self.station, *self.ids, contacts=True, keyed=True)
        return solve_dc(System(compiled.circuit))

    def click_v(self) -> float:
        """The step between hot and cold of the radio's input when the switch is pressed."""
        port = self.radio.port
        before = self.assessment.solution.op.volts(port.hot, port.cold)
        return abs(self.keyed.volts(port.hot, port.cold) - before)

    def rewired(
        self, title: str, apply: Callable[[Station], Station], why: str = "", effort: int = CHANGE
    ) -> Fix:
        """A fix."""
        return Fix(title, apply, why, effort)

    def as_pinned(self, splice: Splice, *legs: str) -> Fix:
        """Solder wires of an end as its pinout says."""
        words = " and ".join(leg.replace("-", " ") for leg in legs) or "every wire"
        usual = [splice.end.contact_of(leg) for leg in legs]
        to = " and ".join(c.label for c in usual if c is not None)
        title = f"Solder {words} as the pinout says" + (f": to {to}" if to else "")
        end = splice.end.id
        return Fix(title, lambda s: wirings.unland(s, *self.ids, end, *legs), "", CHANGE, AS_PINNED)

    def tried(self, apply: Callable[[Station], Station]) -> Assessment:
        """The chain after an edit."""
        return assess(apply(self.station), *self.ids, self.points, contacts=True)

    def with_hands(self, **changes: Any) -> Callable[[Station], Station]:  # noqa: ANN401
        """An edit of what hands decided."""
        return lambda s: wirings.change_wiring(s, *self.ids, **changes)
