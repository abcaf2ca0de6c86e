"""Chains that meet in one plug: transmit audio, receive audio, keying are soldered together.

Two chains that want the same contact for their signal are used one after the other, each with a
plug of its own; those that want different ones share a plug.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.station.contacts import At
from tonleiter.core.station.model import Chain, Station
from tonleiter.core.wiring.model import Build, Conductor


@dataclass(frozen=True)
class Together:
    """Another chain's wires in a plug of this one; ``end`` is the connector.

    ``in_lead``: it joins the same two plugs, and so it runs in the same lead.
    """

    chain: Chain
    found: Verdict
    end: str
    wires: tuple[Conductor, ...]
    in_lead: bool = False

    @property
    def contacts(self) -> tuple[At, ...]:
        """Where they are soldered in that plug."""
        landed = [at for c in self.wires for at in c.ends if at.thing == self.end]
        return tuple(dict.fromkeys(landed))

    def words(self) -> str:
        """What goes where, as a builder does it."""
        return ", ".join(
            f"{c.colour} ({c.leg.replace('-', ' ')}) to {c.label_at(self.end)}" for c in self.wires
        )


def together(station: Station, found: Verdict) -> tuple[Together, ...]:
    """What else meets in the plugs of a chain, of the station as it is now."""
    own = found.assessment.solution.compiled.chain.id
    ends = {e.id for e in found.build.ends if not e.guessed}
    boxes = {e.device for e in found.build.ends if not e.guessed}
    return tuple(
        t
        for chain in station.chains
        if chain.id != own and boxes & set(_boxes(station, chain))
        for t in _shared(station, chain, found.build, ends)
    )


def _boxes(station: Station, chain: Chain) -> Iterator[str]:
    for stage in chain.variant().stages:
        device = station.device_by_port.get(stage.gear)
        if device is not None:
            yield device.id


def _shared(station: Station, chain: Chain, own: Build, ends: set[str]) -> Iterator[Together]:
    try:
        other = verdict_of(station, chain.id)
    except CircuitError:
        return
    shared = {e.id: e for e in other.build.ends if e.id in ends}
    for end in shared:
        hot = _hot(own, end)
        if hot & _hot(other.build, end):
            continue
        wires = tuple(
            c for c in other.build.conductors if c.key and any(at.thing == end for at in c.ends)
        )
        if wires:
            yield Together(chain, other, end, wires, in_lead=len(shared) > 1)


def _hot(build: Build, end: str) -> set[At]:
    """The contacts of a plug that a chain has its signal on."""
    return {at for c in build.conductors if c.leg == "hot" for at in c.ends if at.thing == end}
