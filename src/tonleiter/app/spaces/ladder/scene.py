"""The ladder's geometry: where levels and stages are drawn, and what fits there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF
from PySide6.QtGui import QFontMetricsF

from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.solve.levels import SILENT_DBU, StageLevels

# below this height the legend and a line of figures give way to the plot
LOW_PX = 330
FOOT_PX, LOW_FOOT_PX = 86, 46
# so much of the plot at least, whatever else gives way
LEAST_PLOT_PX = 90


# between two figures of the scale, in dB
STEPS_DB = (20, 40, 60, 120)


def scale_step_db(db_per_px: float, text_px: float) -> int:
    """As many figures beside the plot as have room over one another."""
    return next((s for s in STEPS_DB if s / db_per_px >= text_px), STEPS_DB[-1])


@dataclass(frozen=True)
class Frame:
    """Where things are drawn: the plot between the rails, and the columns in it.

    In a ``low`` one two lines stand under a column, and no legend.
    """

    plot: QRectF
    columns: int
    top_dbu: float
    bottom_dbu: float
    low: bool = False

    def x(self, column: int) -> float:
        """Left edge of a column."""
        return self.plot.left() + self.plot.width() * column / self.columns

    def y(self, dbu: float) -> float:
        """Height of a level, kept inside the plot."""
        return self.plot.bottom() - self.plot.height() * self.axis.held(dbu)

    @property
    def axis(self) -> Axis:
        """Levels, upwards."""
        return Axis(self.bottom_dbu, self.top_dbu)

    @property
    def ease(self) -> float:
        """How far from a column's edge a line leaves its level."""
        return min(13.0, self.plot.width() / self.columns * 0.16)

    @property
    def db_per_px(self) -> float:
        """How many decibels a pixel of height stands for."""
        return (self.top_dbu - self.bottom_dbu) / max(1.0, self.plot.height())


def framed(look: Look, width: float, height: float, assessment: Assessment | None) -> Frame:
    """The layout in a widget of that size; shared by painting and the mouse."""
    metrics = QFontMetricsF(look.font(12, mono=True))
    left = metrics.horizontalAdvance("−120") + 26
    right = metrics.horizontalAdvance("0.775 mV") + 22
    low = height < look.px(LOW_PX)
    top, bottom = look.px(54), look.px(LOW_FOOT_PX if low else FOOT_PX)
    plot = QRectF(left, top, width - left - right, max(height - top - bottom, 1.0))
    rows = assessment.rows if assessment else ()
    return Frame(plot, len(rows) + 1, *span(rows), low)


def cm(distance_mm: float) -> str:
    """A distance as people say it."""
    return f"{distance_mm / 10:g} cm"


def span(rows: Sequence[StageLevels]) -> tuple[float, float]:
    """Level range of the plot: wide enough for everything, in steps of 10 dB."""
    tops = [r.peak_dbu for r in rows if r.speech_dbu > SILENT_DBU]
    tops += [r.clips_at_dbu for r in rows if r.clips_at_dbu is not None]
    lows = [r.noise_dbu for r in rows if r.speech_dbu > SILENT_DBU]
    top = max([*tops, 4.0]) + 6
    bottom = min([*lows, -100.0]) - 8
    return math.ceil(top / 10) * 10, math.floor(max(bottom, -170.0) / 10) * 10


def worst_by_stage(findings: Sequence[Finding]) -> dict[str, Finding]:
    """The gravest finding of each stage; findings come gravest first."""
    worst: dict[str, Finding] = {}
    for finding in findings:
        worst.setdefault(finding.stage, finding)
    return worst
