"""What the solution of a chain rests on, and nothing else: one place for all who keep results.

Knobs, cards and readings rest on a chain; a chain does not rest on them. Two bases that are equal
give the same levels, findings and sheets to the last digit and letter. Two with the same
fingerprint are the same circuit, whatever things are called and wherever their figures are from:
``sound`` with the same voice before it, ``build`` as it is soldered, whoever speaks.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from tonleiter.core.gear.base import Gear
from tonleiter.core.once import cached_property
from tonleiter.core.station.computer import VoiceSwitch
from tonleiter.core.station.devices import Device, Link
from tonleiter.core.station.disk import fingerprint
from tonleiter.core.station.model import Band, Chain, Drawer, Operator, Speaks, Station
from tonleiter.core.station.purpose import PurposeId
from tonleiter.core.station.wiring import Wiring

# what says how things are called, or where a figure is from: it changes words, never the circuit
_WORDS = frozenset(
    {"name", "title", "notes", "basis", "measured_on", "read_on", "guest", "colour", "insulated"}
)
# and of a box what no circuit has: its sound settings, what keys it by itself
_BESIDE = frozenset({"computer", "switch"})
_LENGTH = 16


@dataclass(frozen=True)
class Basis:
    """A variant of a chain as it stands in its station.

    ``stages`` are its pieces with the settings of their stages in force; ``beside`` those of chains
    that stay plugged in; ``boxes`` the boxes of all these and whatever leads join to them. Of the
    ``drawer`` remedies are made; it is no part of what is there.
    """

    chain: str
    chain_name: str
    variant: str
    variant_name: str
    stages: tuple[Gear, ...]
    set_here: tuple[tuple[str, ...], ...]
    wiring: Wiring
    purpose: PurposeId
    band_hz: Band
    distance_mm: float
    distance_range: tuple[float | None, float | None]
    speaks: Speaks
    operator: Operator
    beside: tuple[tuple[Gear, ...], ...]
    boxes: tuple[Device, ...]
    links: tuple[Link, ...]
    room_noise_dba: float
    mains_hz: float
    drawer: Drawer

    @cached_property
    def sound(self) -> str:
        """Which chain with which voice before it: what cards and recordings are of."""
        return _hash(
            self._build()
            | {
                "purpose": self.purpose,
                "band_hz": self.band_hz,
                "distance_mm": (self.distance_mm, *self.distance_range),
                "speaks": self.speaks,
                "voice": (self.operator.id, self.operator.effort, self.operator.pitch),
                "beside": [[_bare(g) for g in chain] for chain in self.beside],
                "links": [_bare(link) for link in self.links],
                "room": self.room_noise_dba,
                "mains": self.mains_hz,
            }
        )

    @cached_property
    def build(self) -> str:
        """Which build, whoever speaks into it: what sheets and readings of the bench are of."""
        return _hash(self._build())

    def _build(self) -> dict[str, Any]:
        return {
            "stages": [_bare(g) for g in self.stages],
            "set_here": self.set_here,
            "wiring": _bare(_undressed(self.wiring)),
            "boxes": [_bare(d) for d in self.boxes if {g.id for g in self.stages} & {*d.ports}],
        }


def basis_of(station: Station, chain_id: str | None = None, variant_id: str | None = None) -> Basis:
    """The basis of a variant, by default the one shown of the open chain. Raises KeyError."""
    chain = station.chain(chain_id)
    variant = chain.variant(variant_id)
    stages = tuple(station.placed(s) for s in variant.stages)
    beside = tuple(
        tuple(station.placed(s) for s in other.variant().stages)
        for other in station.chains
        if other.stays_plugged and other.id != chain.id
    )
    own = {g.id for g in stages} | {g.id for pieces in beside for g in pieces}
    boxes, links = _joined(station, {d.id for p in own if (d := station.device_by_port.get(p))})
    noise, distance = station.room_noise_dba, chain.distance_mm
    return Basis(
        chain=chain.id,
        chain_name=chain.name,
        variant=variant.id,
        variant_name=variant.name,
        stages=stages,
        set_here=tuple(tuple(sorted(s.set)) for s in variant.stages),
        wiring=variant.wiring,
        purpose=chain.purpose,
        band_hz=chain.band,
        distance_mm=distance.value,
        distance_range=(distance.low, distance.high),
        speaks=chain.speaks,
        operator=station.operator(chain.operator),
        beside=beside,
        boxes=boxes,
        links=links,
        room_noise_dba=noise.value,
        mains_hz=float(station.mains_hz),
        drawer=station.drawer,
    )


def chain_basis(station: Station) -> Basis | None:
    """The basis of what is open; None in a station without chains."""
    return basis_of(station) if station.chains else None


def stands(station: Station, chain: str, variant: str) -> Chain | None:
    """The chain that a record was made with, if it and its variant are still there."""
    found = next((c for c in station.chains if c.id == chain), None)
    if found is None or all(v.id != variant for v in found.variants):
        return None
    return found


def _joined(station: Station, own: set[str]) -> tuple[tuple[Device, ...], tuple[Link, ...]]:
    """The boxes that leads join to ``own``, with them, and those leads; in the station's order."""
    reached, more = set(own), True
    while more:
        new = set(_neighbours(station, reached)) - reached
        reached |= new
        more = bool(new)
    # which sound device is whose default is nothing that a circuit rests on
    boxes = tuple(
        d.model_copy(update={"computer": None, "switch": VoiceSwitch()})
        for d in station.devices
        if d.id in reached
    )
    links = tuple(x for x in station.links if x.a in reached)
    return boxes, links


def _neighbours(station: Station, boxes: set[str]) -> Iterator[str]:
    for link in station.links:
        if link.a in boxes:
            yield link.b
        elif link.b in boxes:
            yield link.a


def _undressed(wiring: Wiring) -> Wiring:
    """The wiring without colours: a wire that was only coloured is as it was."""
    lengths = tuple(d for d in wiring.dresses if d.length_m is not None)
    return wiring.but(dresses=lengths) if lengths != wiring.dresses else wiring


def _bare(value: Any) -> Any:  # noqa: ANN401 - whatever a model holds
    """Data of a model without words."""
    data = value.model_dump(mode="json") if hasattr(value, "model_dump") else value
    if isinstance(data, dict):
        return {k: _bare(v) for k, v in data.items() if k not in _WORDS | _BESIDE}
    if isinstance(data, list):
        return [_bare(v) for v in data]
    return data


def _hash(data: dict[str, Any]) -> str:
    return fingerprint(json.dumps(data, sort_keys=True, default=str).encode())[:_LENGTH]
