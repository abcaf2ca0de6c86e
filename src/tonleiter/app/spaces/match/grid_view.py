"""The grid: sources down, inputs across; a shape and a few words in each cell."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.match.model import MatchModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.app.widgets.canvas.bracket import paint_gauge
from tonleiter.app.widgets.canvas.words import elided, wrapped
from tonleiter.core.match.grid import Key, runs_of_boxes
from tonleiter.core.match.pair import Pair, Verdict
from tonleiter.core.words import the

HEAD_PX, NAME_PX, ROW_PX, LEAST_COLUMN_PX = 64, 140, 74, 124
# over the heads: the names of boxes with several sockets
GROUP_PX = 19
MOST_ROW_PX, MOST_COLUMN_PX = 104, 320
# levels that a cell's little scale spans, either side of the window's middle
SPAN_DB = 40.0


class GridView(QWidget):
    """Click or arrows choose a pair, Enter or a double click shows its ladder."""

    opened = Signal()

    def __init__(self, model: MatchModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._pictures: dict[Key, tuple[object, QPixmap]] = {}
        self._shown: dict[Key, Pair] = {}
        self._frame: object = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Grid of sources and inputs")
        model.changed.connect(self._renew)
        model.selection_changed.connect(self._renew)
        look.changed.connect(self._renew)
        self._renew()

    def _renew(self) -> None:
        """Repaint what changed: a cell or two while a grid is solved, all of it otherwise."""
        grid, chosen = self._model.grid, self._model.selected
        names = [(g.id, g.name, g.guest) for g in (*grid.sources, *grid.inputs)]
        frame = (names, chosen, self._look.scale, self._look.palette.name)
        shown = dict(grid.pairs)
        if frame != self._frame:
            self.setMinimumSize(self.minimumSizeHint())
            self.update()
        else:
            for r, source in enumerate(grid.sources):
                for c, socket in enumerate(grid.inputs):
                    key = source.id, socket.id
                    if shown.get(key) is not self._shown.get(key):
                        self.update(self.cell(r, c).toAlignedRect())
        spoken = shown.get(chosen)
        if frame != self._frame or spoken is not self._shown.get(chosen):
            self._speak(spoken)
        self._frame, self._shown = frame, shown

    def _speak(self, pair: Pair | None) -> None:
        source, socket = (self._model.gear(i) for i in self._model.selected)
        if source is not None and socket is not None:
            words = pair.words() if pair else "not solved yet"
            self.setAccessibleDescription(f"{source.name} on {the(socket.name)}: {words}")

    @guarded
    def minimumSizeHint(self) -> QSize:
        """Room for every cell."""
        grid, px = self._model.grid, self._look.px
        wide = px(NAME_PX) + max(len(grid.inputs), 1) * px(LEAST_COLUMN_PX)
        return QSize(wide, px(HEAD_PX) + max(len(grid.sources), 1) * px(ROW_PX) + 4)

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell is."""
        px, count = self._look.px, max(len(self._model.grid.inputs), 1)
        # a few cells in a large window need not be larger than they can use
        width = min((self.width() - px(NAME_PX)) / count, px(MOST_COLUMN_PX))
        rows = max(len(self._model.grid.sources), 1)
        height = min(max((self.height() - px(HEAD_PX)) / rows, px(ROW_PX)), px(MOST_ROW_PX))
        return QRectF(px(NAME_PX) + column * width, px(HEAD_PX) + row * height, width, height)

    # --- hands -----------------------------------------------------------------------------------

    def _key_at(self, at: QPointF) -> tuple[str, str] | None:
        grid = self._model.grid
        for r, source in enumerate(grid.sources):
            for c, socket in enumerate(grid.inputs):
                if self.cell(r, c).contains(at):
                    return source.id, socket.id
        return None

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose."""
        if (key := self._key_at(event.position())) is not None:
            self._model.select(key)

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """All that a cell has to say, for words that were too long."""
        key = self._key_at(event.position())
        pair = self._model.grid.pairs.get(key) if key else None
        self.setToolTip(pair.words() if pair else "")

    @guarded
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Show the pair's ladder."""
        if self._key_at(event.position()) is not None:
            self.opened.emit()

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows walk, Enter opens."""
        steps = {
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
        }
        key = Qt.Key(event.key())
        if key in steps:
            self._walk(*steps[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
        else:
            super().keyPressEvent(event)

    def _walk(self, down: int, right: int) -> None:
        grid, (source, socket) = self._model.grid, self._model.selected
        rows, columns = [g.id for g in grid.sources], [g.id for g in grid.inputs]
        if source in rows and socket in columns:
            row = min(max(rows.index(source) + down, 0), len(rows) - 1)
            column = min(max(columns.index(socket) + right, 0), len(columns) - 1)
            self._model.select((rows[row], columns[column]))

    # --- painting --------------------------------------------------------------------------------

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Heads, names, cells."""
        with painting(self) as painter:
            region = event.region()
            grid = self._model.grid
            if region.intersects(QRect(0, 0, self.width(), int(self.cell(0, 0).top()))):
                for c, socket in enumerate(grid.inputs):
                    box = self.cell(0, c)
                    top = self._look.px(GROUP_PX) if self._columns() else 4
                    head = QRectF(box.left() + 8, top, box.width() - 12, box.top() - 6 - top)
                    chosen = socket.id == self._model.selected[1]
                    align = Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft
                    self._name(painter, head, socket.name, socket.guest, chosen, align)
                self._heads(painter)
            for r, source in enumerate(grid.sources):
                box = self.cell(r, 0)
                side = QRectF(6, box.top(), box.left() - 14, box.height())
                if region.intersects(side.toAlignedRect()):
                    chosen = source.id == self._model.selected[0]
                    align = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
                    self._name(painter, side, source.name, source.guest, chosen, align)
                    self._side(painter, r, side)
                for c, socket in enumerate(grid.inputs):
                    box = self.cell(r, c)
                    if region.intersects(box.toAlignedRect()):
                        picture = self._picture((source.id, socket.id), box)
                        painter.drawPixmap(box.topLeft(), picture)

    def _columns(self) -> tuple[tuple[str, int, int], ...]:
        return runs_of_boxes(self._model.station, self._model.grid.inputs)

    def _heads(self, painter: QPainter) -> None:
        """The name of a box over its sockets, with a line that spans them."""
        p, look = self._look.palette, self._look
        for name, first, last in self._columns():
            left, right = self.cell(0, first).left() + 8, self.cell(0, last).right() - 6
            y = look.px(GROUP_PX) - 2
            painter.setPen(QPen(p.color("signal"), 1.4))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            painter.setFont(look.font(12))
            words = elided(name, QFontMetricsF(painter.font()), right - left)
            painter.drawText(QPointF(left, y - 4), words)

    def _side(self, painter: QPainter, row: int, side: QRectF) -> None:
        """The same at the side: a line along the sources of one box, its name at the first."""
        p, look = self._look.palette, self._look
        for name, first, last in runs_of_boxes(self._model.station, self._model.grid.sources):
            if first <= row <= last:
                painter.setPen(QPen(p.color("signal"), 1.4))
                x, edge = side.right() + 5, 4.0
                top = side.top() + (edge if row == first else 0)
                foot = side.bottom() - (edge if row == last else 0)
                painter.drawLine(QPointF(x, top), QPointF(x, foot))
            if row == first:
                painter.setFont(look.font(12))
                metrics = QFontMetricsF(painter.font())
                words = elided(name, metrics, side.width())
                place = QPointF(side.right() - metrics.horizontalAdvance(words), side.top() + 12)
                painter.drawText(place, words)

    def _picture(self, key: Key, box: QRectF) -> QPixmap:
        """A cell's picture, painted anew only when what it shows has changed."""
        look, ratio = self._look, self.devicePixelRatioF()
        pair, chosen = self._model.grid.pairs.get(key), key == self._model.selected
        state = (pair, chosen, box.size(), look.palette.name, look.scale, ratio)
        known = self._pictures.get(key)
        if known is not None and known[0] == state:
            return known[1]
        picture = QPixmap(box.size().toSize() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        with painting(picture) as painter:
            self._cell(painter, QRectF(0, 0, box.width(), box.height()), key)
        self._pictures[key] = (state, picture)
        return picture

    def _name(
        self,
        painter: QPainter,
        box: QRectF,
        name: str,
        guest: bool,
        chosen: bool,
        align: Qt.AlignmentFlag,
    ) -> None:
        p, look = self._look.palette, self._look
        painter.setFont(look.font(13, 700 if chosen else 600))
        painter.setPen(p.color("ink" if chosen else "soft"))
        metrics = QFontMetricsF(painter.font())
        most = max(1, int(box.height() / metrics.lineSpacing()))
        lines = wrapped(f"{name} (guest)" if guest else name, metrics, box.width(), most)
        painter.drawText(box, int(align), "\n".join(lines))

    def _cell(self, painter: QPainter, box: QRectF, key: tuple[str, str]) -> None:
        p, look = self._look.palette, self._look
        inner = box.adjusted(2, 2, -2, -2)
        chosen = key == self._model.selected
        pair = self._model.grid.pairs.get(key)
        painter.setBrush(p.color("field" if pair and pair.verdict != "not-worth-it" else "paper"))
        edge = p.color("aim") if chosen else p.color("line")
        painter.setPen(QPen(edge, 2.2 if chosen else 1.0))
        painter.drawRoundedRect(inner, 5, 5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if pair is None:
            painter.setFont(look.font(13))
            painter.setPen(p.color("soft"))
            painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, "…")
            return
        paint_verdict(painter, look, pair.verdict, QPointF(inner.left() + 15, inner.top() + 17))
        painter.setFont(look.font(13, 600 if pair.verdict == "plug-in" else 400))
        painter.setPen(p.color("soft" if pair.verdict == "not-worth-it" else "ink"))
        metrics = QFontMetricsF(painter.font())
        room = inner.height() - look.px(28)
        text = QRectF(inner.left() + 29, inner.top() + 6, inner.width() - 35, room)
        most = max(1, int(room / metrics.lineSpacing()))
        lines = wrapped(pair.words(), metrics, text.width(), most)
        painter.drawText(
            text, int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop), "\n".join(lines)
        )
        self._scale(painter, inner, pair)

    def _scale(self, painter: QPainter, inner: QRectF, pair: Pair) -> None:
        """Level against the window, and speech over noise in figures."""
        p, look = self._look.palette, self._look
        off = pair.off_middle_db
        if off is None or pair.window_low_dbu is None or pair.window_high_dbu is None:
            return
        y = inner.bottom() - 11
        left, right = inner.left() + 30, inner.right() - look.px(62)
        half = (pair.window_high_dbu - pair.window_low_dbu) / 2
        line = QRectF(left, y - 5, right - left, 10)
        paint_gauge(painter, look, line, Axis(-SPAN_DB, SPAN_DB), (-half, half), off)
        painter.setFont(look.font(12, mono=True))
        painter.setPen(p.color("soft"))
        snr = "" if pair.snr_db is None else f"{pair.snr_db:.0f} dB"
        box = QRectF(right + 6, y - look.px(9), inner.right() - right - 12, look.px(18))
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, snr)


