"""Edits of a station: functions from station to station. Invalid results raise ValidationError."""

from __future__ import annotations

import re
from typing import Any

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure
from tonleiter.core.station.devices import with_ports
from tonleiter.core.station.model import Chain, Stage, Station, Variant


def _rebuilt(station: Station, **changes: Any) -> Station:  # noqa: ANN401
    """A checked copy with top-level fields replaced."""
    fields = {name: getattr(station, name) for name in Station.model_fields}
    return Station.model_validate(fields | changes)


def change_station(station: Station, **changes: Any) -> Station:  # noqa: ANN401
    """Change top-level fields: title, mains, room, people, drawer."""
    return _rebuilt(station, **changes)


def change_gear(station: Station, gear_id: str, **changes: Any) -> Station:  # noqa: ANN401
    """Change fields of a piece everywhere it is used."""
    return replace_gear(station, station.gear_by_id[gear_id].with_values(changes))


def replace_chain(station: Station, chain: Chain) -> Station:
    """Put ``chain`` in the place of the one with its id."""
    chains = tuple(chain if c.id == chain.id else c for c in station.chains)
    return _rebuilt(station, chains=chains)


def change_chain(station: Station, chain_id: str, **changes: Any) -> Station:  # noqa: ANN401
    """Change fields of a chain."""
    chain = station.chain(chain_id)
    fields = {name: getattr(chain, name) for name in Chain.model_fields}
    return replace_chain(station, Chain.model_validate(fields | changes))


def open_chain(station: Station, chain_id: str) -> Station:
    """Make another chain the open one."""
    return _rebuilt(station, open_chain=chain_id)


def replace_gear(station: Station, gear: Gear) -> Station:
    """Put ``gear`` in the place of the piece with its id.

    What it says of its supply and earth holds for its box, and so for the box's other sockets.
    """
    pieces = tuple(gear if g.id == gear.id else g for g in station.gear)
    box = station.device_by_port.get(gear.id)
    if box is None:
        return _rebuilt(station, gear=pieces)
    said = {f: getattr(gear, f) for f in _OF_THE_BOX if f in type(gear).model_fields}
    if box.name == station.gear_by_id[gear.id].name:
        said["name"] = gear.name
    said = {f: value for f, value in said.items() if getattr(box, f) != value}
    if not said:
        return _rebuilt(station, gear=pieces)
    devices = tuple(d.model_copy(update=said) if d.id == box.id else d for d in station.devices)
    others = set(box.ports) - {gear.id}
    pieces = tuple(_told(g, said) if g.id in others else g for g in pieces)
    return _rebuilt(station, gear=pieces, devices=devices)


_OF_THE_BOX = ("supply", "earth_emf_v")


def _told(gear: Gear, said: dict[str, Any]) -> Gear:
    """Another socket of the box, with what the box has."""
    fields = type(gear).model_fields
    shared = {f: said[f] for f in _OF_THE_BOX if f in said and f in fields}
    return gear.with_values(shared) if shared else gear


def add_gear(station: Station, gear: Gear) -> Station:
    """Put a piece on the shelf; an id that is taken gets a number."""
    taken = set(station.gear_by_id)
    if gear.id in taken:
        gear = gear.with_values({"id": fresh_id(taken, gear.id)})
    return _rebuilt(station, gear=(*station.gear, gear))


def uses_of(station: Station, gear_id: str) -> tuple[str, ...]:
    """Chains and variants that a piece stands in, as people would name them."""
    return tuple(
        f"{chain.name}, {variant.name}"
        for chain in station.chains
        for variant in chain.variants
        if any(stage.gear == gear_id for stage in variant.stages)
    )


def remove_gear(station: Station, gear_id: str) -> Station:
    """Take a piece off the shelf and out of every variant; variants that need it go with it.

    A chain keeps at least one variant; a chain whose every variant began or ended with the piece
    is removed. A box that has no other socket and no lead goes too.
    """
    chains = []
    for chain in station.chains:
        kept = []
        for variant in chain.variants:
            stages = tuple(s for s in variant.stages if s.gear != gear_id)
            ends = {variant.stages[0].gear, variant.stages[-1].gear}
            if gear_id not in ends:
                kept.append(variant.through(stages))
        if not kept:
            continue
        ids = [v.id for v in kept]
        shown = chain.shown if chain.shown in ids else ids[0]
        ghost = chain.ghost if chain.ghost in ids and chain.ghost != shown else None
        fields = {name: getattr(chain, name) for name in Chain.model_fields}
        fields |= {"variants": tuple(kept), "shown": shown, "ghost": ghost}
        chains.append(Chain.model_validate(fields))
    gear = tuple(g for g in station.gear if g.id != gear_id)
    left_on_shelf = {g.id for g in gear}
    at_a_lead = {end for link in station.links for end in (link.a, link.b)}
    devices = tuple(
        with_ports(d, left_on_shelf)
        for d in station.devices
        if d.ports != (gear_id,) or d.id in at_a_lead
    )
    left = [c.id for c in chains]
    open_chain = station.open_chain if station.open_chain in left else None
    return _rebuilt(
        station, gear=gear, devices=devices, chains=tuple(chains), open_chain=open_chain
    )


def _with_stages(
    station: Station, chain_id: str, variant_id: str, stages: tuple[Stage, ...]
) -> Station:
    chain = station.chain(chain_id)
    variants = tuple(v.through(stages) if v.id == variant_id else v for v in chain.variants)
    return change_chain(station, chain_id, variants=variants)


