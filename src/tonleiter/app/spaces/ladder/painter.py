"""What the ladder looks like: scale, ribbon, lines, limits, words."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QLinearGradient,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
)
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import painting
from tonleiter.app.spaces.ladder.legend import paint_legend
from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.spaces.ladder.scene import Frame, cm, scale_step_db, worst_by_stage
from tonleiter.app.spaces.no_chain import no_chain
from tonleiter.app.theme.look import Look
from tonleiter.app.theme.palette import SIGN
from tonleiter.app.widgets.canvas.bracket import paint_brackets
from tonleiter.app.widgets.canvas.steps import Column, ribbon, steps
from tonleiter.app.widgets.canvas.words import elided, wrapped
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.solve.levels import SILENT_DBU, StageLevels
from tonleiter.core.units.levels import Level, signed
from tonleiter.core.units.quantity import METRE, OHM, VOLT, format_quantity


class Canvas(QWidget):
    """What is painted on: the present layout, and the unit of the levels."""

    unit: str

    def frame(self) -> Frame:
        """The present layout."""
        raise NotImplementedError


class LadderPainter:
    """Paints a ladder view; keeps what stands still while a value moves."""

    def __init__(self, on: Canvas, model: LadderModel, look: Look) -> None:
        self._on, self._model, self._look = on, model, look
        self._still: QPixmap | None = None
        self._still_key: object = None

    def paint(self) -> None:
        """Paint everything; what stands still while a value moves is kept between paints."""
        with painting(self._on) as painter:
            painter.fillRect(self._on.rect(), self._look.palette.color("paper"))
            assessment = self._model.assessment
            if assessment is None:
                self._paint_empty(painter)
                return
            frame = self._on.frame()
            self._paint_selection(painter, frame)
            painter.drawPixmap(0, 0, self._still_picture(frame, assessment))
            shown = [r if r.speech_dbu > SILENT_DBU else None for r in assessment.rows]
            self._paint_ribbon(painter, frame, shown)
            for k, row in enumerate(assessment.rows):
                self._paint_limits(painter, frame, k + 1, row)
            self._paint_lines(painter, frame, shown)
            if assessment.voice.acoustic:
                self._paint_voice(painter, frame, assessment)
            self._paint_feet(painter, frame, assessment)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(self._look.palette.color("soft"))
        painter.setFont(self._look.font(15))
        text = self._model.trouble or no_chain("show")
        area = QRectF(self._on.rect()).adjusted(40, 0, -40, 0)
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)

    def _paint_selection(self, painter: QPainter, frame: Frame) -> None:
        p = self._look.palette
        column = self._model.selected + 1
        box = QRectF(
            frame.x(column) + 1, 3, frame.x(column + 1) - frame.x(column) - 2, self._words_bottom()
        )
        painter.setBrush(p.color("panel"))
        painter.setPen(QPen(p.color("aim"), 2.2 if self._on.hasFocus() else 1.4))
        painter.drawRoundedRect(box, 5, 5)

    def _words_bottom(self) -> float:
        return self._on.height() - (4 if self._on.frame().low else self._look.px(30))

    def _still_picture(self, frame: Frame, assessment: Assessment) -> QPixmap:
        """Scale, rails, names, ghost and legend on clear ground, painted anew when one changes."""
        ratio = self._on.devicePixelRatioF()
        heads = self._heads(assessment)
        hums = any(h is not None for h in self._hum(frame, assessment.rows))
        key = (
            frame,
            self._look.palette.name,
            self._look.scale,
            self._on.size(),
            ratio,
            hums,
            bool(self._model.bands),
            heads,
            [r.id for r in assessment.rows],
            id(self._model.ghost),
        )
        if self._still is None or self._still_key != key:
            picture = QPixmap(self._on.size() * ratio)
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            with painting(picture) as painter:
                self._paint_scale(painter, frame)
                self._paint_ghost(painter, frame, assessment)
                self._paint_rails(painter, frame)
                self._paint_heads(painter, frame, heads)
                if not frame.low:
                    size = self._on.size()
                    paint_legend(
                        painter, self._look, size.width(), size.height(), frame, self._legend(hums)
                    )
            self._still, self._still_key = picture, key
        return self._still

    def _paint_scale(self, painter: QPainter, frame: Frame) -> None:
        p, look = self._look.palette, self._look
        painter.setFont(look.font(12, mono=True))
        step = scale_step_db(frame.db_per_px, look.px(15))
        for dbu in frame.axis.multiples(step // 2):
            y = frame.y(dbu)
            major = dbu % step == 0
            painter.setPen(QPen(p.color("line", 1.0 if major else 0.55), 1))
            painter.drawLine(QPointF(frame.plot.left(), y), QPointF(frame.plot.right(), y))
            if not major:
                continue
            painter.setPen(p.color("soft"))
            left = QRectF(0, y - 10, frame.plot.left() - 8, 20)
            right = QRectF(
                frame.plot.right() + 8, y - 10, self._on.width() - frame.plot.right() - 8, 20
            )
            align = Qt.AlignmentFlag.AlignVCenter
            painter.drawText(left, align | Qt.AlignmentFlag.AlignRight, signed(dbu, 0, plus=True))
            volts = format_quantity(Level.from_dbu(dbu).volts_rms, VOLT, 3)
            painter.drawText(right, align | Qt.AlignmentFlag.AlignLeft, volts)
        painter.setPen(p.color("soft"))
        painter.setFont(look.font(12, 600))
        head = frame.plot.top() - look.px(22)
        align = Qt.AlignmentFlag.AlignVCenter
        box = QRectF(0, head, frame.plot.left() - 8, look.px(18))
        painter.drawText(box, align | Qt.AlignmentFlag.AlignRight, "dBu")
        painter.drawText(QPointF(frame.plot.right() + 8, head + look.px(14)), "RMS")

    def _paint_rails(self, painter: QPainter, frame: Frame) -> None:
        painter.setPen(
            QPen(self._look.palette.color("ink"), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        )
        for x in (frame.plot.left(), frame.plot.right()):
            painter.drawLine(QPointF(x, frame.plot.top() - 6), QPointF(x, frame.plot.bottom() + 6))

    def _columns(self, frame: Frame, levels: Sequence[float | None]) -> list[Column]:
        return [
            Column(frame.x(k + 1), frame.x(k + 2), frame.y(level))
            for k, level in enumerate(levels)
            if level is not None
        ]

    def _curve(self, frame: Frame, levels: Sequence[float | None]) -> QPainterPath:
        """Plateaus in the columns, joined across their boundaries."""
        return steps(self._columns(frame, levels), frame.ease)

    def _paint_ribbon(
        self, painter: QPainter, frame: Frame, rows: Sequence[StageLevels | None]
    ) -> None:
        peaks = self._columns(frame, [r.peak_dbu if r else None for r in rows])
        noise = self._columns(frame, [r.noise_dbu if r else None for r in rows])
        if not peaks:
            return
        outline = ribbon(peaks, noise, frame.ease)
        bounds = outline.boundingRect()
        fill = QLinearGradient(0, bounds.top(), 0, bounds.bottom())
        signal = self._look.palette
        for at, alpha in ((0.0, 0.62), (0.35, 0.40), (0.75, 0.20), (1.0, 0.07)):
            fill.setColorAt(at, signal.color("signal", alpha))
        painter.fillPath(outline, fill)

    def _paint_lines(
        self, painter: QPainter, frame: Frame, rows: Sequence[StageLevels | None]
    ) -> None:
        p = self._look.palette
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(p.color("soft"), 1.2))
        painter.drawPath(self._curve(frame, [r.noise_dbu if r else None for r in rows]))
        painter.setPen(QPen(p.color("mind"), 1.6, Qt.PenStyle.DashDotLine))
        painter.drawPath(self._curve(frame, self._hum(frame, rows)))
        painter.setPen(QPen(p.color("signal"), 1.6, Qt.PenStyle.DotLine))
        painter.drawPath(self._curve(frame, [r.peak_dbu if r else None for r in rows]))
        self._paint_band(painter, frame, rows)
        painter.setPen(QPen(p.color("signal"), 3.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawPath(self._curve(frame, [r.speech_dbu if r else None for r in rows]))

    def _paint_band(
        self, painter: QPainter, frame: Frame, rows: Sequence[StageLevels | None]
    ) -> None:
        """Where speech may lie, by the ranges of the figures behind it."""
        bands = self._model.bands
        if not bands:
            return
        known = [(r, bands.get(r.id, (0.0, 0.0))) if r else None for r in rows]
        high = self._columns(frame, [k and k[0].speech_dbu + k[1][1] for k in known])
        low = self._columns(frame, [k and k[0].speech_dbu - k[1][0] for k in known])
        outline = ribbon(high, low, frame.ease)
        painter.fillPath(outline, self._look.palette.color("aim", 0.42))

    def _hum(self, frame: Frame, rows: Sequence[StageLevels | None]) -> list[float | None]:
        """Hum levels that lie on the plot; what is far below it would only crawl along the foot."""
        levels = [r.hum_dbu if r else None for r in rows]
        return [h if h is not None and h > frame.bottom_dbu else None for h in levels]

    def _paint_ghost(self, painter: QPainter, frame: Frame, shown: Assessment) -> None:
        ghost = self._model.ghost
        if ghost is None:
            return
        by_id = {row.id: row for row in ghost.rows if row.speech_dbu > SILENT_DBU}
        levels = [by_id[r.id].speech_dbu if r.id in by_id else None for r in shown.rows]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._look.palette.color("ink", 0.75), 1.3, Qt.PenStyle.DashLine))
        painter.drawPath(self._curve(frame, levels))

    def _paint_limits(self, painter: QPainter, frame: Frame, column: int, row: StageLevels) -> None:
        p = self._look.palette
        left, right = frame.x(column) + 7, frame.x(column + 1) - 7
        if row.clips_at_dbu is not None and row.clips_at_dbu < frame.top_dbu + 20:
            y = frame.y(row.clips_at_dbu)
            painter.setPen(QPen(p.color("stop", 0.6), 1))
            x = left
            while x < right - 4:
                painter.drawLine(QPointF(x, y - 1), QPointF(x + 5, y - 7))
                x += 7
            painter.setPen(QPen(p.color("stop"), 1.8))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
        if row.window is not None:
            top, bottom = frame.y(row.window.high_dbu), frame.y(row.window.low_dbu)
            box = QRectF(left - 3, top, right - left + 6, bottom - top)
            paint_brackets(painter, self._look, box, 6, 2.2)

    def _paint_voice(self, painter: QPainter, frame: Frame, assessment: Assessment) -> None:
        """Sound spreading from the lips to the capsule, with the distance between them."""
        p, look = self._look.palette, self._look
        left, right = frame.x(0), frame.x(1)
        mic = assessment.rows[0]
        middle = frame.y(mic.speech_dbu if mic.speech_dbu > SILENT_DBU else -55.0)
        lips = QPointF(left + 14, middle)
        reach = right - left - 26
        distance = assessment.voice.distance_mm
        arcs = max(2, min(7, round(math.sqrt(distance) / 1.6)))
        for k in range(1, arcs + 1):
            radius = reach * k / (arcs + 0.4)
            painter.setPen(QPen(p.color("signal", 0.95 - 0.7 * k / arcs), 2.4 - 1.4 * k / arcs))
            box = QRectF(lips.x() - radius, lips.y() - radius, 2 * radius, 2 * radius)
            painter.drawArc(box, -32 * 16, 64 * 16)
        y = _ruler_y(frame.plot, middle, reach, look.px(22))
        painter.setPen(QPen(p.color("soft"), 1))
        painter.drawLine(QPointF(lips.x(), y), QPointF(right - 8, y))
        for x in (lips.x(), right - 8):
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.setFont(look.font(12, mono=True))
        painter.setPen(p.color("ink"))
        text = format_quantity(distance / 1000, METRE, 2) if distance >= 1000 else cm(distance)
        box = QRectF(lips.x(), y + 2, right - 8 - lips.x(), look.px(18))
        if y < middle:
            # where there is no room under the sound it would be written across it
            wide = painter.fontMetrics().horizontalAdvance(text) + 8
            painter.fillRect(
                QRectF(box.center().x() - wide / 2, y + 4, wide, look.px(14)), p.color("paper")
            )
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        painter.setBrush(p.color("signal"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(lips, 4.5, 4.5)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _heads(self, assessment: Assessment) -> list[tuple[str, str]]:
        """Name and gravest severity of each column, the voice first."""
        worst = worst_by_stage(assessment.findings)
        heads = [("Voice" if assessment.voice.acoustic else "", "")]
        for row in assessment.rows:
            finding = worst.get(row.id)
            heads.append((row.name, finding.severity if finding else ""))
        return heads

    def _paint_heads(
        self, painter: QPainter, frame: Frame, heads: Sequence[tuple[str, str]]
    ) -> None:
        for column, (name, severity) in enumerate(heads):
            width = frame.x(column + 1) - frame.x(column) - 8
            box = QRectF(frame.x(column) + 4, 8, width, self._look.px(36))
            self._paint_head(painter, box, name, severity)

    def _paint_feet(self, painter: QPainter, frame: Frame, assessment: Assessment) -> None:
        voice = assessment.voice
        level, room = f"{voice.speech_db_spl:.0f} dB SPL", f"room {voice.room_dba:.0f} dBA"
        if voice.acoustic:
            self._paint_foot(painter, frame, 0, level, room, "soft")
        last = len(assessment.rows) - 1
        for k, row in enumerate(assessment.rows):
            lead = self._lead(row, k, last)
            level = self._level_text(row)
            tone = "soft"
            if row.headroom_db is not None and row.headroom_db < 3:
                tone = "stop"
            self._paint_foot(painter, frame, k + 1, lead, level, tone)

    def _paint_head(self, painter: QPainter, box: QRectF, name: str, severity: str) -> None:
        p, look = self._look.palette, self._look
        painter.setFont(look.font(13, 600))
        lines = wrapped(name, QFontMetricsF(painter.font()), box.width(), 2)
        height = look.px(17)
        y = box.bottom() - height * len(lines)
        for line in lines:
            painter.setPen(p.color("ink"))
            painter.drawText(
                QRectF(box.left(), y, box.width(), height), Qt.AlignmentFlag.AlignCenter, line
            )
            y += height
        if severity in ("stop", "mind"):
            painter.setFont(look.font(12))
            painter.setPen(QColor(p.severity(severity)))
            corner = QRectF(box.right() - 12, box.top() - 5, 14, 14)
            painter.drawText(corner, Qt.AlignmentFlag.AlignCenter, SIGN[severity])

    def _lead(self, row: StageLevels, k: int, last: int) -> str:
        if k == 0:
            return f"{format_quantity(row.z_source_ohm, OHM, 2)} out"
        if k == last and row.window is not None:
            return f"wants {signed(row.window.middle_dbu, 0)} dBu"
        return f"{signed(row.gain_db or 0.0, 1, plus=True)} dB"

    def _level_text(self, row: StageLevels) -> str:
        """The stage's speech level in the chosen unit, or how far its peaks are clear."""
        if row.speech_dbu < SILENT_DBU:
            return "silent"
        if self._on.unit != "dBu":
            level = Level.from_dbu(row.speech_dbu)
            if self._on.unit == "dBV":
                return f"{signed(level.dbv)} dBV"
            volts = level.volts_rms if self._on.unit == "V RMS" else level.volts_pp
            return f"{format_quantity(volts, VOLT, 3)}{'' if self._on.unit == 'V RMS' else ' p-p'}"
        return f"{signed(row.speech_dbu)} dBu"

    def _paint_foot(
        self, painter: QPainter, frame: Frame, column: int, lead: str, second: str, tone: str
    ) -> None:
        p, look = self._look.palette, self._look
        width = frame.x(column + 1) - frame.x(column)
        y = frame.plot.bottom() + look.px(4 if frame.low else 10)
        assessment = self._model.assessment
        third = ""
        if assessment is not None and column > 0:
            row = assessment.rows[column - 1]
            if row.headroom_db is not None and row.speech_dbu > SILENT_DBU:
                clear = row.headroom_db
                third = f"{clear:.0f} dB clear" if clear >= 0 else f"{-clear:.0f} dB over"
        lines = [(lead, 13, 700, "ink"), (second, 12, 400, "ink")]
        if not frame.low:
            lines.append((third, 12, 400, tone))
        for text, size, weight, color in lines:
            painter.setFont(look.font(size, weight))
            painter.setPen(p.color(color))
            box = QRectF(frame.x(column), y, width, look.px(16))
            metrics = QFontMetricsF(painter.font())
            if metrics.horizontalAdvance(text) > width - 2:
                # rather the figure without its unit than half of both: the scale has the unit
                text = text.removesuffix(" dBu").removesuffix(" dB")
            shown = elided(text, metrics, width - 2)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, shown)
            y += look.px(16)

    def _legend(self, hums: bool) -> list[tuple[str, str]]:
        """What the legend explains: only what is there."""
        items = [("speech", "speech"), ("peaks", "peaks"), ("noise", "noise")]
        if hums:
            items.append(("hum", "hum"))
        if self._model.bands:
            items.append(("band", "may lie"))
        items += [("ceiling", "ceiling"), ("window", "works best here")]
        if self._model.ghost is not None:
            items.append(("ghost", f"ghost: {self._model.ghost.solution.compiled.variant.name}"))
        return items


def _ruler_y(plot: QRectF, middle: float, reach: float, high: float) -> float:
    """Where the distance is drawn: under the sound, else over it, but never over the names."""
    under, over = middle + reach * 0.62 + 14, middle - reach * 0.62 - high - 2
    return under if under + high <= plot.bottom() else max(over, plot.top())
