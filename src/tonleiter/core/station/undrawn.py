"""What was learned is no figure that somebody typed: it never gets into a document."""

from __future__ import annotations

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure
from tonleiter.core.station.model import Station


def undrawn(station: Station, before: Station) -> Station:
    """The station with every figure that carries draws as it was typed before.

    Of a piece that was not there before it keeps its value alone.
    """
    gear = tuple(_piece(g, before.gear_by_id.get(g.id)) for g in station.gear)
    if all(a is b for a, b in zip(gear, station.gear, strict=True)):
        return station
    fields = {name: getattr(station, name) for name in Station.model_fields}
    return Station.model_validate(fields | {"gear": gear})


def _piece(gear: Gear, before: Gear | None) -> Gear:
    if gear is before:
        return gear
    known = before.figures() if before is not None else {}
    drawn: dict[str, object] = {}
    for field in gear.figures():
        figure = gear.figure(field)
        if figure.draws:
            typed = before.figure(field) if before is not None and field in known else None
            drawn[field] = typed or Figure(value=figure.value, basis=figure.basis)
    return gear.with_values(drawn) if drawn else gear
