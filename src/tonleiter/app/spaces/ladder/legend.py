"""The line under the ladder that explains its lines."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from tonleiter.app.spaces.ladder.scene import Frame
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.bracket import paint_brackets

MARK_PX, GAP_PX = 34, 22


def paint_legend(
    painter: QPainter,
    look: Look,
    width: float,
    height: float,
    frame: Frame,
    items: Sequence[tuple[str, str]],
) -> None:
    """Marks with their words, as many as there is room for."""
    painter.setFont(look.font(12))
    metrics = QFontMetricsF(painter.font())
    y = height - look.px(13)
    x = frame.plot.left()
    for kind, text in items:
        if x + MARK_PX + metrics.horizontalAdvance(text) > width:
            break  # rather left out than cut in two
        _mark(painter, look, kind, x, y)
        painter.setPen(look.palette.color("soft"))
        painter.drawText(QPointF(x + MARK_PX, y + look.px(4)), text)
        x += MARK_PX + metrics.horizontalAdvance(text) + GAP_PX


def _mark(painter: QPainter, look: Look, kind: str, x: float, y: float) -> None:
    p = look.palette
    if kind == "band":
        painter.fillRect(QRectF(x, y - 5, 26, 10), p.color("aim", 0.42))
        return
    if kind == "window":
        paint_brackets(painter, look, QRectF(x + 6, y - 5, 16, 10), 4.0, 2.2)
        return
    pens = {
        "speech": QPen(p.color("signal"), 3.2),
        "peaks": QPen(p.color("signal"), 1.6, Qt.PenStyle.DotLine),
        "noise": QPen(p.color("soft"), 1.2),
        "hum": QPen(p.color("mind"), 1.6, Qt.PenStyle.DashDotLine),
        "ghost": QPen(p.color("ink", 0.75), 1.3, Qt.PenStyle.DashLine),
        "ceiling": QPen(p.color("stop"), 1.8),
    }
    painter.setPen(pens[kind])
    painter.drawLine(QPointF(x, y), QPointF(x + 26, y))
    if kind == "ceiling":
        painter.setPen(QPen(p.color("stop", 0.6), 1))
        for k in range(4):
            painter.drawLine(QPointF(x + 7 * k, y - 1), QPointF(x + 7 * k + 4, y - 6))
