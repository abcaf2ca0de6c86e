"""A knob: an arc to where it stands, a bracket where it should stand; dragged, wheeled, typed."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from tonleiter.app.drafts import Drafts
from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.words import broken
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.guide.controls import Control, read_knob

WIDE_PX, HIGH_PX, ARC_PX = 86, 128, 29
# the knob goes round from the lower left to the lower right
FROM_DEG, SWEEP_DEG = 225.0, 270.0
# so many pixels of drag are the whole way
DRAG_PX = 180.0
REST_MS = 450


class Dial(QWidget):
    """``turned`` while it moves, ``rested`` when the hand lets go."""

    turned = Signal(str, float)
    rested = Signal()

    def __init__(self, look: Look, control: Control, drafts: Drafts) -> None:
        super().__init__()
        self._look, self.control, self._drafts = look, control, drafts
        self._move, self._now = "", False
        self._pressed: tuple[float, float] | None = None
        self._field: TextField | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeVerCursor)
        self.setFixedSize(look.px(WIDE_PX), look.px(HIGH_PX))
        self.show_control(control, "", now=False)

    def show_control(self, control: Control, move: str, now: bool) -> None:
        """Where it stands and should stand; ``move`` in words; whether the guide is at it."""
        self.control, self._move, self._now = control, move, now
        self.setAccessibleName(control.title)
        aim = control.bracket
        wanted = (
            "" if aim is None else f"; should be {control.said(aim[0])} to {control.said(aim[1])}"
        )
        self.setAccessibleDescription(f"{control.said()}{wanted}")
        self.setToolTip(f"{control.title}: {control.said()}{wanted}")
        self.update()

    @guarded
    def sizeHint(self) -> QSize:
        """Its size."""
        return QSize(self._look.px(WIDE_PX), self._look.px(HIGH_PX))

    # --- hands -----------------------------------------------------------------------------------

    def _set(self, value: float) -> None:
        c = self.control
        value = min(max(round(value / c.step) * c.step, c.low), c.high)
        if value != c.value:
            self.turned.emit(c.id, value)

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position().y() - event.position().x(), self.control.value

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Up and right turns it up; with Shift ten times as fine."""
        if self._pressed is None:
            return
        began, value = self._pressed
        moved = began - (event.position().y() - event.position().x())
        fine = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        self._set(value + fine * moved * self._per_px())

    def _per_px(self) -> float:
        """How much a pixel of the way turns it."""
        return (self.control.high - self.control.low) / DRAG_PX

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        if self._pressed is not None:
            self._pressed = None
            self.rested.emit()

    @guarded
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Type a figure."""
        self.type_in()

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        """A notch is a step, where it has the keyboard; else the page scrolls."""
        if not self.hasFocus():
            event.ignore()
            return
        notches = event.angleDelta().y() / 120
        self._nudge(notches)
        event.accept()

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows by a step, Page by ten, Home and End to the ends, Enter types."""
        c = self.control
        match event.key():
            case Qt.Key.Key_Up | Qt.Key.Key_Right:
                self._nudge(1)
            case Qt.Key.Key_Down | Qt.Key.Key_Left:
                self._nudge(-1)
            case Qt.Key.Key_PageUp:
                self._nudge(10)
            case Qt.Key.Key_PageDown:
                self._nudge(-10)
            case Qt.Key.Key_Home:
                self._set(c.low)
                self.rested.emit()
            case Qt.Key.Key_End:
                self._set(c.high)
                self.rested.emit()
            case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self.type_in()
            case _:
                super().keyPressEvent(event)

    def _nudge(self, steps: float) -> None:
        self._set(self.control.value + steps * self.control.step)
        self.rested.emit()

    def type_in(self) -> None:
        """Open a field over the figure."""
        if self._field is not None:
            return
        c = self.control
        field = TextField(c.said().removesuffix(c.unit).strip(), f"{c.title}, figure")
        field.setParent(self)
        look = self._look
        field.setGeometry(4, look.px(34), self.width() - 8, look.px(30))
        field.accepted.connect(self._typed)
        field.show()
        field.selectAll()
        field.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self._field = field

    def _typed(self, text: str) -> None:
        field = self._field
        if field is None:
            return
        why = field.offer(lambda: self._take(text))
        if why:
            field.setToolTip(why)
            self.setToolTip(why)
            return
        self._field = None
        field.hide()
        field.deleteLater()
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def _take(self, text: str) -> None:
        self.turned.emit(self.control.id, read_knob(text, self.control))
        self.rested.emit()

    @guarded
    def focusInEvent(self, event: QFocusEvent) -> None:
        """Focus is seen."""
        super().focusInEvent(event)
        self.update()

    @guarded
    def focusOutEvent(self, event: QFocusEvent) -> None:
        """And that it went."""
        super().focusOutEvent(event)
        self.update()

    # --- painting --------------------------------------------------------------------------------

    def _angle(self, value: float) -> float:
        c = self.control
        share = (value - c.low) / (c.high - c.low)
        return FROM_DEG - SWEEP_DEG * min(max(share, 0.0), 1.0)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Arc, bracket, pointer, figure, name, what to do."""
        look, p, c = self._look, self._look.palette, self.control
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            frame = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
            if self._now or self.hasFocus():
                painter.setPen(QPen(p.color("aim" if self._now else "signal"), 2))
                painter.setBrush(p.color("field"))
                painter.drawRoundedRect(frame, 8, 8)
            center = QPointF(self.width() / 2, look.px(42))
            r = float(look.px(ARC_PX))
            box = QRectF(center.x() - r, center.y() - r, 2 * r, 2 * r)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for name, ends in (("line", (c.low, c.high)), ("signal", self._lit())):
                pen = QPen(p.color(name), look.px(6))
                pen.setCapStyle(Qt.PenCapStyle.FlatCap)
                painter.setPen(pen)
                start, stop = self._angle(ends[0]), self._angle(ends[1])
                painter.drawArc(box, round(16 * start), round(16 * (stop - start)))
            if c.bracket is not None:
                self._bracket(painter, center, r + look.px(8), c.bracket)
            turn = math.radians(self._angle(c.value))
            painter.setPen(QPen(p.color("ink"), look.px(2.6) or 2))
            inner, outer = 0.45 * r, 0.8 * r
            painter.drawLine(
                QPointF(center.x() + inner * math.cos(turn), center.y() - inner * math.sin(turn)),
                QPointF(center.x() + outer * math.cos(turn), center.y() - outer * math.sin(turn)),
            )
            self._words(painter, center, r)

    def _lit(self) -> tuple[float, float]:
        c = self.control
        return (0.0, c.value) if c.low < 0 < c.high else (c.low, c.value)

    def _bracket(
        self, painter: QPainter, center: QPointF, r: float, aim: tuple[float, float]
    ) -> None:
        """An arc outside the scale, its ends turned inwards; never narrower than it can be seen."""
        look = self._look
        start, stop = self._angle(aim[0]), self._angle(aim[1])
        if start - stop < 12:
            middle = (start + stop) / 2
            start, stop = middle + 6, middle - 6
        path = QPainterPath()
        lip = look.px(5)
        points = []
        for deg, radius in ((start, r - lip), (start, r), (stop, r), (stop, r - lip)):
            a = math.radians(deg)
            points.append(
                QPointF(center.x() + radius * math.cos(a), center.y() - radius * math.sin(a))
            )
        path.moveTo(points[0])
        path.lineTo(points[1])
        box = QRectF(center.x() - r, center.y() - r, 2 * r, 2 * r)
        path.arcTo(box, start, stop - start)
        path.lineTo(points[3])
        painter.setPen(QPen(look.palette.color("aim"), 2.2))
        painter.drawPath(path)

    def _words(self, painter: QPainter, center: QPointF, r: float) -> None:
        look, p, c = self._look, self._look.palette, self.control
        painter.setFont(look.font(14, 700, mono=True))
        painter.setPen(p.color("ink"))
        wide = self.width() - 4.0
        area = QRectF(2, center.y() + 0.42 * r, wide, look.px(20))
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, c.said().removesuffix(c.unit).strip())
        painter.setFont(look.font(13, 600))
        top = center.y() + r + look.px(2)
        lines = broken(c.title, painter.fontMetrics(), int(wide))[:2]
        for line in lines:
            painter.drawText(QRectF(2, top, wide, look.px(17)), Qt.AlignmentFlag.AlignCenter, line)
            top += look.px(16)
        said = self._move if self._move else c.note or c.unit
        painter.setFont(look.font(12, 600 if self._move else 400))
        painter.setPen(p.color("aim_text" if self._move else "soft"))
        for line in broken(said, painter.fontMetrics(), int(wide))[:2]:
            painter.drawText(QRectF(2, top, wide, look.px(16)), Qt.AlignmentFlag.AlignCenter, line)
            top += look.px(15)
