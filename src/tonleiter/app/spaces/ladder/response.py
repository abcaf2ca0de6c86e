"""Frequency response of the chain from the air to the radio, with its corners and the ghost."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis, hz_text
from tonleiter.app.widgets.canvas.plot import RIGHT, Plot
from tonleiter.app.widgets.canvas.read_off import ReadOff
from tonleiter.core.circuit.ac import Floats
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import HERTZ, format_quantity

DECADES = (20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000)
LEVELS_DB = (-18, -12, -6, 0, 6)
ACROSS, UP = Axis(20.0, 20_000.0, frequency=True), Axis(-24.0, 9.0)
HALF_POWER_DB = -3.0103
LEAST_PX, USUAL_PX = 100, 170


class ResponseView(ReadOff):
    """Gain re 1 kHz against frequency; the purpose's band is shaded."""

    def __init__(self, model: LadderModel, look: Look) -> None:
        super().__init__(look, "Frequency response")
        self._model = model
        self.setMinimumHeight(look.px(LEAST_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        model.changed.connect(self.refresh)
        look.changed.connect(self.update)
        self.refresh()

    @guarded
    def sizeHint(self) -> QSize:
        """As much as there is."""
        return QSize(self._look.px(400), self._look.px(USUAL_PX))

    def refresh(self) -> None:
        """Draw the present response."""
        if self.isHidden():
            return
        sounds = _sounds(self._model.assessment)
        self.describe(_spoken(self._corners()) if sounds else "nothing comes through")
        self.update()

    def _corners(self) -> tuple[float | None, float | None]:
        assessment = self._model.assessment
        return assessment.corners_hz if _sounds(assessment) and assessment else (None, None)

    def curve_db(self) -> tuple[Floats, Floats]:
        """Frequencies and gain re 1 kHz as drawn; nothing of a silent chain."""
        return _curve(self._model.assessment)

    def plot(self) -> Plot:
        """The frame as it lies now."""
        left = self._look.px(46)
        wide, high = self.width() - left - self._look.px(14), self.height() - self._look.px(44)
        return Plot(QRectF(left, self._look.px(22), wide, high), ACROSS, UP)

    def read(self, value: float) -> str:
        """Both curves there, the ghost by its name."""
        said = [_level(value, *self.curve_db())]
        ghost = self._model.ghost
        if ghost is not None and (other := _level(value, *_curve(ghost))):
            said.append(f"{ghost.solution.compiled.variant.name} {other}")
        if not said[0]:
            return ""
        return f"{format_quantity(value, HERTZ, 2)}: {', '.join(said)}"

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Band, grid, ghost, curve, corners."""
        look, p = self._look, self._look.palette
        with painting(self) as painter:
            painter.fillRect(self.rect(), p.color("paper"))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(12, mono=True))
            plot = self.plot()
            box = plot.box
            assessment = self._model.assessment
            if _sounds(assessment) and assessment is not None:
                low, high = assessment.solution.compiled.chain.purpose_facts.band_hz
                band = QRectF(plot.x(low), box.top(), plot.x(high) - plot.x(low), box.height())
                painter.fillRect(band, p.color("aim", 0.10))
            plot.paint_up(painter, look, LEVELS_DB, lambda db: signed(db, 0) if db else "0")
            plot.paint_across(painter, look, DECADES, hz_text, self.width())
            painter.setFont(look.font(12))
            painter.setPen(p.color("soft"))
            top = QRectF(0, 0, self.width() - look.px(14), look.px(20))
            painter.drawText(top.adjusted(look.px(8), 0, 0, 0), "dB re 1 kHz")
            painter.drawText(top, RIGHT, "Hz, from the air to the radio")
            plot.clip(painter)
            self._paint_curves(painter, plot)
            painter.setClipping(False)
            self._paint_corners(painter, plot)
            self.paint_read(painter)

    def _paint_curves(self, painter: QPainter, plot: Plot) -> None:
        p = self._look.palette
        painter.setPen(QPen(p.color("soft"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(plot.at(ACROSS.low, HALF_POWER_DB), plot.at(ACROSS.high, HALF_POWER_DB))
        ghost, curve = _curve(self._model.ghost), self.curve_db()
        if ghost[0].size:
            painter.setPen(QPen(p.color("ink"), 1.3, Qt.PenStyle.DashLine))
            painter.drawPolyline(plot.line(*ghost))
        if curve[0].size:
            painter.setPen(QPen(p.color("signal"), 3))
            painter.drawPolyline(plot.line(*curve))

    def _paint_corners(self, painter: QPainter, plot: Plot) -> None:
        """Where it is half the power, at both ends; each says its frequency, inside the frame."""
        look, p = self._look, self._look.palette
        painter.setFont(look.font(13, 600))
        for corner, beside in zip(self._corners(), (1, -1), strict=True):
            if corner is None or not ACROSS.low <= corner <= ACROSS.high:
                continue
            painter.setPen(QPen(p.color("stop"), 1.4, Qt.PenStyle.DashLine))
            painter.drawLine(plot.at(corner, UP.low), plot.at(corner, UP.high))
            said = f"−3 dB at {format_quantity(corner, HERTZ, 2)}"
            width = painter.fontMetrics().horizontalAdvance(said)
            at = plot.x(corner)
            left = at + 5 if beside > 0 else at - 5 - width
            if left < plot.box.left() or left + width > plot.box.right():
                left = at - 5 - width if beside > 0 else at + 5
            area = QRectF(left, plot.box.bottom() - look.px(20), width, look.px(18))
            painter.fillRect(area, p.color("paper", 0.8))
            painter.setPen(p.color("ink"))
            painter.drawText(area, int(Qt.AlignmentFlag.AlignCenter), said)


def _sounds(assessment: Assessment | None) -> bool:
    return assessment is not None and assessment.rows[-1].speech_dbu > SILENT_DBU


def _curve(assessment: Assessment | None) -> tuple[Floats, Floats]:
    if assessment is None or not _sounds(assessment):
        return np.empty(0), np.empty(0)
    f_hz = assessment.solution.f_hz
    return f_hz, relative_db(f_hz, assessment.solution.gain_db())


def _level(at_hz: float, f_hz: Floats, gain_db: Floats) -> str:
    """What a curve has there; empty where it has none."""
    # the ends of a grid of logarithms are round to a few digits only
    if not f_hz.size or not 0.999 * f_hz[0] <= at_hz <= 1.001 * f_hz[-1]:
        return ""
    return f"{signed(float(np.interp(np.log(at_hz), np.log(f_hz), gain_db)), 1)} dB"


def relative_db(f_hz: Floats, gain_db: Floats) -> Floats:
    """Gain re its value at 1 kHz."""
    relative: Floats = gain_db - gain_db[int(np.argmin(np.abs(f_hz - 1000.0)))]
    return relative


def _spoken(corners: tuple[float | None, float | None]) -> str:
    low, high = (format_quantity(c, HERTZ, 2) if c else "beyond the plot" for c in corners)
    return f"−3 dB corners: low {low}, high {high}"
