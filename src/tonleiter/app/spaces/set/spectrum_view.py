"""What leaves the aerial socket, with both neighbours."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.app.widgets.canvas.plot import RIGHT, Plot
from tonleiter.app.widgets.canvas.read_off import ReadOff
from tonleiter.core.guide.onair import ModeId
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.signal.spectrum import Spectrum

LEAST_PX, USUAL_PX = 130, 136
TOP_DB, FOOT_DB = 0.0, -65.0
# what is shown of the band round the carrier, and the channel itself, by mode, in kilohertz
SPANS: dict[ModeId, tuple[float, float, float, float]] = {
    "ssb": (-3.2, 6.2, 0.0, 3.0),
    "data": (-3.2, 6.2, 0.0, 3.0),
    "am": (-9.0, 9.0, -4.5, 4.5),
    "fm": (-20.0, 20.0, -8.0, 8.0),
    "packet": (-20.0, 20.0, -8.0, 8.0),
}


class SpectrumView(ReadOff):
    """The newest spectrum, its highest line of late as a soft one above."""

    def __init__(self, look: Look) -> None:
        super().__init__(look, "Spectrum of what leaves the aerial socket")
        self._spectrum: Spectrum | None = None
        self._mode: ModeId = "ssb"
        self._says = ("", "")
        self.setMinimumHeight(look.px(LEAST_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    @guarded
    def sizeHint(self) -> QSize:
        """As much as there is."""
        return QSize(self._look.px(400), self._look.px(USUAL_PX))

    def show_spectrum(self, spectrum: Spectrum | None, mode: ModeId) -> None:
        """Another one."""
        self._spectrum, self._mode = spectrum, mode
        self.update()

    def say(self, below: str, above: str) -> None:
        """What the neighbours get, in words."""
        self._says = (below, above)
        self.describe("; ".join(s for s in self._says if s))
        self.update()

    def plot(self) -> Plot:
        """The frame as it lies now."""
        look, (low, high, _, _) = self._look, SPANS[self._mode]
        left, foot = look.px(36), look.px(20)
        box = QRectF(left, look.px(22), self.width() - left - 8, self.height() - foot - look.px(24))
        return Plot(box, Axis(low, high), Axis(FOOT_DB, TOP_DB))

    def read(self, value: float) -> str:
        """How far a place beside the carrier lies under the strongest."""
        low, high, _, _ = SPANS[self._mode]
        shown = self._shown(low, high)
        if shown is None:
            return ""
        by = float(np.interp(value, *shown))
        deep = f"under {_minus(f'{FOOT_DB:.0f}')}" if by <= FOOT_DB else _minus(f"{by:.0f}")
        return f"{_minus(f'{value:.1f}')} kHz: {deep} dB"

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Grid, channel, curve, words."""
        look, p = self._look, self._look.palette
        low, high, from_, to = SPANS[self._mode]
        plot = self.plot()
        box = plot.box
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(12, 400, mono=True))
            channel = QRectF(plot.x(from_), box.top(), plot.x(to) - plot.x(from_), box.height())
            painter.fillRect(channel, p.color("aim", 0.12))
            plot.paint_up(
                painter, look, range(0, int(FOOT_DB) - 1, -20), lambda db: _minus(f"{db}")
            )
            step = 1 if high - low < 12 else 3 if high - low < 20 else 5
            ticks = range(int(np.ceil(low / step)) * step, int(high) + 1, step)
            plot.paint_across(
                painter, look, ticks, lambda khz: _minus(f"{khz} kHz"), self.width(), lines=False
            )
            self._curve(painter, plot, low, high)
            painter.setFont(look.font(12))
            painter.setPen(p.color("soft"))
            top = QRectF(box.left(), 0, box.width(), look.px(20))
            below, above = self._says
            painter.drawText(
                top, int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter), below
            )
            painter.drawText(top, RIGHT, above)
            self.paint_read(painter)

    def _shown(self, low: float, high: float) -> tuple[Floats, Floats] | None:
        """Kilohertz and decibels under the strongest as drawn; None without a spectrum."""
        if self._spectrum is None:
            return None
        f = self._spectrum.f_hz / 1000
        inside = (f >= low) & (f <= high)
        if not np.any(inside):
            return None
        db = self._spectrum.db()[inside]
        peak = float(db.max())
        return f[inside], np.clip(db - max(peak, -40.0) - 2.0, FOOT_DB, TOP_DB)

    def _curve(self, painter: QPainter, plot: Plot, low: float, high: float) -> None:
        p = self._look.palette
        shown = self._shown(low, high)
        if shown is None:
            return
        line = plot.line(*shown)
        area = QPolygonF(
            [
                QPointF(line.first().x(), plot.box.bottom()),
                *line.toList(),
                QPointF(line.last().x(), plot.box.bottom()),
            ]
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.color("signal", 0.22))
        painter.drawPolygon(area)
        painter.setPen(QPen(p.color("signal"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(line)


def _minus(text: str) -> str:
    return text.replace("-", "−")
