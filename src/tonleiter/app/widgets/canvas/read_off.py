"""A picture of curves that is read off: a line that arrows or the pointer move along it."""

from __future__ import annotations

import math

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.app.widgets.canvas.plot import CENTRE, Plot

# what its keys do, for lists of keys
HINT = ("← →", "Read a curve off; with Shift finely, Home and End to its ends")
# a sixth of an octave by an arrow, a twenty-fourth with Shift; of an even axis so many parts
OCTAVE_SHARE, FINE_SHARE = 1 / 6, 1 / 24
PARTS, FINE_PARTS = 60, 240
BEGINS_HZ = 1000.0


class ReadOff(QWidget):
    """Left and Right move the line, with Shift finely, Home and End to the ends; Escape lifts it.

    A view says where its curves stand (``plot``) and what stands at a place (``read``), and paints
    the line last (``paint_read``).
    """

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self._look = look
        self._at: float | None = None
        self._whole = ""
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def plot(self) -> Plot:
        """The frame of the curves as it lies in the widget now."""
        raise NotImplementedError

    def read(self, value: float) -> str:
        """What stands at a value of the axis across; empty where nothing does."""
        raise NotImplementedError

    @property
    def read_at(self) -> float | None:
        """Where the line stands, if there is one."""
        return self._at

    def describe(self, whole: str) -> None:
        """Words for the whole picture; those of the line come before them."""
        self._whole = whole
        self._tell()

    def _tell(self) -> None:
        said = "" if self._at is None else self.read(self._at)
        self.setAccessibleDescription("; ".join(s for s in (said, self._whole) if s))

    def read_from(self, value: float | None) -> None:
        """Put the line there, kept on the axis; lift it with None."""
        axis = self.plot().across
        self._at = None if value is None else min(max(value, axis.low), axis.high)
        self._tell()
        self.update()

    def paint_read(self, painter: QPainter) -> None:
        """The line and what stands there, over everything else."""
        if self._at is None or not (said := self.read(self._at)):
            return
        look, plot = self._look, self.plot()
        p, box = look.palette, plot.box
        x = plot.x(self._at)
        painter.setPen(QPen(p.color("ink"), 1.2))
        painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        painter.setFont(look.font(13, 600))
        wide = painter.fontMetrics().horizontalAdvance(said) + look.px(12)
        left = x + 5 if x + 5 + wide <= self.width() else max(x - 5 - wide, 0.0)
        chip = QRectF(left, box.top() + 2, min(wide, self.width()), look.px(21))
        painter.setPen(QPen(p.color("line"), 1))
        painter.setBrush(p.color("field"))
        painter.drawRoundedRect(chip, 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(p.color("ink"))
        painter.drawText(chip, CENTRE, said)

    # --- keys and pointer ------------------------------------------------------------------------

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move the line; what is no move of it goes on to the window."""
        axis, key = self.plot().across, event.key()
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        at = begins(axis) if self._at is None else self._at
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.read_from(stepped(axis, at, 1 if key == Qt.Key.Key_Right else -1, fine))
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self.read_from(axis.low if key == Qt.Key.Key_Home else axis.high)
        elif key == Qt.Key.Key_Escape and self._at is not None:
            self.read_from(None)
        else:
            event.ignore()

    @guarded
    def focusInEvent(self, event: QFocusEvent) -> None:
        """By Tab one comes to a line that stands somewhere."""
        super().focusInEvent(event)
        if event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason):
            self.read_from(begins(self.plot().across))

    @guarded
    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Who goes on takes the line along."""
        super().focusOutEvent(event)
        self.read_from(None)

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The line follows the pointer within the frame."""
        plot = self.plot()
        if plot.box.contains(event.position()):
            self.read_from(plot.value(event.position().x()))
        elif not self.hasFocus():
            self.read_from(None)

    @guarded
    def leaveEvent(self, event: QEvent) -> None:
        """The pointer is gone."""
        super().leaveEvent(event)
        if not self.hasFocus():
            self.read_from(None)


def begins(axis: Axis) -> float:
    """Where a line is put first: at 1 kHz, or in the middle."""
    if axis.frequency and axis.low < BEGINS_HZ < axis.high:
        return BEGINS_HZ
    return axis.value(0.5)


def stepped(axis: Axis, at: float, way: int, fine: bool) -> float:
    """The place one step on: in octaves where the axis is in octaves."""
    if axis.frequency:
        made = at * 2.0 ** (way * (FINE_SHARE if fine else OCTAVE_SHARE))
    else:
        made = at + way * (axis.high - axis.low) / (FINE_PARTS if fine else PARTS)
    # what is nearly none is none, or the middle of an even axis would never be met again
    return 0.0 if math.isclose(made, 0.0, abs_tol=1e-9) else made
