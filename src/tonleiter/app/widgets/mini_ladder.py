"""A small ladder of a candidate: speech, peaks, noise, ceilings and windows, without figures."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.app.widgets.canvas.bracket import paint_brackets
from tonleiter.app.widgets.canvas.steps import Column, ribbon, steps
from tonleiter.app.widgets.canvas.words import elided
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.units.levels import signed

HEIGHT_PX, FOOT_PX = 150, 18
LOWEST_DBU = -140.0


class MiniLadder(QWidget):
    """Several of them share a scale if they are given the same ``span_dbu``."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._rows: tuple[StageLevels, ...] = ()
        self._span = (20.0, -120.0)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(self._look.px(240), self._look.px(HEIGHT_PX))

    def show_rows(self, rows: Sequence[StageLevels], span_dbu: tuple[float, float]) -> None:
        """Show levels between a top and a bottom in dBu."""
        self._rows, self._span = tuple(rows), span_dbu
        last = rows[-1]
        self.setAccessibleName(
            "; ".join(f"{r.name} {signed(r.speech_dbu, 0)} dBu" for r in rows)
            + f"; {signed(last.snr_db, 0)} dB over the noise"
        )
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Ribbon, lines, limits, a short name under each column."""
        if not self._rows:
            return
        with painting(self) as painter:
            p, look = self._look.palette, self._look
            painter.setFont(look.font(12, mono=True))
            left = QFontMetricsF(painter.font()).horizontalAdvance("−100") + 6
            plot = QRectF(left, 6, self.width() - left - 4, self.height() - look.px(FOOT_PX) - 10)
            self._scale(painter, plot)
            width = plot.width() / len(self._rows)
            ease = min(8.0, width * 0.18)
            peaks = self._columns(plot, [r.peak_dbu for r in self._rows])
            noise = self._columns(plot, [r.noise_dbu for r in self._rows])
            speech = self._columns(plot, [r.speech_dbu for r in self._rows])
            painter.fillPath(ribbon(peaks, noise, ease), p.color("signal", 0.22))
            painter.setPen(QPen(p.color("soft"), 1.1))
            painter.drawPath(steps(noise, ease))
            painter.setPen(QPen(p.color("signal"), 2.6))
            painter.drawPath(steps(speech, ease))
            for k, row in enumerate(self._rows):
                self._limits(painter, plot, k, width, row)
            self._names(painter, plot, width)

    def _y(self, plot: QRectF, dbu: float) -> float:
        top, bottom = self._span
        return plot.bottom() - plot.height() * Axis(bottom, top).held(dbu)

    def _scale(self, painter: QPainter, plot: QRectF) -> None:
        p = self._look.palette
        top, bottom = self._span
        for dbu in Axis(bottom, top).multiples(40):
            y = self._y(plot, dbu)
            painter.setPen(QPen(p.color("line"), 1))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(p.color("soft"))
            box = QRectF(0, y - 8, plot.left() - 5, 16)
            align = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(box, align, signed(dbu, 0))

    def _columns(self, plot: QRectF, levels: Sequence[float]) -> list[Column]:
        width = plot.width() / len(levels)
        return [
            Column(plot.left() + k * width, plot.left() + (k + 1) * width, self._y(plot, level))
            for k, level in enumerate(levels)
        ]

    def _limits(
        self, painter: QPainter, plot: QRectF, k: int, width: float, row: StageLevels
    ) -> None:
        p = self._look.palette
        left, right = plot.left() + k * width + 3, plot.left() + (k + 1) * width - 3
        if row.clips_at_dbu is not None and row.clips_at_dbu < self._span[0]:
            y = self._y(plot, row.clips_at_dbu)
            painter.setPen(QPen(p.color("stop"), 1.5))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
        if row.window is not None:
            high, low = self._y(plot, row.window.high_dbu), self._y(plot, row.window.low_dbu)
            paint_brackets(
                painter, self._look, QRectF(left, high, right - left, low - high), 4, 1.8
            )

    def _names(self, painter: QPainter, plot: QRectF, width: float) -> None:
        look = self._look
        painter.setFont(look.font(12))
        painter.setPen(look.palette.color("soft"))
        metrics = QFontMetricsF(painter.font())
        for k, row in enumerate(self._rows):
            box = QRectF(plot.left() + k * width, plot.bottom() + 4, width, look.px(FOOT_PX))
            name = elided(row.gear.noun, metrics, width - 4)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


def common_span(all_rows: Sequence[Sequence[StageLevels]]) -> tuple[float, float]:
    """A scale that holds several ladders, so that they can be compared by eye."""
    rows = [r for rows in all_rows for r in rows]
    tops = [r.peak_dbu for r in rows] + [r.clips_at_dbu for r in rows if r.clips_at_dbu is not None]
    lows = [r.noise_dbu for r in rows]
    return min(max(tops, default=0.0), 30.0) + 6, max(min(lows, default=-120.0), LOWEST_DBU) - 6
