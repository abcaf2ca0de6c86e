"""A station made right: its guide followed to the end, as somebody would who does what it says."""

from __future__ import annotations

from collections.abc import Callable

from tonleiter.core.guide.scene import Scene
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station


def settle(
    station: Station, chain: str, scene_of: Callable[[Station], Scene], most: int
) -> Station | None:
    """The station once the guide asks for nothing more; None where it does not end well.

    What stops it is mended by the first remedy; each of the ``most`` moves is one of the guide's.
    """
    for _ in range(most):
        scene = scene_of(station)
        if scene.stops:
            fixes = scene.case.verdict.remedies(scene.stops[0])
            if not fixes:
                return None
            station = fixes[0].change(station)
            continue
        move = scene.now.move if scene.now is not None else None
        if move is None or not move.can_be_made:
            return station if scene.is_right else None
        if move.knobs:
            station = edits.change_chain(station, chain, panel=scene.after(move))
        elif move.fix is not None:
            station = move.fix.apply(station)
    return None
