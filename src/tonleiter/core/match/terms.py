"""On what terms a pair is judged: purpose, who speaks, from where."""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.net import Port
from tonleiter.core.gear.passives import Cable
from tonleiter.core.station.devices import Device, completed, with_ports
from tonleiter.core.station.model import Chain, Stage, Station, Variant
from tonleiter.core.station.purpose import PURPOSES, Purpose, PurposeId
from tonleiter.core.words import the

CHAIN, VARIANT, LEAD = "pair", "tried", "its-lead"


@dataclass(frozen=True)
class Terms:
    """Purpose, operator and distance of the voice."""

    purpose: PurposeId
    operator: str
    distance_mm: float

    @property
    def facts(self) -> Purpose:
        """Targets of the purpose."""
        return PURPOSES[self.purpose]


def usual_terms(
    station: Station, purpose: PurposeId | None = None, operator: str | None = None
) -> Terms:
    """The open chain's terms, or those of the first operator, with what is given put in.

    Raises KeyError for an operator that does not exist.
    """
    chain = station.chain() if station.chains else None
    given = operator or (chain.operator if chain else station.operators[0].id)
    who = station.operator(given)
    distance = chain.distance_mm if chain and not operator else who.distance_mm
    return Terms(purpose or (chain.purpose if chain else "ssb-chat"), who.id, distance.value)


LEAD_M = 2.0


def lead_for(source: Gear) -> Cable:
    """The lead that a source is plugged in with: a cold leg of its own gets a second core."""
    balanced = source.outlet(Port("air", "0")).balanced
    return Cable(
        id=LEAD,
        name=f"lead of {the(source.name)}"[:80],
        length_m=typical(LEAD_M),
        form="two-core" if balanced else "one-core",
    )


def _boxes_of(station: Station, pieces: tuple[Gear, ...]) -> tuple[Device, ...]:
    """The boxes of the pieces and those at leads, with such of their sockets as are here."""
    here = {g.id for g in pieces}
    wanted = {d.id: d for g in pieces if (d := station.device_by_port.get(g.id)) is not None}
    wanted |= {d.id: d for d in station.devices_at_leads}
    return completed(tuple(with_ports(d, here) for d in wanted.values()), pieces)


def pair_station(station: Station, pieces: tuple[Gear, ...], terms: Terms) -> Station:
    """A station of one chain through ``pieces``, with the room and the people of ``station``."""
    chain = Chain(
        id=CHAIN,
        name="pair",
        purpose=terms.purpose,
        operator=terms.operator,
        distance_mm=typical(terms.distance_mm),
        variants=(
            Variant(id=VARIANT, name="tried", stages=tuple(Stage(gear=g.id) for g in pieces)),
        ),
        shown=VARIANT,
    )
    # its parts were checked when the station was; checking all again would cost more than solving
    return Station.model_construct(
        **{name: getattr(station, name) for name in Station.model_fields}
        | {
            "gear": pieces,
            "devices": _boxes_of(station, pieces),
            "chains": (chain,),
            "open_chain": CHAIN,
        }
    )
