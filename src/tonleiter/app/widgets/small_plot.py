"""A small plot with one or two curves and named points, painted in the theme's colours."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis, hz_text
from tonleiter.app.widgets.canvas.plot import RIGHT, Plot
from tonleiter.app.widgets.canvas.words import first_free
from tonleiter.core.report.curves import Curve
from tonleiter.core.units.levels import signed

LEAST_SPAN = {"dB": 12.0, "dBu": 20.0}


class SmallPlot(QWidget):
    """Shows a Curve; says it in words to a screen reader."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.curve: Curve | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    @guarded
    def sizeHint(self) -> QSize:
        """Wide enough for an inspector."""
        return QSize(self._look.px(230), self._look.px(140))

    def show_curve(self, curve: Curve | None) -> None:
        """Show another curve, or hide."""
        self.curve = curve
        self.setVisible(curve is not None)
        if curve is not None:
            points = ", ".join(
                f"{m.name} at {m.x:.3g} {curve.x_unit}, {m.y:.3g} {curve.y_unit}"
                for m in curve.marks
            )
            self.setAccessibleName(f"{curve.title}: {points}" if points else curve.title)
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Title, frame, ticks, curves, points."""
        curve = self.curve
        if curve is None:
            return
        with painting(self) as painter:
            p, look = self._look.palette, self._look
            painter.setFont(look.font(12, 600))
            painter.setPen(p.color("soft"))
            painter.drawText(QPointF(0, look.px(13)), curve.title)
            painter.setFont(look.font(12, mono=True))
            metrics = QFontMetricsF(painter.font())
            left = metrics.horizontalAdvance("−100") + 6
            box = QRectF(left, look.px(20), self.width() - left - 4, self.height() - look.px(38))
            plot = Plot(box, *_axes(curve))
            self._paint_ticks(painter, plot)
            plot.clip(painter)
            for line in curve.lines:
                tone = p.color("soft") if line.ghost else p.color("signal")
                style = Qt.PenStyle.DashLine if line.ghost else Qt.PenStyle.SolidLine
                painter.setPen(QPen(tone, 1.3 if line.ghost else 2.2, style))
                painter.drawPolyline(plot.line(line.x, line.y))
            painter.setClipping(False)
            taken: list[QRectF] = []
            for mark in curve.marks:
                at = plot.at(mark.x, mark.y)
                painter.setPen(QPen(p.color("panel"), 1))
                painter.setBrush(p.color("aim"))
                painter.drawEllipse(at, 4.5, 4.5)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                taken.append(self._name(painter, box, at, mark.name, taken))

    def _name(
        self, painter: QPainter, box: QRectF, at: QPointF, name: str, taken: list[QRectF]
    ) -> QRectF:
        """A point's name beside it, where there is room; returns where it stands."""
        painter.setFont(self._look.font(12))
        painter.setPen(self._look.palette.color("ink"))
        width = QFontMetricsF(painter.font()).horizontalAdvance(name) + 2
        height = self._look.px(15)
        places = [
            QRectF(x, y, width, height)
            for y in (at.y() + 3, at.y() - height - 3)
            for x in (at.x() + 7, at.x() - 7 - width)
        ]
        place = first_free(places, box, taken)
        painter.fillRect(place, self._look.palette.color("panel", 0.85))
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, name)
        return place

    def _paint_ticks(self, painter: QPainter, plot: Plot) -> None:
        curve, p, look = self.curve, self._look.palette, self._look
        assert curve is not None
        digits = 0 if plot.up.high - plot.up.low >= 4 else 1
        plot.paint_up(painter, look, plot.up.ticks(), lambda y: signed(y, digits))
        words = hz_text if curve.over_frequency else lambda x: f"{x:g}".replace("-", "−")
        plot.paint_across(painter, look, plot.across.ticks(), words, self.width())
        painter.setPen(p.color("soft"))
        painter.setFont(look.font(12))
        units = curve.y_unit if curve.over_frequency else f"{curve.y_unit} over {curve.x_unit}"
        painter.drawText(QRectF(0, 0, self.width() - 4, look.px(18)), RIGHT, units)
        painter.setFont(look.font(12, mono=True))


def _axes(curve: Curve) -> tuple[Axis, Axis]:
    xs = np.concatenate([line.x for line in curve.lines])
    solid = [line.y for line in curve.lines if not line.ghost] or [curve.lines[0].y]
    ys = np.concatenate([*solid, *[line.y for line in curve.lines if line.ghost]])
    low, high = float(ys.min()), float(ys.max())
    if curve.over_frequency and curve.y_unit == "dB":
        # a curve that dives into nothing would press everything else flat
        low = max(low, high - 36.0)
    least = LEAST_SPAN.get(curve.y_unit, 1e-3)
    missing = max(least - (high - low), 0.0)
    pad = 0.06 * (high - low + missing)
    across = Axis(float(xs.min()), float(xs.max()), curve.over_frequency)
    return across, Axis(low - missing / 2 - pad, high + missing / 2 + pad)
