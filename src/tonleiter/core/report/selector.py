"""One box for two radios: a switch that takes a microphone from one plug to the other.

Every conductor is switched, grounds too: joined in the box, the two radios would make a loop.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.station.model import Chain, Station
from tonleiter.core.wiring.model import Build
from tonleiter.core.words import the

LEGS = ("hot", "cold", "screen", "transmit", "transmit-ground")


@dataclass(frozen=True)
class Selector:
    """The switch for one more radio: its poles, each with what it joins, and what is to be had."""

    to: str
    poles: tuple[str, ...]
    part: str


def selectors(station: Station, found: Verdict) -> tuple[Selector, ...]:
    """A switch for each other radio that the same source speaks into."""
    compiled = found.assessment.solution.compiled
    return tuple(
        made
        for chain in station.chains
        if chain.id != compiled.chain.id and chain.variant().stages[0].gear == compiled.stages[0].id
        for made in _selector(station, found, chain)
    )


def _selector(station: Station, found: Verdict, chain: Chain) -> Iterator[Selector]:
    try:
        other = verdict_of(station, chain.id)
    except CircuitError:
        return
    here, there = found.build.ends[-1], other.build.ends[-1]
    transmits = all(
        v.assessment.solution.compiled.stages[-1].gear.transmits for v in (found, other)
    )
    if here.id == there.id or here.guessed or there.guessed or not transmits:
        return
    own, others = _contacts(found.build), _contacts(other.build)
    poles: list[str] = []
    for leg in LEGS:
        if leg in own and leg in others:
            first = found.build.ends[0].name
            start = "the switch" if leg.startswith("transmit") else the(first)
            poles.append(
                f"Pole {len(poles) + 1}, {leg.replace('-', ' ')}: middle from {start}, one way"
                f" to {the(here.name)} {own[leg]}, the other to {the(there.name)} {others[leg]}."
            )
    if poles:
        part = f"switch, {len(poles)} poles, 2 ways; a metal case; a plug for each radio"
        yield Selector(there.name, tuple(poles), part)


def _contacts(build: Build) -> dict[str, str]:
    """The radio's contact of each conductor of a build."""
    end = build.ends[-1].id
    return {c.leg: label for c in build.conductors if (label := c.label_at(end)) is not None}
