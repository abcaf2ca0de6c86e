"""Curves over two axes: where a value stands in the picture, the grid behind, its words."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis

RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
CENTRE = int(Qt.AlignmentFlag.AlignCenter)


@dataclass(frozen=True)
class Plot:
    """A frame in the picture with an axis across and one up."""

    box: QRectF
    across: Axis
    up: Axis

    def x(self, value: float) -> float:
        """Where a value of the axis across stands."""
        return self.box.left() + self.across.share(value) * self.box.width()

    def y(self, value: float) -> float:
        """Where a value of the axis up stands."""
        return self.box.bottom() - self.up.share(value) * self.box.height()

    def value(self, x: float) -> float:
        """The value of the axis across that stands at ``x``."""
        return self.across.value((x - self.box.left()) / max(self.box.width(), 1.0))

    def at(self, x: float, y: float) -> QPointF:
        """A point."""
        return QPointF(self.x(x), self.y(y))

    def line(self, xs: ArrayLike, ys: ArrayLike) -> QPolygonF:
        """A curve; ``xs`` and ``ys`` of shape (points,)."""
        pairs = zip(np.asarray(xs, float), np.asarray(ys, float), strict=True)
        return QPolygonF([self.at(float(x), float(y)) for x, y in pairs])

    def clip(self, painter: QPainter) -> None:
        """Let curves end at the frame."""
        painter.setClipRect(self.box.adjusted(-1, -1, 1, 1))

    def paint_across(
        self,
        painter: QPainter,
        look: Look,
        ticks: Iterable[float],
        words: Callable[[float], str],
        within: float,
        lines: bool = True,
    ) -> None:
        """Lines up from values of the axis across, their words below, none past ``within``."""
        p = look.palette
        right = -1.0
        for value in ticks:
            at = self.x(value)
            if lines:
                painter.setPen(QPen(p.color("line"), 1))
                painter.drawLine(QPointF(at, self.box.top()), QPointF(at, self.box.bottom()))
            said = words(value)
            width = painter.fontMetrics().horizontalAdvance(said)
            left = min(max(at - width / 2, 0.0), within - width)
            if left < right + look.px(3):
                continue
            right = left + width
            painter.setPen(p.color("soft"))
            area = QRectF(left, self.box.bottom() + 2, width, look.px(16))
            painter.drawText(area, CENTRE | int(Qt.TextFlag.TextDontClip), said)

    def paint_up(
        self,
        painter: QPainter,
        look: Look,
        ticks: Iterable[float],
        words: Callable[[float], str],
    ) -> None:
        """Lines across from values of the axis up, their words left of the frame."""
        p = look.palette
        for value in ticks:
            at = self.y(value)
            painter.setPen(QPen(p.color("line"), 1))
            painter.drawLine(QPointF(self.box.left(), at), QPointF(self.box.right(), at))
            painter.setPen(p.color("soft"))
            area = QRectF(0, at - look.px(8), self.box.left() - 5, look.px(16))
            painter.drawText(area, RIGHT, words(value))
