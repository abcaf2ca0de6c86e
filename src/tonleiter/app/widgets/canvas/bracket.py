"""Brackets in brass for where something should stand, and a bead in petrol for where it is."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis

BEAD_PX = 4.0


def paint_brackets(painter: QPainter, look: Look, box: QRectF, lip: float, width: float) -> None:
    """A pair of brackets, upright, round a box."""
    # lips never meet: brackets stay a pair
    lip = min(lip, box.width() / 3.5)
    painter.setPen(QPen(look.palette.color("aim"), width))
    for x, inwards in ((box.left(), lip), (box.right(), -lip)):
        painter.drawPolyline(
            [
                QPointF(x + inwards, box.top()),
                QPointF(x, box.top()),
                QPointF(x, box.bottom()),
                QPointF(x + inwards, box.bottom()),
            ]
        )


def paint_gauge(
    painter: QPainter, look: Look, line: QRectF, axis: Axis, aim: tuple[float, float], at: float
) -> None:
    """A line with brackets round an aim and a bead at a value; beyond it, at its end."""
    p = look.palette
    y, half = line.center().y(), line.height() / 2
    painter.setPen(QPen(p.color("line"), 2))
    painter.drawLine(QPointF(line.left(), y), QPointF(line.right(), y))
    low, high = (line.left() + axis.held(v) * line.width() for v in aim)
    paint_brackets(painter, look, QRectF(low, y - half, high - low, 2 * half), 4.0, 2.0)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(p.color("signal"))
    painter.drawEllipse(QPointF(line.left() + axis.held(at) * line.width(), y), BEAD_PX, BEAD_PX)
    painter.setBrush(Qt.BrushStyle.NoBrush)
