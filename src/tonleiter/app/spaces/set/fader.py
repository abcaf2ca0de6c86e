"""A level as a column under full scale: what is turned there is dragged, what follows is shown."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.drafts import Drafts
from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.set.dial import Dial
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.bracket import paint_brackets
from tonleiter.app.widgets.canvas.words import elided, wrapped
from tonleiter.core.guide.controls import Control, Zone

WIDE_PX, LEAST_PX, BAR_PX, WORDS_PX = 66, 122, 20, 50
# a column goes from full scale down by so much
FOOT_DB = -80.0


@dataclass(frozen=True)
class Column:
    """What a column shows: a level under full scale, words below it, where it should stand.

    ``mark_db`` is a level that means something there: what keys a switch.
    """

    title: str
    said: str
    level_db: float
    aim: Zone | None = None
    wrong: bool = False
    note: str = ""
    mark_db: float | None = None


def bar_of(size: QSize, look: Look) -> QRectF:
    """Where the bar stands in a column."""
    wide, foot = look.px(BAR_PX), look.px(WORDS_PX)
    return QRectF((size.width() - wide) / 2, look.px(8), wide, size.height() - foot - look.px(12))


def level_y(bar: QRectF, level_db: float) -> float:
    """Where a level stands on a bar; beyond its ends, at them."""
    share = min(max(level_db / FOOT_DB, 0.0), 1.0)
    return bar.top() + share * bar.height()


def paint_column(painter: QPainter, look: Look, size: QSize, column: Column, lit: bool) -> None:
    """Bar, brackets, words."""
    p = look.palette
    bar = bar_of(size, look)
    painter.setPen(QPen(p.color("line"), 1.5))
    painter.setBrush(p.color("paper"))
    painter.drawRoundedRect(bar, 3, 3)
    filled = QRectF(bar.left(), level_y(bar, column.level_db), bar.width(), 0)
    filled.setBottom(bar.bottom())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(p.color("stop" if column.wrong else "signal"))
    if filled.height() > 0.5:
        painter.drawRoundedRect(filled, 2, 2)
    if column.aim is not None:
        top, foot = level_y(bar, column.aim[1]), level_y(bar, column.aim[0])
        least = look.px(8)
        if foot - top < least:
            middle = (foot + top) / 2
            top, foot = middle - least / 2, middle + least / 2
        reach = look.px(9)
        box = QRectF(bar.left() - reach, top, bar.width() + 2 * reach, foot - top)
        paint_brackets(painter, look, box, look.px(6), 2.2)
    if column.mark_db is not None:
        y = level_y(bar, column.mark_db)
        painter.setPen(QPen(p.color("aim"), 2.2, Qt.PenStyle.DotLine))
        reach = look.px(12)
        painter.drawLine(QPointF(bar.left() - reach, y), QPointF(bar.right() + reach, y))
    painter.setPen(p.color("ink"))
    painter.setFont(look.font(13, 700 if lit else 600))
    wide = float(size.width() - 2)
    y = size.height() - look.px(WORDS_PX) + look.px(2)
    title = elided(column.title, QFontMetricsF(painter.font()), wide)
    middle = Qt.AlignmentFlag.AlignCenter
    painter.drawText(QRectF(1, y, wide, look.px(17)), middle, title)
    painter.setFont(look.font(12, 400, mono=True))
    painter.drawText(QRectF(1, y + look.px(16), wide, look.px(16)), middle, column.said)
    painter.setFont(look.font(12))
    painter.setPen(p.color("aim_text" if lit else "soft"))
    for line in wrapped(column.note, QFontMetricsF(painter.font()), wide, 1):
        painter.drawText(QRectF(1, y + look.px(31), wide, look.px(16)), middle, line)


class Fader(Dial):
    """A control that is a column: dragged by its level, wheeled, typed like a knob."""

    def __init__(self, look: Look, control: Control, drafts: Drafts) -> None:
        self.column = Column(control.title, control.said(), 0.0)
        super().__init__(look, control, drafts)
        self.setMinimumSize(look.px(WIDE_PX), look.px(LEAST_PX))
        self.setMaximumSize(QSize(look.px(130), 16_777_215))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_column(self, column: Column, control: Control, move: str, now: bool) -> None:
        """What it shows besides the control itself."""
        self.column = column
        self.show_control(control, move, now)
        self.setAccessibleName(control.title)

    @guarded
    def sizeHint(self) -> QSize:
        """As high as there is room."""
        return QSize(self._look.px(WIDE_PX), self._look.px(LEAST_PX + 20))

    def _per_px(self) -> float:
        """The level follows the hand."""
        return -FOOT_DB / max(bar_of(self.size(), self._look).height(), 1.0)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The column, framed where the guide is or the keyboard."""
        look, p = self._look, self._look.palette
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self._now or self.hasFocus():
                painter.setPen(QPen(p.color("aim" if self._now else "signal"), 2))
                painter.setBrush(p.color("field"))
                painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)
            shown = self.column
            if self._move:
                shown = replace(shown, note=self._move)
            paint_column(painter, look, self.size(), shown, bool(self._move))
            # a handle: it can be taken hold of
            bar = bar_of(self.size(), look)
            y = level_y(bar, shown.level_db)
            painter.setPen(QPen(p.color("ink"), look.px(3)))
            reach = look.px(5)
            painter.drawLine(QPointF(bar.left() - reach, y), QPointF(bar.right() + reach, y))


class LevelColumn(QWidget):
    """A level that follows: of a converter, at a socket."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look, self.column = look, Column("", "", FOOT_DB)
        self.setMinimumSize(look.px(WIDE_PX), look.px(LEAST_PX))
        self.setMaximumWidth(look.px(130))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_column(self, column: Column) -> None:
        """Another level."""
        self.column = column
        self.setAccessibleName(column.title)
        aim = column.aim
        should = "" if aim is None else f"; should be {aim[0]:.0f} to {aim[1]:.0f} dB"
        self.setAccessibleDescription(f"{column.said}{should}; {column.note}")
        self.setToolTip(f"{column.title}: {column.said}{should}")
        self.update()

    @guarded
    def sizeHint(self) -> QSize:
        """As high as there is room."""
        return QSize(self._look.px(WIDE_PX), self._look.px(LEAST_PX + 20))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The column."""
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_column(painter, self._look, self.size(), self.column, lit=False)
