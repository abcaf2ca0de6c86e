"""A recording over time, in one of three pictures: its wave, its level, its spectrum.

The wheel zooms at the hand, with Shift it moves on; a press plays from there.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.listen.slots import Taken
from tonleiter.app.theme.look import Look
from tonleiter.core.signal.arrays import Floats, Small

Pictured = Literal["wave", "level", "spectrum"]
LEAST_PX, HEAD_PX = 84, 16
# a notch of the wheel zooms by so much, and moves by this share; no further in than this
ZOOM, MOVES, LEAST_S = 1.25, 0.1, 0.5
# a level is of so many seconds, and drawn down to so much under the speech level
LEVEL_S, FOOT_DB, OVER_DB = 0.1, -60.0, 20.0
# a spectrum's darkest lies so far under its lightest
DEEP_DB = 55.0


class OverTime(QWidget):
    """One recording, in the side's colour, with clicks, pops and gaps marked."""

    pressed = Signal(float)

    def __init__(self, look: Look, colour: str) -> None:
        super().__init__()
        self._look, self._colour = look, colour
        self._taken: Taken | None = None
        self._pictured: Pictured = "wave"
        self._seen: tuple[float, float] = (0.0, 1.0)
        self._at_s: float | None = None
        self._image: tuple[object, QImage] | None = None
        self.setMinimumHeight(look.px(LEAST_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(self._look.px(400), self._look.px(LEAST_PX))

    def show_taken(self, taken: Taken | None, name: str) -> None:
        """Another recording, whole."""
        if taken is not self._taken:
            self._taken, self._image = taken, None
            self._seen = (0.0, taken.measures.survey.seconds if taken is not None else 1.0)
        self.setAccessibleName(f"Picture of {name} over time")
        self._describe()
        self.update()

    def show_as(self, pictured: Pictured) -> None:
        """Another picture of it."""
        self._pictured = pictured
        self.update()

    def show_at(self, at_s: float | None) -> None:
        """Where it plays now."""
        if at_s != self._at_s:
            self._at_s = at_s
            self.update()

    @property
    def seen(self) -> tuple[float, float]:
        """From when to when, in seconds."""
        return self._seen

    def _describe(self) -> None:
        if self._taken is None:
            self.setAccessibleDescription("nothing yet: choose a recording above")
            return
        events = ", ".join(f"{e.kind} at {e.at_s:.1f} s" for e in self._taken.measures.events[:8])
        low, high = self._seen
        self.setAccessibleDescription(f"{low:.1f} to {high:.1f} s; {events or 'nothing marked'}")

    # --- moving ----------------------------------------------------------------------------------

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom at the hand, or move on."""
        notches = (event.angleDelta().y() or event.angleDelta().x()) / 120
        if self._taken is None or not notches:
            event.ignore()
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            self.move_on(-MOVES * notches)
        else:
            self.zoom(ZOOM**notches, event.position().x() / max(self.width(), 1))
        event.accept()

    def zoom(self, by: float, at: float) -> None:
        """Show so much less of it, what lies at a share of the width staying there."""
        low, high = self._seen
        whole = self._taken.measures.survey.seconds if self._taken is not None else 1.0
        long = min(max((high - low) / by, min(LEAST_S, whole)), whole)
        held = low + at * (high - low)
        self._show(held - at * long, long, whole)

    def move_on(self, share: float) -> None:
        """Move by a share of what is seen."""
        low, high = self._seen
        whole = self._taken.measures.survey.seconds if self._taken is not None else 1.0
        self._show(low + share * (high - low), high - low, whole)

    def _show(self, low: float, long: float, whole: float) -> None:
        low = min(max(low, 0.0), whole - long)
        self._seen = (low, low + long)
        self._describe()
        self.update()

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """From there on."""
        if self._taken is not None and event.button() == Qt.MouseButton.LeftButton:
            share = event.position().x() / max(self.width(), 1)
            low, high = self._seen
            self.pressed.emit(low + share * (high - low))

    # --- painting --------------------------------------------------------------------------------

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The picture, markers, where it plays, from when to when."""
        taken, look, p = self._taken, self._look, self._look.palette
        if taken is None:
            return
        box = QRectF(0, look.px(HEAD_PX), self.width(), self.height() - look.px(HEAD_PX))
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.save()
            painter.setClipRect(box)
            if self._pictured == "spectrum":
                self._spectrum(painter, box, taken)
            elif self._pictured == "level":
                self._level(painter, box, taken)
            else:
                self._wave(painter, box, taken)
            painter.restore()
            self._marks(painter, box, taken)
            if self._at_s is not None:
                x = self._x(self._at_s, box)
                painter.setPen(QPen(p.color("ink"), 1.6))
                painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            low, high = self._seen
            if high - low < 0.999 * taken.measures.survey.seconds:
                painter.setFont(look.font(12, 400))
                painter.setPen(p.color("soft"))
                text = f"{low:.1f} to {high:.1f} s"
                painter.drawText(
                    QRectF(0, 0, self.width() - 2, look.px(HEAD_PX)),
                    Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                    text,
                )

    def _x(self, at_s: float, box: QRectF) -> float:
        low, high = self._seen
        return box.left() + (at_s - low) / max(high - low, 1e-6) * box.width()

    def _columns(self, values: Floats | Small, step_s: float) -> Floats:
        """What is seen of values over time, no more of them than there are pixels; by the most."""
        low, high = self._seen
        part = values[int(low / step_s) : max(int(np.ceil(high / step_s)), int(low / step_s) + 2)]
        width = max(part.size // max(self.width(), 2), 1)
        rows = part[: part.size // width * width].reshape(-1, width)
        made: Floats = rows.max(axis=1).astype(float)
        return made

    def _wave(self, painter: QPainter, box: QRectF, taken: Taken) -> None:
        survey = taken.measures.survey
        sizes = self._columns(survey.peaks, survey.step_s)
        top = max(float(survey.peaks.max(initial=0.0)), 1e-6)
        middle = box.center().y()
        xs = np.linspace(box.left(), box.right(), sizes.size)
        ys = sizes / top * (box.height() / 2 - 2)
        points = [QPointF(float(x), middle - float(y)) for x, y in zip(xs, ys, strict=True)]
        points += [
            QPointF(float(x), middle + float(y)) for x, y in zip(xs[::-1], ys[::-1], strict=True)
        ]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.palette.color(self._colour, 0.75))
        painter.drawPolygon(QPolygonF(points))

    def _level(self, painter: QPainter, box: QRectF, taken: Taken) -> None:
        """Tenths of seconds against the speech level; lines at that and at the noise."""
        look, p, m = self._look, self._look.palette, taken.measures
        survey = m.survey
        width = max(round(LEVEL_S / survey.step_s), 1)
        rows = survey.sizes[: survey.sizes.size // width * width].reshape(-1, width)
        levels = 20 * np.log10(np.maximum(rows.mean(axis=1), 1e-9)) + 2.0 - m.active.level_db
        seen = self._columns(levels, width * survey.step_s)
        painter.setFont(look.font(12, 400, mono=True))
        marks = [(0.0, "speech")]
        if m.over_noise.value is not None:
            marks.append((-m.over_noise.value, f"noise −{m.over_noise.value:.0f} dB"))
        for level, _ in marks:
            y = _y(level, box)
            painter.setPen(QPen(p.color("soft"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        xs = np.linspace(box.left(), box.right(), seen.size)
        line = [QPointF(float(x), _y(float(v), box)) for x, v in zip(xs, seen, strict=True)]
        painter.setPen(QPen(p.color(self._colour), 1.8))
        painter.drawPolyline(QPolygonF(line))
        for level, name in marks:
            self._named(painter, box, _y(level, box), name)

    def _spectrum(self, painter: QPainter, box: QRectF, taken: Taken) -> None:
        look, survey = self._look, taken.measures.survey
        image = self._image_of(taken)
        low, high = (s / survey.segment_s for s in self._seen)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(box, image, QRectF(low, 0, max(high - low, 1e-3), image.height()))
        painter.setFont(look.font(12, 400, mono=True))
        edges = np.log(survey.edges)
        for hertz in (200, 1000, 3000):
            share = (np.log(hertz) - edges[0]) / (edges[-1] - edges[0])
            if 0 < share < 1:
                self._named(painter, box, box.bottom() - share * box.height(), _khz(hertz))

    def _named(self, painter: QPainter, box: QRectF, y: float, text: str) -> None:
        """What lies at a height, on a plate so that it can be read on anything."""
        p, lines = self._look.palette, painter.fontMetrics()
        high = float(lines.height())
        top = min(max(y - high / 2, box.top()), box.bottom() - high)
        plate = QRectF(box.left(), top, lines.horizontalAdvance(text) + 6, high)
        painter.fillRect(plate, p.color("panel", 0.85))
        painter.setPen(p.color("soft"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, text)

    def _image_of(self, taken: Taken) -> QImage:
        """One column a segment, one row a band, the highest on top; made once."""
        p = self._look.palette
        key = (id(taken), p.name)
        if self._image is not None and self._image[0] == key:
            return self._image[1]
        wide = np.diff(taken.measures.survey.edges)
        power = taken.measures.survey.bands.astype(float) / wide
        # bands without a bin of their own take their neighbour's
        for k in range(1, power.shape[1]):
            if not power[:, k].any():
                power[:, k] = power[:, k - 1]
        db: Floats = 10 * np.log10(np.maximum(power, 1e-20))
        top = float(np.quantile(db, 0.995)) if db.size else 0.0
        share = np.clip((db - top) / DEEP_DB + 1.0, 0.0, 1.0)
        grey = np.ascontiguousarray((255 * share).astype(np.uint8).T[::-1])
        height, width = grey.shape
        image = QImage(
            grey.tobytes(), max(width, 1), height, max(width, 1), QImage.Format.Format_Indexed8
        ).copy()
        image.setColorTable(_table(p.color("panel"), p.color(self._colour), p.color("ink")))
        self._image = (key, image)
        return image

    def _marks(self, painter: QPainter, box: QRectF, taken: Taken) -> None:
        look, p = self._look, self._look.palette
        painter.setFont(look.font(12, 600))
        right = -1.0
        low, high = self._seen
        for e in taken.measures.events[:40]:
            if not low <= e.at_s <= high:
                continue
            x = self._x(e.at_s, box)
            painter.setPen(QPen(p.color("aim"), 1.6, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, box.top() - 2), QPointF(x, box.bottom()))
            width = painter.fontMetrics().horizontalAdvance(e.kind)
            if x > right and x + width < box.right():
                painter.setPen(p.color("aim_text"))
                painter.drawText(QPointF(x + 3, look.px(12)), e.kind)
                right = x + width + 6


def _y(level_db: float, box: QRectF) -> float:
    share = (level_db - FOOT_DB) / (OVER_DB - FOOT_DB)
    return box.bottom() - min(max(share, 0.0), 1.0) * box.height()


def _khz(hertz: int) -> str:
    return f"{hertz} Hz" if hertz < 1000 else f"{hertz / 1000:g} kHz"


def _table(foot: QColor, middle: QColor, top: QColor) -> list[int]:
    """256 colours, from what lies behind over the side's own to ink."""
    made = []
    for k in range(256):
        a, b, share = (foot, middle, k / 150) if k < 150 else (middle, top, (k - 150) / 105)
        mixed = [round(x + share * (y - x)) for x, y in zip(_rgb(a), _rgb(b), strict=True)]
        made.append(QColor(*mixed).rgb())
    return made


def _rgb(color: QColor) -> tuple[int, int, int]:
    return color.red(), color.green(), color.blue()
