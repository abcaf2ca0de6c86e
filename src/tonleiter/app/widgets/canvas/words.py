"""Words that fit: broken at blanks, shortened at the end, set where nothing else stands."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetricsF


def wrapped(text: str, metrics: QFontMetricsF, width: float, most: int) -> list[str]:
    """At most so many lines, broken at blanks, each one shortened if need be."""
    words, lines = text.split(), [""]
    while words:
        longer = f"{lines[-1]} {words[0]}".strip()
        if lines[-1] and metrics.horizontalAdvance(longer) > width:
            if len(lines) == most:
                lines.append(" ".join([lines.pop(), *words]))
                break
            lines.append("")
            continue
        lines[-1] = longer
        words.pop(0)
    return [elided(line, metrics, width) for line in lines]


def elided(text: str, metrics: QFontMetricsF, width: float) -> str:
    """Shortened with an ellipsis where it is too long."""
    return metrics.elidedText(text, Qt.TextElideMode.ElideRight, width)


def first_free(places: Sequence[QRectF], within: QRectF, taken: Sequence[QRectF]) -> QRectF:
    """The first place inside ``within`` that meets nothing taken; the first of all if none is."""
    free = (r for r in places if within.contains(r) and not any(r.intersects(o) for o in taken))
    return next(free, places[0])
