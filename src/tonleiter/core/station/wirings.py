"""Edits of what hands decided about a build; invalid results raise ValidationError."""

from __future__ import annotations

from typing import Any

from tonleiter.core.station.edits import change_chain
from tonleiter.core.station.model import Station, Variant
from tonleiter.core.station.shells import Shell
from tonleiter.core.station.wiring import AS_DERIVED, Bridge, Dress, Landing, Plug, Wiring


def change_wiring(station: Station, chain_id: str, variant_id: str, **changes: Any) -> Station:  # noqa: ANN401
    """Change fields of a variant's wiring."""
    chain = station.chain(chain_id)
    was = chain.variant(variant_id).wiring
    wiring = Wiring.model_validate({n: getattr(was, n) for n in Wiring.model_fields} | changes)
    variants = tuple(
        Variant(id=v.id, name=v.name, stages=v.stages, wiring=wiring) if v.id == variant_id else v
        for v in chain.variants
    )
    return change_chain(station, chain_id, variants=variants)


def _wiring(station: Station, chain_id: str, variant_id: str) -> Wiring:
    return station.chain(chain_id).variant(variant_id).wiring


def land(
    station: Station, chain_id: str, variant_id: str, end: str, leg: str, contact: str | None
) -> Station:
    """Solder a wire to a contact of an end, or cut it back (None)."""
    was = _wiring(station, chain_id, variant_id).landings
    kept = tuple(x for x in was if (x.end, x.leg) != (end, leg))
    made = Landing.model_validate({"end": end, "leg": leg, "contact": contact})
    return change_wiring(station, chain_id, variant_id, landings=(*kept, made))


def unland(station: Station, chain_id: str, variant_id: str, end: str, *legs: str) -> Station:
    """Solder wires of an end as the pinouts say; without legs, all of them."""
    was = _wiring(station, chain_id, variant_id).landings
    kept = tuple(x for x in was if x.end != end or (legs and x.leg not in legs))
    return change_wiring(station, chain_id, variant_id, landings=kept)


def bridge(
    station: Station, chain_id: str, variant_id: str, end: str, one: str, other: str
) -> Station:
    """Join two contacts of an end; joined ones are parted."""
    was = _wiring(station, chain_id, variant_id).bridges
    kept = tuple(b for b in was if b.end != end or set(b.contacts) != {one, other})
    if len(kept) == len(was):
        kept = (*was, Bridge.model_validate({"end": end, "contacts": (one, other)}))
    return change_wiring(station, chain_id, variant_id, bridges=kept)


def unbridge(station: Station, chain_id: str, variant_id: str, end: str) -> Station:
    """Part all contacts of an end that were joined."""
    was = _wiring(station, chain_id, variant_id).bridges
    return change_wiring(
        station, chain_id, variant_id, bridges=tuple(b for b in was if b.end != end)
    )


def put_plug(
    station: Station, chain_id: str, variant_id: str, end: str, shell: Shell | None
) -> Station:
    """Put another plug on the lead at an end; None: the one of the socket's form."""
    was = _wiring(station, chain_id, variant_id).plugs
    kept = tuple(p for p in was if p.end != end)
    if shell is not None:
        kept = (*kept, Plug(end=end, shell=shell))
    return change_wiring(station, chain_id, variant_id, plugs=kept)


def dress(station: Station, chain_id: str, variant_id: str, wire: str, **said: Any) -> Station:  # noqa: ANN401
    """Choose a wire's colour or its length."""
    wiring = _wiring(station, chain_id, variant_id)
    was = wiring.dress(wire)
    fields = {} if was is None else {"colour": was.colour, "length_m": was.length_m}
    made = Dress.model_validate({"wire": wire} | fields | said)
    kept = tuple(d for d in wiring.dresses if d.wire != wire)
    return change_wiring(station, chain_id, variant_id, dresses=(*kept, made))


def as_derived(station: Station, chain_id: str, variant_id: str) -> Station:
    """Forget everything that was decided by hand."""
    fields = {n: getattr(AS_DERIVED, n) for n in Wiring.model_fields}
    return change_wiring(station, chain_id, variant_id, **fields)
