"""Ways of wires into a face: a wire touches the contact that it is soldered to, and no other."""

from __future__ import annotations

import cmath
import math
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from itertools import pairwise

from PySide6.QtCore import QPointF

# how far from the middle of another contact a wire stays, in radii of a contact
CLEAR = 1.15
# directions in which a way round is looked for, and how far off the goal it bends, in radii
DIRECTIONS, BENDS = 24, (1.9, 2.8, 4.2)
# how far outside the outermost contacts a wire goes round, in radii
OUTSIDE = 2.0
# wires of the plugs that are seen: a picture is painted far more often than a wire moves
REMEMBERED = 256


def into(
    start: QPointF, goal: str, spots: Mapping[str, QPointF], radius: float, tall: float = 1.0
) -> list[QPointF]:
    """Points of the way from ``start`` to a contact, both ends included.

    Straight where that is clear of the other contacts, else over one bend, the shortest that is
    clear; straight again where none is. ``tall`` contacts are blades: so many times as
    high as wide.
    """
    others = tuple(_squeezed(p, tall) for label, p in spots.items() if label != goal)
    way = _way(_squeezed(start, tall), _squeezed(spots[goal], tall), others, radius)
    return [QPointF(p.real, p.imag * tall) for p in way]


def _squeezed(point: QPointF, tall: float) -> complex:
    return complex(point.x(), point.y() / tall)


@lru_cache(maxsize=REMEMBERED)
def _way(
    start: complex, end: complex, others: tuple[complex, ...], radius: float
) -> tuple[complex, ...]:
    """The way past the middles of other contacts; a point is a complex number."""
    straight = (start, end)
    if _is_clear(straight, others, radius):
        return straight
    turns = [end + at * radius for at in _around(BENDS)]
    found = _shortest([(start, turn, end) for turn in turns], others, radius)
    if found is None:
        # round the outside first, then in where there is a gap
        last = [t for t in turns if _is_clear((t, end), others, radius)]
        spots = (end, *others)
        middle = sum(spots) / len(spots)
        wide = max(abs(p - middle) for p in spots) / radius + OUTSIDE
        rim = [middle + at * radius for at in _around((wide,))]
        rim = [p for p in rim if _is_clear((start, p), others, radius)]
        found = _shortest([(start, p, t, end) for p in rim for t in last], others, radius)
    return found or straight


def _around(distances: Iterable[float]) -> list[complex]:
    """Points in all directions at some distances."""
    angles = [2 * math.pi * k / DIRECTIONS for k in range(DIRECTIONS)]
    return [cmath.rect(d, a) for d in distances for a in angles]


def _shortest(
    ways: Iterable[tuple[complex, ...]], others: Sequence[complex], radius: float
) -> tuple[complex, ...] | None:
    """Of some ways the shortest that is clear; None where none is."""
    by_length = sorted(ways, key=lambda way: sum(abs(a - b) for a, b in pairwise(way)))
    return next((way for way in by_length if _is_clear(way, others, radius)), None)


def _is_clear(way: Sequence[complex], others: Sequence[complex], radius: float) -> bool:
    return all(
        _to_segment(spot, a, b) >= CLEAR * radius for a, b in pairwise(way) for spot in others
    )


def _to_segment(spot: complex, a: complex, b: complex) -> float:
    """How near a line from a to b comes to a point."""
    along = b - a
    if along == 0:
        return abs(spot - a)
    share = ((spot - a) * along.conjugate()).real / abs(along) ** 2
    return abs(spot - (a + along * min(max(share, 0.0), 1.0)))
