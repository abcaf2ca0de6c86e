"""Words that fit: broken at blanks, shortened at the end, set where nothing else stands."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QFontMetricsF


def broken(text: str, metrics: QFontMetrics | QFontMetricsF, width: float) -> list[str]:
    """As many lines as it takes, broken at blanks; a word that is too wide stays whole."""
    lines = [""]
    for word in text.split():
        longer = f"{lines[-1]} {word}".strip()
        if lines[-1] and metrics.horizontalAdvance(longer) > width:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines


def wrapped(text: str, metrics: QFontMetricsF, width: float, most: int) -> list[str]:
    """At most so many lines, broken at blanks, each one shortened if need be."""
    lines = broken(text, metrics, width)
    if len(lines) > most:
        lines[most - 1 :] = [" ".join(lines[most - 1 :])]
    return [elided(line, metrics, width) for line in lines]


def elided(text: str, metrics: QFontMetricsF, width: float) -> str:
    """Shortened with an ellipsis where it is too long."""
    return metrics.elidedText(text, Qt.TextElideMode.ElideRight, width)


def first_free(places: Sequence[QRectF], within: QRectF, taken: Sequence[QRectF]) -> QRectF:
    """The first place inside ``within`` that meets nothing taken; the first of all if none is."""
    free = (r for r in places if within.contains(r) and not any(r.intersects(o) for o in taken))
    return next(free, places[0])
