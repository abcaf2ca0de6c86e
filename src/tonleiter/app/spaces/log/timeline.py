"""A line for each microphone: reports above it, the higher the kinder, changes on it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.telling import Lane
from tonleiter.core.signal.arrays import Floats

LANE_PX, HEAD_PX, NAMES_PX, FOOT_PX = 96, 26, 140, 24
STEM_PX, LEAST_STEM_PX, DOT_PX, NEAR_PX = 44, 10, 6, 12
# a notch of the wheel zooms by so much; no further in than a day
ZOOM, LEAST = 1.3, timedelta(days=1)
MOST_LABELS = 40
# kinds of marks and their colours; where there are many in a lane, one is drawn for some pixels
REPORT, CHANGE, OTHER = 0, 1, 2
COLOURS = {0: "soft", 1: "stop", 2: "mind", 3: "fine"}
CROWD, CROWDED_PX = 200, 12.0


@dataclass(frozen=True, eq=False)
class Marks:
    """A lane's entries as arrays, shape (entries,): number, seconds, how high, kind, colour."""

    number: NDArray[np.int64]
    t: Floats
    rise: Floats
    kind: NDArray[np.int8]
    colour: NDArray[np.int8]


def _marks_of(lane: Lane) -> Marks:
    every = lane.entries
    kind = [REPORT if e.kind == "report" else CHANGE if e.kind in ("change", "build") else OTHER
            for e in every]  # fmt: skip
    kindness = np.array([e.kindness if e.kindness is not None else np.nan for e in every])
    colour = np.select([np.isnan(kindness), kindness <= -2, kindness < 0], [0, 1, 2], 3)
    return Marks(
        np.array([e.number for e in every], np.int64),
        np.array([e.utc.timestamp() for e in every]),
        (np.nan_to_num(kindness) + 2.0) / 4.0,
        np.array(kind, np.int8),
        colour.astype(np.int8),
    )


