"""Taking a path over into the station: as a chain of its own, or as a variant of one."""

from __future__ import annotations

from typing import Any

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import typical
from tonleiter.core.station.edits import fresh_id
from tonleiter.core.station.model import Chain, Stage, Station, Variant
from tonleiter.core.station.purpose import PurposeId
from tonleiter.core.words import the


def adopt_path(
    station: Station,
    pieces: tuple[Gear, ...],
    variant_name: str,
    purpose: PurposeId,
    operator: str,
    distance_mm: float,
) -> Station:
    """Add a path; pieces whose ids are on the shelf are used, others join it under fresh ids.

    A chain from the same source to the same input for the same purpose gets a variant, shown with
    the one before as its ghost; else a chain is made. Either is then open. A piece that is owned
    but set otherwise here is set at its stage only.
    """
    shelf: list[Gear] = list(station.gear)
    known = station.gear_by_id
    stages: list[Stage] = []
    taken = set(known)
    for piece in pieces:
        if piece.id in known:
            stages.append(Stage(gear=piece.id, set=_set_here(known[piece.id], piece)))
            continue
        new_id = fresh_id(taken, piece.name)
        taken.add(new_id)
        shelf.append(piece.with_values({"id": new_id}))
        stages.append(Stage(gear=new_id))
    chains = list(station.chains)
    source, socket = stages[0].gear, stages[-1].gear
    at = next((k for k, c in enumerate(chains) if _runs(c, source, socket, purpose)), None)
    if at is None:
        chain_id = fresh_id([c.id for c in chains], f"{source}-on-{socket}")
        variant = Variant(id="first", name=variant_name, stages=tuple(stages))
        name = f"{known[source].name} on {the(known[socket].name)}"[:80]
        chains.append(
            Chain(
                id=chain_id,
                name=name,
                purpose=purpose,
                operator=operator,
                distance_mm=typical(distance_mm),
                variants=(variant,),
                shown="first",
            )
        )
    else:
        chain = chains[at]
        chain_id = chain.id
        same = next((v for v in chain.variants if v.stages == tuple(stages)), None)
        if same is None:
            new = fresh_id([v.id for v in chain.variants], variant_name)
            same = Variant(id=new, name=variant_name, stages=tuple(stages))
        others = tuple(v for v in chain.variants if v.id != same.id)
        ghost = chain.shown if chain.shown != same.id else chain.ghost
        fields = {n: getattr(chain, n) for n in Chain.model_fields}
        fields |= {"variants": (*others, same), "shown": same.id, "ghost": ghost}
        chains[at] = Chain.model_validate(fields)
    station_fields = {n: getattr(station, n) for n in Station.model_fields}
    return Station.model_validate(
        station_fields | {"gear": tuple(shelf), "chains": tuple(chains), "open_chain": chain_id}
    )


def _runs(chain: Chain, source: str, socket: str, purpose: PurposeId) -> bool:
    stages = chain.variant().stages
    return (stages[0].gear, stages[-1].gear, chain.purpose) == (source, socket, purpose)


def _set_here(owned: Gear, piece: Gear) -> dict[str, Any]:
    """Choices of a piece that differ from how it stands on the shelf."""
    now, wanted = owned.model_dump(mode="json"), piece.model_dump(mode="json")
    return {f: wanted[f] for f in owned.choices if now.get(f) != wanted.get(f)}
