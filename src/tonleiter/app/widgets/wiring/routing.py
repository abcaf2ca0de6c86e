"""Ways of wires into a face: a wire touches the contact that it is soldered to, and no other."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from itertools import pairwise

from PySide6.QtCore import QPointF

# how far from the middle of another contact a wire stays, in radii of a contact
CLEAR = 1.15
# directions in which a way round is looked for, and how far off the goal it bends, in radii
DIRECTIONS, BENDS = 24, (1.9, 2.8, 4.2)
# how far outside the outermost contacts a wire goes round, in radii
OUTSIDE = 2.0


def into(
    start: QPointF, goal: str, spots: Mapping[str, QPointF], radius: float, tall: float = 1.0
) -> list[QPointF]:
    """Points of the way from ``start`` to a contact, both ends included.

    Straight where that is clear of the other contacts, else over one bend, the shortest that is
    clear; straight again where none is. ``tall`` contacts are blades: so many times as
    high as wide.
    """
    if tall != 1.0:
        flat = {label: _squeezed(p, tall) for label, p in spots.items()}
        way = into(_squeezed(start, tall), goal, flat, radius)
        return [_squeezed(p, 1 / tall) for p in way]
    end = spots[goal]
    others = [p for label, p in spots.items() if label != goal]
    straight = [start, end]
    if _is_clear(straight, others, radius):
        return straight
    turns = [end + at * radius for at in _around(BENDS)]
    ways = [[start, turn, end] for turn in turns]
    found = _shortest(ways, others, radius)
    if found is None:
        # round the outside first, then in where there is a gap
        last = [t for t in turns if _is_clear([t, end], others, radius)]
        middle = sum(spots.values(), QPointF()) / len(spots)
        wide = max(_distance(p, middle) for p in spots.values()) / radius + OUTSIDE
        rim = [middle + at * radius for at in _around((wide,))]
        rim = [p for p in rim if _is_clear([start, p], others, radius)]
        found = _shortest([[start, p, t, end] for p in rim for t in last], others, radius)
    return found or straight


def _around(distances: Iterable[float]) -> list[QPointF]:
    """Points in all directions at some distances."""
    angles = [2 * math.pi * k / DIRECTIONS for k in range(DIRECTIONS)]
    return [QPointF(math.cos(a), math.sin(a)) * d for d in distances for a in angles]


def _shortest(
    ways: Iterable[list[QPointF]], others: list[QPointF], radius: float
) -> list[QPointF] | None:
    """Of some ways the shortest that is clear; None where none is."""
    by_length = sorted(ways, key=lambda way: sum(_distance(a, b) for a, b in pairwise(way)))
    return next((way for way in by_length if _is_clear(way, others, radius)), None)


def _squeezed(point: QPointF, tall: float) -> QPointF:
    return QPointF(point.x(), point.y() / tall)


def _is_clear(way: list[QPointF], others: list[QPointF], radius: float) -> bool:
    return all(
        _to_segment(spot, a, b) >= CLEAR * radius for a, b in pairwise(way) for spot in others
    )


def _distance(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())


def _to_segment(spot: QPointF, a: QPointF, b: QPointF) -> float:
    """How near a line from a to b comes to a point."""
    along = b - a
    square = along.x() ** 2 + along.y() ** 2
    if square == 0:
        return _distance(spot, a)
    share = QPointF.dotProduct(spot - a, along) / square
    return _distance(spot, a + along * min(max(share, 0.0), 1.0))
