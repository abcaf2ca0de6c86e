"""A station out of two answers: one thing to speak into, one place where it should go."""

from __future__ import annotations

from tonleiter.core.gear.beginnings import Beginning
from tonleiter.core.station.edits import fresh_id
from tonleiter.core.station.model import Station

# what a station is called until its first place gives it a name
UNNAMED = "My station"


def begun(speaks: Beginning | None = None, goes: Beginning | None = None) -> Station:
    """A new station with what was answered on its shelf; no chain: Match says first what goes."""
    shelf = []
    taken: set[str] = set()
    for answer in (speaks, goes):
        if answer is not None:
            shelf.append(answer.piece(fresh_id(taken, answer.begin.name)))
            taken.add(shelf[-1].id)
    return Station.model_validate(
        {
            "title": UNNAMED,
            "operators": [{"id": "operator", "name": "operator"}],
            "gear": shelf,
        }
    )


def named(station: Station, folder_name: str) -> Station:
    """Titled by the folder of its first save, unless somebody gave it a title before."""
    title = folder_name.replace("-", " ").replace("_", " ").strip()[:80]
    if station.title != UNNAMED or not title:
        return station
    return Station.model_validate(
        {n: getattr(station, n) for n in Station.model_fields} | {"title": title}
    )
