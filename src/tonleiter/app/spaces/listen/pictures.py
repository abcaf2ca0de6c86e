"""The long-term spectra of recordings, against average speech."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.listen.slots import Place
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.app.widgets.canvas.plot import Plot
from tonleiter.app.widgets.canvas.read_off import ReadOff
from tonleiter.core.listen.compare import Comparison
from tonleiter.core.listen.measures import Measures
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import HERTZ, format_quantity

SPECTRUM_PX = 170
TOP_DB, FOOT_DB = 18.0, -36.0
LOW_HZ, HIGH_HZ = 80.0, 6000.0
TICKS_HZ = (100, 200, 500, 1000, 2000, 5000)
# average speech lies in a band of so many decibels to either side
SPREAD_DB = 4.0
# a difference is named where neither lies deeper than this
HEARD_DB = -15.0


# those beside the first two are told apart by their dashes, so that nobody needs colours for it
DASHES: Mapping[Place, tuple[float, ...]] = {
    "C": (6, 2), "D": (1.5, 2), "E": (6, 2, 1.5, 2), "F": (10, 4),
}  # fmt: skip


def line_of(place: Place, look: Look) -> QPen:
    """How a place's curve is drawn, everywhere."""
    colour = {"A": "other", "B": "signal"}.get(place, "soft")
    pen = QPen(look.palette.color(colour), 1.8 if place in DASHES else 2.4)
    if place in DASHES:
        pen.setDashPattern(list(DASHES[place]))
    return pen


class Spectra(ReadOff):
    """Long-term spectra against average speech, levels aligned; the largest difference is named."""

    def __init__(self, look: Look) -> None:
        super().__init__(look, "Long-term spectra against average speech")
        self._shown: Mapping[Place, Measures] = {}
        self._comparison: Comparison | None = None
        self.setMinimumHeight(look.px(SPECTRUM_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    @guarded
    def sizeHint(self) -> QSize:
        """As much as there is."""
        return QSize(self._look.px(400), self._look.px(SPECTRUM_PX + 40))

    def show_all(self, shown: Mapping[Place, Measures], comparison: Comparison | None) -> None:
        """Others; the comparison is of the first two."""
        self._shown, self._comparison = shown, comparison
        self.describe(self._largest()[2])
        self.update()

    def _largest(self) -> tuple[float, float, str]:
        """Where they differ most, between 150 Hz and 3.4 kHz."""
        made = self._comparison
        if made is None:
            return 0.0, 0.0, ""
        f, by = made.spectrum_db
        # on a filter's flank a little shift is many decibels that nobody hears
        off = [m.against_speech_db[: f.size] for m in (made.one, made.other)]
        there = np.minimum(*off) > HEARD_DB
        inside = np.flatnonzero((f > 150) & (f < 3400) & there)
        if not inside.size:
            return 0.0, 0.0, ""
        k = int(inside[np.argmax(np.abs(by[inside]))])
        text = f"{by[k]:+.0f} dB at {f[k]:.0f} Hz".replace("-", "−")
        return float(f[k]), float(by[k]), text

    def plot(self) -> Plot:
        """The frame as it lies now."""
        left, foot = self._look.px(40), self._look.px(20)
        box = QRectF(left, 6, self.width() - left - 8, self.height() - foot - 10)
        return Plot(box, Axis(LOW_HZ, HIGH_HZ, frequency=True), Axis(FOOT_DB, TOP_DB))

    def read(self, value: float) -> str:
        """Each recording there, against average speech."""
        said = []
        for place, m in self._shown.items():
            if m.level.known and m.centres[0] <= value <= m.centres[-1]:
                by = float(np.interp(value, m.centres, m.against_speech_db))
                said.append(f"{place} {signed(by, 0, plus=True)}")
        return f"{format_quantity(value, HERTZ, 2)}: {', '.join(said)} dB" if said else ""

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Grid, the band of average speech, the curves."""
        look, p = self._look, self._look.palette
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(12, 400, mono=True))
            plot = self.plot()
            box = plot.box
            band = QRectF(box.left(), plot.y(SPREAD_DB), box.width(), 0)
            band.setBottom(plot.y(-SPREAD_DB))
            painter.fillRect(band, p.color("aim", 0.14))
            plot.paint_up(
                painter, look, (12, 0, -12, -24, -36), lambda v: f"{v:g}".replace("-", "−")
            )
            plot.paint_across(painter, look, TICKS_HZ, _hertz, self.width())
            painter.save()
            plot.clip(painter)
            # those beside them under the first two
            for place, m in reversed(list(self._shown.items())):
                if not m.level.known:
                    continue
                f, off = m.centres, m.against_speech_db
                inside = (f >= LOW_HZ) & (f <= HIGH_HZ)
                painter.setPen(line_of(place, look))
                painter.drawPolyline(plot.line(f[inside], np.maximum(off[inside], FOOT_DB - 9)))
            painter.restore()
            self._name(painter, plot)
            self.paint_read(painter)

    def _name(self, painter: QPainter, plot: Plot) -> None:
        look, p = self._look, self._look.palette
        hertz, by, text = self._largest()
        if abs(by) < 3 or math.isnan(by):
            return
        x = plot.x(hertz)
        painter.setPen(QPen(p.color("ink"), 1.5))
        painter.drawLine(QPointF(x, plot.y(0)), QPointF(x, plot.y(max(min(by, TOP_DB), FOOT_DB))))
        painter.setFont(look.font(13, 700))
        width = painter.fontMetrics().horizontalAdvance(text)
        at = min(x + 6, plot.box.right() - width)
        painter.drawText(QPointF(at, plot.box.top() + look.px(14)), text)


def _hertz(value: float) -> str:
    return f"{value / 1000:g}k" if value >= 1000 else f"{value:g}"
