"""The scope of the simulated bench: two traces on a dark screen, their figures in words."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.core.bench.scope import ACROSS, DOWN, POINTS, TONE_HZ, Settings, Trace, Traces
from tonleiter.core.units.quantity import VOLT, format_quantity

HIGH_PX = 196
SCREEN, GRID, OUT, INTO = "#10202A", "#24424D", "#E3B56B", "#66C2CC"


class ScopeView(QWidget):
    """What both ends of the build show while the generator is on."""

    def __init__(self, look: Look, traces: Traces, settings: Settings) -> None:
        super().__init__()
        self._look, self._traces, self._settings = look, traces, settings
        self.setFixedHeight(look.px(HIGH_PX))
        self.setAccessibleName("Scope")
        self.setAccessibleDescription(self.spoken())

    def spoken(self) -> str:
        """Both traces in words."""
        return "; ".join(self._words_of(t) for t in (self._traces.out, self._traces.into))

    def _words_of(self, trace: Trace) -> str:
        knobs = self._settings
        return words(trace, self._traces.division_v(trace.name, knobs), knobs.dc)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Screen, grid, traces, words."""
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            area = QRectF(self.rect())
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(SCREEN))
            painter.drawRoundedRect(area, 9, 9)
            painter.setPen(QPen(QColor(GRID), 1))
            for k in range(1, ACROSS):
                x = area.width() * k / ACROSS
                painter.drawLine(QPointF(x, 4), QPointF(x, area.height() - 4))
            for k in range(1, DOWN):
                y = area.height() * k / DOWN
                painter.drawLine(QPointF(4, y), QPointF(area.width() - 4, y))
            self._trace(painter, self._traces.out, OUT, 0.3)
            self._trace(painter, self._traces.into, INTO, 0.72)
            self._words(painter, self._traces.out, OUT, 6)
            self._words(painter, self._traces.into, INTO, area.height() - self._look.px(24))

    def _trace(self, painter: QPainter, trace: Trace, ink: str, at: float) -> None:
        knobs = self._settings
        begin = self._traces.triggered(knobs)
        count = round(ACROSS * knobs.division_s * POINTS * TONE_HZ) + 1
        volts = trace.volts[begin : begin + count] + (trace.mean_v if knobs.dc else 0.0)
        wide, high = self.width() - 12.0, float(self.height())
        x = 6 + wide * np.arange(volts.size) / (count - 1)
        y = high * at - volts / self._traces.division_v(trace.name, knobs) * high / DOWN
        line = QPolygonF(
            [QPointF(float(a), float(b)) for a, b in zip(x, np.clip(y, 2, high - 2), strict=True)]
        )
        painter.setPen(QPen(QColor(ink), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(line)

    def _words(self, painter: QPainter, trace: Trace, ink: str, y: float) -> None:
        painter.setFont(self._look.font(12, 400, mono=True))
        painter.setPen(QColor(ink))
        area = QRectF(12, y, self.width() - 24, self._look.px(18))
        said = painter.fontMetrics().elidedText(
            self._words_of(trace), Qt.TextElideMode.ElideRight, int(area.width())
        )
        painter.drawText(area, int(Qt.AlignmentFlag.AlignLeft), said)


def words(trace: Trace, division_v: float, dc: bool = False) -> str:
    """A trace as one reads it off: swing, where it is flat, with DC its mean, its division."""
    division = format_quantity(division_v, VOLT, 2)
    swing = format_quantity(trace.peak_to_peak_v, VOLT, 3)
    mean = f"  mean {format_quantity(round(trace.mean_v, 4), VOLT, 2)}" if dc else ""
    flat = f"  flat {trace.flat}" if trace.flat else ""
    return f"{trace.name}  {swing} pp{flat}{mean}  {division}/div"
