"""Levels in columns: plateaus joined across the boundaries, and ribbons between two such lines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtGui import QPainterPath


@dataclass(frozen=True)
class Column:
    """A column's edges and the height of its level, in pixels."""

    left: float
    right: float
    y: float


def steps(columns: Sequence[Column], ease: float, backwards: bool = False) -> QPainterPath:
    """Plateaus joined by S-curves that begin and end ``ease`` pixels off each boundary.

    The first and the last plateau reach their outer edges.
    """
    last = len(columns) - 1
    flats = [
        (c.left + (ease if k else 0.0), c.right - (ease if k < last else 0.0), c.y)
        for k, c in enumerate(columns)
    ]
    if backwards:
        flats = [(right, left, y) for left, right, y in reversed(flats)]
    path = QPainterPath()
    for k, (start, stop, y) in enumerate(flats):
        if k == 0:
            path.moveTo(start, y)
        else:
            before = path.currentPosition()
            middle = (before.x() + start) / 2
            path.cubicTo(middle, before.y(), middle, y, start, y)
        path.lineTo(stop, y)
    return path


def ribbon(upper: Sequence[Column], lower: Sequence[Column], ease: float) -> QPainterPath:
    """The area between two lines of steps."""
    outline = steps(upper, ease)
    outline.connectPath(steps(lower, ease, backwards=True))
    outline.closeSubpath()
    return outline