class Timeline(QWidget):
    """``chosen`` tells the number of the entry that was pressed."""

    chosen = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._lanes: Sequence[Lane] = ()
        self._marks: list[Marks] = []
        self._picture: tuple[object, QPixmap] | None = None
        self._whole = self._seen = (datetime.now().astimezone() - timedelta(days=365),
                                    datetime.now().astimezone())  # fmt: skip
        self._at = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Time line of the log")

    @guarded
    def sizeHint(self) -> QSize:
        """As tall as its lanes."""
        px = self._look.px
        return QSize(px(320), px(HEAD_PX + FOOT_PX) + max(len(self._lanes), 1) * px(LANE_PX))

    def show_lanes(self, lanes: Sequence[Lane], since: datetime, until: datetime, at: int) -> None:
        """Others, from when to when; ``at`` is the entry that is chosen."""
        if (since, until) != self._whole:
            self._whole = self._seen = (since, until)
        if lanes is not self._lanes:
            self._lanes, self._marks = lanes, [_marks_of(lane) for lane in lanes]
            self._picture = None
        self._at = at
        self.setMinimumHeight(self.sizeHint().height())
        self.setAccessibleDescription(self._described())
        self.updateGeometry()
        self.update()

    def _described(self) -> str:
        parts = []
        for lane in self._lanes:
            said = ", ".join(f"{e.says()} on {e.when:%d %B}" for e in lane.entries[-6:])
            parts.append(f"{lane.name}: {said}")
        return "; ".join(parts) or "nothing yet"

    # --- places ----------------------------------------------------------------------------------

    def _x(self, when: datetime) -> float:
        low, high = self._seen
        left, right = self._look.px(NAMES_PX), self.width() - self._look.px(16)
        return left + (when - low) / (high - low) * (right - left)

    def _line_y(self, row: int) -> float:
        px = self._look.px
        high = max((self.height() - px(HEAD_PX + FOOT_PX)) / max(len(self._lanes), 1), px(LANE_PX))
        return float(px(HEAD_PX) + min(high, px(LANE_PX) * 1.4) * (row + 0.62))

    def _in_order(self) -> list[LogEntry]:
        return sorted((e for lane in self._lanes for e in lane.entries), key=lambda e: e.utc)

    # --- hands -----------------------------------------------------------------------------------

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The nearest mark."""
        best, found, at = float(self._look.px(NEAR_PX)), 0, event.position()
        for row, lane in enumerate(self._lanes):
            xs, ys = self._spots(row)
            off = np.hypot(xs - at.x(), ys - at.y())
            if off.size and off.min() <= best:
                best, found = float(off.min()), lane.entries[int(np.argmin(off))].number
        if found:
            self.chosen.emit(found)

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom at the hand; with Shift move on."""
        notches = (event.angleDelta().y() or event.angleDelta().x()) / 120
        held = event.modifiers() & (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        )
        if not notches or not (held or self.hasFocus()):
            event.ignore()  # a page is rolled
            return
        low, high = self._seen
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._show(low - 0.1 * notches * (high - low), high - low)
        else:
            px = self._look.px
            left = px(NAMES_PX)
            share = (event.position().x() - left) / max(self.width() - left - px(16), 1)
            self.zoom(ZOOM**notches, min(max(share, 0.0), 1.0))
        event.accept()

    def zoom(self, by: float, at: float = 0.5) -> None:
        """Show so much less of time, what lies at a share of the width staying there."""
        low, high = self._seen
        long = min(max((high - low) / by, LEAST), self._whole[1] - self._whole[0])
        self._show(low + at * (high - low) - at * long, long)

    def _show(self, low: datetime, long: timedelta) -> None:
        first, last = self._whole
        low = min(max(low, first), last - long)
        self._seen = (low, low + long)
        self.update()

    @property
    def seen(self) -> tuple[datetime, datetime]:
        """From when to when."""
        return self._seen

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go from entry to entry; plus and minus zoom."""
        entries = self._in_order()
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is not None and entries:
            numbers = [e.number for e in entries]
            at = numbers.index(self._at) + step if self._at in numbers else len(numbers) - 1
            self.chosen.emit(numbers[min(max(at, 0), len(numbers) - 1)])
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self.zoom(ZOOM if event.key() == Qt.Key.Key_Plus else 1 / ZOOM)
        else:
            super().keyPressEvent(event)

    # --- painting --------------------------------------------------------------------------------

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The picture, drawn anew where something of it changed."""
        look = self._look
        key = (self._seen, self._at, self.width(), self.height(), look.scale,
               look.palette.name, self.devicePixelRatioF())  # fmt: skip
        if self._picture is None or self._picture[0] != key:
            self._picture = (key, self._drawn())
        with painting(self) as painter:
            painter.drawPixmap(0, 0, self._picture[1])

    def _drawn(self) -> QPixmap:
        """Months, lines, marks, words where there is room for them."""
        look, p, ratio = self._look, self._look.palette, self.devicePixelRatioF()
        made = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        made.setDevicePixelRatio(ratio)
        made.fill(Qt.GlobalColor.transparent)
        with painting(made) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._months(painter)
            for row, lane in enumerate(self._lanes):
                y = self._line_y(row)
                names = QRectF(0, y - look.px(20), look.px(NAMES_PX - 10), look.px(18))
                painter.setFont(look.font(13, 700))
                painter.setPen(p.color("ink"))
                _elided(painter, names, lane.name)
                painter.setFont(look.font(12))
                painter.setPen(p.color("soft"))
                _elided(painter, names.translated(0, look.px(18)), ", ".join(lane.chains))
                painter.setPen(QPen(p.color("ink"), 1.6))
                right = self.width() - look.px(16)
                painter.drawLine(QPointF(look.px(NAMES_PX), y), QPointF(right, y))
                self._lane(painter, lane, row)
            painter.setFont(look.font(12))
            painter.setPen(p.color("soft"))
            foot = QRectF(0, self.height() - look.px(20), self.width(), look.px(18))
            said = "● report, the higher the kinder     □ something was changed     ◇ the rest"
            painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, said)
        return made

    def _months(self, painter: QPainter) -> None:
        look, p = self._look, self._look.palette
        low, high = self._seen
        painter.setFont(look.font(12, 400, mono=True))
        bottom = self.height() - look.px(FOOT_PX)
        right = -1.0
        for when, name in _ticks(low, high):
            x = self._x(when)
            painter.setPen(QPen(p.color("line"), 1.4))
            painter.drawLine(QPointF(x, look.px(HEAD_PX)), QPointF(x, bottom))
            width = painter.fontMetrics().horizontalAdvance(name)
            if x > right and x + width < self.width():
                painter.setPen(p.color("soft"))
                painter.drawText(QPointF(x + 3, look.px(HEAD_PX - 8)), name)
                right = x + width + 8

    def _lane(self, painter: QPainter, lane: Lane, row: int) -> None:
        look, p, y = self._look, self._look.palette, self._line_y(row)
        marks = self._marks[row]
        xs, ys = self._spots(row)
        shown = self._shown(marks, xs, ys)
        size = look.px(DOT_PX)
        for colour in COLOURS:
            picked = shown[(marks.kind[shown] == REPORT) & (marks.colour[shown] == colour)]
            painter.setPen(QPen(p.color(COLOURS[colour]), 1.6))
            painter.drawLines([QLineF(xs[k], y, xs[k], ys[k]) for k in picked])
            dot = QPen(p.color(COLOURS[colour]), 2.0 * size)
            dot.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(dot)
            painter.drawPoints(QPolygonF([QPointF(xs[k], ys[k]) for k in picked]))
        painter.setPen(QPen(p.color("aim"), 2.2))
        painter.setBrush(p.color("field"))
        changes = shown[marks.kind[shown] == CHANGE]
        painter.drawRects([QRectF(xs[k] - size, y - size, 2 * size, 2 * size) for k in changes])
        for x in xs[shown[marks.kind[shown] == OTHER]]:
            corners = ((x, y - size), (x + size, y), (x, y + size), (x - size, y))
            painter.drawPolygon([QPointF(*c) for c in corners])
        for k in np.flatnonzero(marks.number == self._at):
            painter.setPen(QPen(p.color("aim"), 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            ring = look.px(DOT_PX + 5)
            painter.drawEllipse(QPointF(xs[k], ys[k]), ring, ring)
        # a word stands on no mark
        named = shown[-MOST_LABELS:]
        marked = [QRectF(xs[k] - size, ys[k] - size, 2 * size, 2 * size) for k in named]
        taken: dict[bool, list[QRectF]] = {True: marked, False: []}
        for k in named:
            self._word(painter, lane.entries[k], QPointF(xs[k], ys[k]), taken)

    def _spots(self, row: int) -> tuple[Floats, Floats]:
        """Where each mark of a lane is."""
        marks = self._marks[row]
        low, high = (w.timestamp() for w in self._seen)
        left, right = self._look.px(NAMES_PX), self.width() - self._look.px(16)
        xs = left + (marks.t - low) / max(high - low, 1.0) * (right - left)
        tall = self._look.px(LEAST_STEM_PX) + marks.rise * self._look.px(STEM_PX - LEAST_STEM_PX)
        return xs, self._line_y(row) - np.where(marks.kind == REPORT, tall, 0.0)

    def _shown(self, marks: Marks, xs: Floats, ys: Floats) -> NDArray[np.intp]:
        """Which marks are seen: of many that fall on one spot, one."""
        low, high = (w.timestamp() for w in self._seen)
        inside = np.flatnonzero((marks.t >= low) & (marks.t <= high))
        grain = min(max(inside.size / CROWD, 1.0), CROWDED_PX)
        # a place as one number: across, up, kind
        spots = np.rint(xs[inside] / grain) * 1e6 + np.rint(ys[inside]) * 10 + marks.kind[inside]
        _, first = np.unique(spots, return_index=True)
        made: NDArray[np.intp] = np.sort(inside[first])
        return made

    def _word(
        self, painter: QPainter, entry: LogEntry, at: QPointF, taken: dict[bool, list[QRectF]]
    ) -> None:
        """Beside a report, below a change; left out where another one stands."""
        look, p = self._look, self._look.palette
        report = entry.kind == "report"
        painter.setFont(look.font(12, 700))
        lines = painter.fontMetrics()
        text = lines.elidedText(entry.says(), Qt.TextElideMode.ElideRight, look.px(150))
        width, high, gap = float(lines.horizontalAdvance(text)), lines.height(), look.px(DOT_PX + 3)
        if report:
            tried = [QRectF(at.x() + gap, at.y() - high / 2, width + 2, high),
                     QRectF(at.x() - gap - width, at.y() - high / 2, width, high)]  # fmt: skip
        else:
            x = min(max(at.x() - width / 2, look.px(NAMES_PX)), self.width() - width - 4)
            tried = [QRectF(x, at.y() + look.px(DOT_PX + 2), width + 2, high)]
        low = look.px(NAMES_PX) - 2
        free = (b for b in tried if b.left() >= low and b.right() <= self.width())
        box = next((b for b in free if not any(b.intersects(t) for t in taken[report])), None)
        if box is None:
            return
        taken[report].append(box)
        painter.setPen(p.color("ink") if report else p.color("aim_text"))
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)


def _elided(painter: QPainter, box: QRectF, text: str) -> None:
    said = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
    painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, said)


def _ticks(low: datetime, high: datetime) -> list[tuple[datetime, str]]:
    """Beginnings of years, months or days, no more than a score of them."""
    days = (high - low).days
    made: list[tuple[datetime, str]] = []
    start = low.replace(hour=0, minute=0, second=0, microsecond=0)
    if days <= 45:
        step = max(round(days / 10), 1)
        for k in range(0, days + 2, step):
            when = start + timedelta(days=k)
            made.append((when, f"{when.day} {when:%b}"))
    else:
        months = max(round(days / 30.4 / 14), 1)
        when = start.replace(day=1)
        while when <= high:
            name = f"{when:%b}" if days < 500 else f"{when:%b %y}"
            made.append((when, name))
            year, month = divmod(when.year * 12 + when.month - 1 + months, 12)
            when = when.replace(year=year, month=month + 1)
    return [(when, name) for when, name in made if low <= when <= high]