def set_value(
    station: Station,
    chain_id: str,
    variant_id: str,
    index: int,
    field: str,
    value: Any,  # noqa: ANN401 - whatever the field takes
) -> Station:
    """Set a field of the gear at stage ``index``.

    A fact about a piece belongs to the piece, everywhere it is used. A choice (a pad's resistors, a
    gain) that another variant or chain also uses is set for this stage only, so that comparing
    variants stays possible. Where another chain that stays plugged in uses the piece at the same
    time, it is one knob, and is turned in both.
    """
    chain = station.chain(chain_id)
    stages = chain.variant(variant_id).stages
    stage = stages[index]
    gear = station.gear_by_id[stage.gear]
    shared = _times_used(station, stage.gear) > 1
    if field in gear.choices and (others := _also_plugged(station, chain, stage.gear)):
        # one knob cannot stand in two places at once
        return _set_for_all(station, (chain, *others), stage.gear, field, value)
    if field in stage.set or (field in gear.choices and shared):
        plain = value.model_dump(mode="json") if isinstance(value, Figure) else value
        changed = Stage(gear=stage.gear, set={**stage.set, field: plain})
        return _with_stages(
            station, chain_id, variant_id, (*stages[:index], changed, *stages[index + 1 :])
        )
    return replace_gear(station, gear.with_values({field: value}))


def _also_plugged(station: Station, chain: Chain, gear_id: str) -> tuple[Chain, ...]:
    """Other chains that use a piece at the same time as this one does."""
    return tuple(
        c
        for c in station.chains
        if c.id != chain.id
        and (c.stays_plugged or chain.stays_plugged)
        and any(s.gear == gear_id for s in c.variant().stages)
    )


def _set_for_all(
    station: Station,
    chains: tuple[Chain, ...],
    gear_id: str,
    field: str,
    value: Any,  # noqa: ANN401
) -> Station:
    """Set a field of a piece for every variant of some chains, whatever was set there before."""
    ids = {c.id for c in chains}
    loosened = []
    for chain in station.chains:
        if chain.id in ids:
            variants = tuple(
                v.through(tuple(_loosened(s, gear_id, field) for s in v.stages))
                for v in chain.variants
            )
            chain = chain.model_copy(update={"variants": variants})
        loosened.append(chain)
    # checked together with the new value: by itself either could be refused
    gear = station.gear_by_id[gear_id].with_values({field: value})
    return replace_gear(station.model_copy(update={"chains": tuple(loosened)}), gear)


def _loosened(stage: Stage, gear_id: str, field: str) -> Stage:
    if stage.gear != gear_id or field not in stage.set:
        return stage
    return Stage(gear=gear_id, set={f: v for f, v in stage.set.items() if f != field})


def _times_used(station: Station, gear_id: str) -> int:
    return sum(
        stage.gear == gear_id
        for chain in station.chains
        for variant in chain.variants
        for stage in variant.stages
    )


def insert_stage(
    station: Station, chain_id: str, variant_id: str, index: int, gear: Gear
) -> Station:
    """Put ``gear`` before stage ``index``; a piece not yet in the station joins its gear."""
    if gear.id not in station.gear_by_id:
        station = _rebuilt(station, gear=(*station.gear, gear))
    stages = station.chain(chain_id).variant(variant_id).stages
    return _with_stages(
        station, chain_id, variant_id, (*stages[:index], Stage(gear=gear.id), *stages[index:])
    )


def remove_stages(station: Station, chain_id: str, variant_id: str, indices: set[int]) -> Station:
    """Take stages out of a variant; the gear stays in the station."""
    stages = station.chain(chain_id).variant(variant_id).stages
    kept = tuple(s for i, s in enumerate(stages) if i not in indices)
    return _with_stages(station, chain_id, variant_id, kept)


def move_stage(
    station: Station, chain_id: str, variant_id: str, index: int, places: int
) -> Station:
    """Move a stage towards the radio (or back, if negative); the ends keep their places."""
    stages = list(station.chain(chain_id).variant(variant_id).stages)
    wanted = min(max(index + places, 1), len(stages) - 2)
    if not 0 < index < len(stages) - 1 or wanted == index:
        return station
    stages.insert(wanted, stages.pop(index))
    return _with_stages(station, chain_id, variant_id, tuple(stages))


def swap_gear(
    station: Station, chain_id: str, variant_id: str, index: int, gear_id: str
) -> Station:
    """Use another piece at stage ``index``; settings of the old one there are dropped."""
    stages = station.chain(chain_id).variant(variant_id).stages
    swapped = (*stages[:index], Stage(gear=gear_id), *stages[index + 1 :])
    return _with_stages(station, chain_id, variant_id, swapped)


def add_variant(station: Station, chain_id: str, name: str) -> Station:
    """Copy the shown variant under a new name and show the copy, the old one as its ghost."""
    chain = station.chain(chain_id)
    shown = chain.variant()
    new_id = fresh_id([v.id for v in chain.variants], name)
    copy = Variant(id=new_id, name=name, stages=shown.stages, wiring=shown.wiring)
    return change_chain(
        station, chain_id, variants=(*chain.variants, copy), shown=new_id, ghost=shown.id
    )


def remove_variant(station: Station, chain_id: str, variant_id: str) -> Station:
    """Remove a variant; if it was shown, its ghost is, or else the first one.

    Raises ValidationError for the last one.
    """
    chain = station.chain(chain_id)
    kept = tuple(v for v in chain.variants if v.id != variant_id)
    shown, ghost = chain.shown, chain.ghost if chain.ghost != variant_id else None
    if shown == variant_id and kept:
        shown = ghost or kept[0].id
    if ghost == shown:
        ghost = None
    return change_chain(station, chain_id, variants=kept, shown=shown, ghost=ghost)


def fresh_id(taken: list[str] | set[str], name: str) -> str:
    """An id made of ``name`` that is not among ``taken``."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:50] or "item"
    candidate, count = base, 2
    while candidate in taken:
        candidate, count = f"{base}-{count}", count + 1
    return candidate
