"""Frequency response of the chain from the air to the radio, with its corners and the ghost."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QVBoxLayout, QWidget

from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.theme.look import Look
from tonleiter.core.circuit.ac import Floats
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.units.quantity import HERTZ, format_quantity

DECADES = (20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000)
LOWEST_DB, HIGHEST_DB = -24.0, 9.0


class ResponseView(QWidget):
    """Gain re 1 kHz against frequency; the purpose's band is shaded."""

    def __init__(self, model: LadderModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self.setAccessibleName("Frequency response")
        self._plot = pg.PlotWidget()
        self._plot.setMenuEnabled(False)
        self._plot.setMouseEnabled(False, False)
        self._plot.hideButtons()
        self._plot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(8, 0, 8, 4)
        outer.addWidget(self._plot)
        self._region = pg.LinearRegionItem(movable=False)
        self._ghost = pg.PlotDataItem()
        self._ghost_drawn: Assessment | None = None
        self._curve = pg.PlotDataItem()
        self._limit = pg.InfiniteLine(angle=0, pos=-3.0103)
        self._corners = [pg.InfiniteLine(angle=90) for _ in range(2)]
        self._labels = [pg.TextItem(anchor=anchor) for anchor in ((0, 1), (1, 1))]
        for item in (
            self._region,
            self._limit,
            self._ghost,
            self._curve,
            *self._corners,
            *self._labels,
        ):
            self._plot.addItem(item)
        model.changed.connect(self.refresh)
        look.changed.connect(self._restyle)
        self._plot.setXRange(np.log10(20), np.log10(20_000), padding=0.01)
        self._plot.setYRange(LOWEST_DB, HIGHEST_DB, padding=0)
        self._restyle()

    def _restyle(self) -> None:
        p, look = self._look.palette, self._look
        self._plot.setBackground(QColor(p.paper))
        ink, soft = QColor(p.ink), QColor(p.soft)
        item = self._plot.getPlotItem()
        for side in ("left", "bottom"):
            axis = item.getAxis(side)
            axis.setPen(pg.mkPen(p.line))
            axis.setTextPen(soft)
            axis.setStyle(tickFont=look.font(12, mono=True))
        item.getAxis("bottom").setTicks([[(np.log10(f), _tick(f)) for f in DECADES]])
        item.getAxis("left").setTicks(
            [[(d, f"{d:+d}".replace("-", "−") if d else "0") for d in (-18, -12, -6, 0, 6)]]
        )
        item.setLabel("left", "dB re 1 kHz", color=p.soft)
        item.setLabel("bottom", "Hz, from the air to the radio", color=p.soft)
        item.showGrid(x=True, y=True, alpha=0.15)
        self._curve.setPen(pg.mkPen(p.signal, width=3))
        self._ghost.setPen(pg.mkPen(ink, width=1.3, style=Qt.PenStyle.DashLine))
        self._limit.setPen(pg.mkPen(soft, width=1, style=Qt.PenStyle.DotLine))
        self._region.setBrush(p.color("aim", 0.10))
        for line in self._region.lines:
            line.setPen(pg.mkPen(p.color("aim", 0.6)))
        for line, label in zip(self._corners, self._labels, strict=True):
            line.setPen(pg.mkPen(p.stop, width=1.4, style=Qt.PenStyle.DashLine))
            label.setColor(ink)
            label.setFont(look.font(13, 600))
        self.refresh()

    def refresh(self) -> None:
        """Draw the present response."""
        assessment = self._model.assessment
        if self.isHidden():
            return
        self._draw(self._curve, assessment)
        if self._ghost_drawn is not self._model.ghost:
            self._draw(self._ghost, self._model.ghost)
            self._ghost_drawn = self._model.ghost
        corners: tuple[float | None, float | None] = (None, None)
        if assessment is not None and assessment.rows[-1].speech_dbu > SILENT_DBU:
            corners = assessment.corners_hz
            low, high = assessment.solution.compiled.chain.purpose_facts.band_hz
            self._region.setRegion((np.log10(low), np.log10(high)))
        for line, label, corner in zip(self._corners, self._labels, corners, strict=True):
            line.setVisible(corner is not None)
            label.setVisible(corner is not None)
            if corner is not None:
                line.setValue(np.log10(corner))
                label.setText(f"−3 dB at {format_quantity(corner, HERTZ, 2)}")
                label.setPos(np.log10(corner), LOWEST_DB)
        self.setAccessibleDescription(_spoken(corners))

    def _draw(self, item: pg.PlotDataItem, assessment: Assessment | None) -> None:
        if assessment is None or assessment.rows[-1].speech_dbu < SILENT_DBU:
            item.setData([], [])
            return
        f_hz = assessment.solution.f_hz
        item.setData(np.log10(f_hz), relative_db(f_hz, assessment.solution.gain_db()))

    def curve_db(self) -> tuple[Floats, Floats]:
        """Frequencies and gain re 1 kHz as drawn."""
        x, y = self._curve.getData()
        return 10 ** np.asarray(x), np.asarray(y)


def _tick(f_hz: float) -> str:
    return f"{f_hz // 1000}k" if f_hz >= 1000 else str(f_hz)


def relative_db(f_hz: Floats, gain_db: Floats) -> Floats:
    """Gain re its value at 1 kHz."""
    relative: Floats = gain_db - gain_db[int(np.argmin(np.abs(f_hz - 1000.0)))]
    return relative


def _spoken(corners: tuple[float | None, float | None]) -> str:
    low, high = (format_quantity(c, HERTZ, 2) if c else "beyond the plot" for c in corners)
    return f"−3 dB corners: low {low}, high {high}"