VERDICT_COLOR: dict[Verdict, str] = {
    "plug-in": "fine",
    "small-parts": "signal",
    "active-part": "aim",
    "not-worth-it": "soft",
}


def paint_verdict(painter: QPainter, look: Look, verdict: Verdict, at: QPointF) -> None:
    """A shape for each verdict, so that colour is not the only sign."""
    color = QColor(getattr(look.palette, VERDICT_COLOR[verdict]))
    r = look.px(12) / 2
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    if verdict == "plug-in":
        painter.drawEllipse(at, r, r)
    elif verdict == "small-parts":
        painter.drawPolygon(_around(at, r, ((0, -1), (1, 0), (0, 1), (-1, 0))))
    elif verdict == "active-part":
        painter.drawPolygon(_around(at, r, ((-1, -1), (1, 0), (-1, 1))))
    else:
        painter.setPen(QPen(color, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for side in (-1, 1):
            painter.drawLine(
                QPointF(at.x() - r * 0.8, at.y() - side * r * 0.8),
                QPointF(at.x() + r * 0.8, at.y() + side * r * 0.8),
            )
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _around(at: QPointF, r: float, corners: tuple[tuple[int, int], ...]) -> QPolygonF:
    return QPolygonF([QPointF(at.x() + x * r, at.y() + y * r) for x, y in corners])
