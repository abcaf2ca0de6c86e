"""A reading against its brackets, on a line."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.bracket import paint_brackets

HIGH_PX, BEAD_PX, EDGE_PX, FIGURES_PX = 36, 5.0, 10.0, 14


class ShareBar(QWidget):
    """How much of the belief something has: a bar, and its figure beside it."""

    def __init__(self, look: Look, share: float, name: str) -> None:
        super().__init__()
        self._look, self._share = look, share
        self.setAccessibleName(f"{name}: {share:.0%}")
        self.setFixedHeight(look.px(18))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Track, share, figure."""
        with painting(self) as painter:
            p, look = self._look.palette, self._look
            wide = self.width() - look.px(52)
            track = QRectF(0, 5, wide, self.height() - 10)
            painter.fillRect(track, p.color("line"))
            track.setWidth(max(wide * self._share, 2.0))
            painter.fillRect(track, p.color("signal"))
            painter.setPen(p.color("ink"))
            painter.setFont(look.font(12, 400, mono=True))
            area = QRectF(wide, 0, look.px(52), self.height())
            painter.drawText(
                area,
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{self._share:.0%}",
            )


class Gauge(QWidget):
    """Brackets between two ends, a bead at what was read: round inside, square outside.

    ``said`` are the ends as figures, which stand below the line. A press asks why they are so.
    """

    pressed = Signal()

    def __init__(
        self,
        look: Look,
        ends: tuple[float, float],
        said: tuple[str, ...],
        read: float | None,
        fits: bool,
    ) -> None:
        super().__init__()
        self._look, self._read, self._fits = look, read, fits
        self._low, self._high = ends
        self.said = f"{said[0]} … {said[1]}" if said[0] != said[1] else said[0]
        self.setAccessibleName(f"right from {said[0]} to {said[1]}")
        self.setToolTip("Press to see how it comes about")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFixedHeight(look.px(HIGH_PX))
        wide = QFontMetrics(look.font(11, 400, mono=True)).horizontalAdvance(self.said)
        self.setMinimumWidth(max(60, wide + 4))

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        wide = QFontMetrics(self._look.font(11, 400, mono=True)).horizontalAdvance(self.said)
        return QSize(max(self._look.px(160), wide), self._look.px(HIGH_PX))

    def _at(self, value: float, line: QRectF) -> float:
        """Where a value lies: the brackets take the middle fifth, ratios and volts alike."""
        low, high = self._low, self._high
        if math.isinf(high):
            return line.right() - 0.12 * line.width() if math.isinf(value) else line.left() + 20
        if math.isinf(value):
            return line.right()
        middle, half = (low + high) / 2, max((high - low) / 2, 1e-12)
        away = (value - middle) / half
        # far readings come together at the ends of the line
        return line.center().x() + 0.5 * line.width() * (away / (abs(away) + 4))

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Ask why."""
        super().mouseReleaseEvent(event)
        inside = self.rect().contains(event.position().toPoint())
        if inside and event.button() == Qt.MouseButton.LeftButton:
            self.pressed.emit()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Line, brackets, bead."""
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            p = self._look.palette
            figures = self._look.px(FIGURES_PX)
            line = QRectF(self.rect()).adjusted(EDGE_PX, 3, -EDGE_PX, -3 - figures)
            painter.setPen(p.color("soft"))
            painter.setFont(self._look.font(11, 400, mono=True))
            below = QRectF(0, self.height() - figures, self.width(), figures)
            painter.drawText(below, Qt.AlignmentFlag.AlignCenter, self.said)
            y = line.center().y()
            painter.setPen(QPen(p.color("line"), 2))
            painter.drawLine(QPointF(line.left(), y), QPointF(line.right(), y))
            low, high = self._at(self._low, line), self._at(self._high, line)
            if math.isinf(self._high):
                low, high = high - 9, high + 9
            paint_brackets(
                painter, self._look, QRectF(low, y - 8, max(high - low, 8), 16), 4.0, 2.0
            )
            if self._read is None:
                return
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.color("fine" if self._fits else "stop"))
            at = QPointF(self._at(self._read, line), y)
            if self._fits:
                painter.drawEllipse(at, BEAD_PX, BEAD_PX)
            else:
                painter.drawRect(
                    QRectF(at.x() - BEAD_PX, at.y() - BEAD_PX, 2 * BEAD_PX, 2 * BEAD_PX)
                )
