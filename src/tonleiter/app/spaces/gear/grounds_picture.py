"""The picture of the station's grounds: boxes, what joins them, earth below, a loop lit up."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.words import first_free, wrapped
from tonleiter.core.report.grounds import GroundBox, GroundJoin, GroundLoop, Grounds

BOX_PX, BOX_HIGH_PX = 132, 44
# from above: earth, one or two tiers of other boxes, room for their leads, the chain, earth again
EDGE_PX, DROP_PX, TIER_PX, LEADS_PX, FOOT_PX = 14, 26, 66, 120, 30
SIDE_PX = 26
# more other boxes than this stand in two tiers
MOST_IN_A_TIER = 6


@dataclass(frozen=True)
class _Spot:
    """Where a box stands: its middle."""

    x: float
    y: float


class GroundsPicture(QWidget):
    """Boxes of the chain stand below, others above; pressed, a box is chosen."""

    chosen = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._grounds: Grounds | None = None
        self._loop: GroundLoop | None = None
        self._spots: dict[str, _Spot] = {}
        self.setAccessibleName("The station's grounds")
        self.setMinimumWidth(300)
        look.changed.connect(self._measure)
        self._measure()

    def show_grounds(self, grounds: Grounds | None, loop: GroundLoop | None) -> None:
        """Show grounds, with one loop lit up."""
        self._grounds, self._loop = grounds, loop
        self._measure()
        said = [b.name for b in grounds.boxes] if grounds else []
        lit = f"; lit up: {', then '.join(loop.names)}" if loop else ""
        self.setAccessibleDescription(f"Boxes: {', '.join(said)}{lit}")
        self.update()

    def _measure(self) -> None:
        tiers = TIER_PX if self._others() > MOST_IN_A_TIER else 0
        high = EDGE_PX + 2 * DROP_PX + 2 * BOX_HIGH_PX + tiers + LEADS_PX + FOOT_PX
        self.setFixedHeight(self._look.px(high))
        self.updateGeometry()

    def _others(self) -> int:
        return sum(not b.in_chain for b in self._grounds.boxes) if self._grounds else 0

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(640, self.height())

    # --- places ----------------------------------------------------------------------------------

    def _place(self, grounds: Grounds) -> None:
        """The chain in its order below, the others above, each near what it is joined to."""
        px = self._look.px
        chain = [b.id for b in grounds.boxes if b.in_chain]
        low = self.height() - px(FOOT_PX + DROP_PX + BOX_HIGH_PX / 2)
        spots = dict(zip(chain, self._spread(len(chain), 0.0), strict=True))
        place = {box: _Spot(x, low) for box, x in spots.items()}
        others = [b.id for b in grounds.boxes if not b.in_chain]
        middle = self.width() / 2

        def wanted(box: str) -> float:
            near = [j.b if j.a == box else j.a for j in grounds.joins if box in (j.a, j.b)]
            xs = [spots[n] for n in near if n in spots]
            return sum(xs) / len(xs) if xs else middle

        others.sort(key=wanted)
        two = len(others) > MOST_IN_A_TIER
        top = px(EDGE_PX + DROP_PX + BOX_HIGH_PX / 2)
        tiers = (others[::2], others[1::2]) if two else (others,)
        for k, tier in enumerate(tiers):
            # the second tier stands in the gaps of the first, so that its earths pass between
            for box, x in zip(tier, self._spread(len(tiers[0]), 0.5 * k), strict=False):
                place[box] = _Spot(x, top + k * px(TIER_PX))
        self._spots = place
        most = max(len(chain), len(tiers[0]), 1)
        self._column = (self.width() - 2 * px(SIDE_PX)) / (most + (0.5 if two else 0.0))

    def _spread(self, count: int, shift: float) -> list[float]:
        """Middles of columns side by side."""
        side = self._look.px(SIDE_PX)
        two = 0.5 if self._others() > MOST_IN_A_TIER and count else 0.0
        column = (self.width() - 2 * side) / max(count + two, 1)
        return [side + column * (k + 0.5 + shift) for k in range(count)]

    def _box_size(self) -> tuple[float, float]:
        wide = min(self._look.px(BOX_PX), self._column - 10)
        return max(wide, 50.0), self._look.px(BOX_HIGH_PX)

    # --- painting --------------------------------------------------------------------------------

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Earth, ways to it, joins, boxes; what is lit last."""
        grounds = self._grounds
        if grounds is None:
            return
        self._place(grounds)
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._earth(painter, grounds)
            lit = self._loop.keys if self._loop else frozenset()
            self._names: list[tuple[list[QPointF], GroundJoin, bool]] = []
            wide, high = self._box_size()
            self._taken = [
                QRectF(t.x - wide / 2, t.y - high / 2, wide, high) for t in self._spots.values()
            ]
            for join in sorted(grounds.joins, key=lambda j: j.key in lit):
                self._join(painter, grounds, join, join.key in lit)
            for box in grounds.boxes:
                self._box(painter, box)
            for along, join, is_lit in sorted(self._names, key=lambda n: not n[2]):
                self._name(painter, along, join, is_lit)

    def _pen(self, lit: bool, dashed: bool = False) -> QPen:
        p = self._look.palette
        pen = QPen(p.color("aim" if lit else "soft"), 3.2 if lit else 1.4)
        if dashed:
            pen.setDashPattern([4, 4])
        return pen

    def _earth(self, painter: QPainter, grounds: Grounds) -> None:
        """One conductor round the left side: what stands above is earthed upwards."""
        p, px = self._look.palette, self._look.px
        bottom, top, left = self.height() - px(FOOT_PX), px(EDGE_PX), px(8)
        right = self.width() - px(8)
        lit = self._loop.earths if self._loop else frozenset()
        painter.setPen(QPen(p.color("ink"), 2.4))
        corner = [
            QPointF(right, top),
            QPointF(left, top),
            QPointF(left, bottom),
            QPointF(right, bottom),
        ]
        painter.drawPolyline(corner)
        painter.setFont(self._look.font(12))
        painter.setPen(p.color("soft"))
        painter.drawText(QPointF(left + 2, bottom + px(18)), "safety earth: never lifted")
        self._light_earth(painter, grounds, lit)
        for box in grounds.boxes:
            if box.earthed == "none":
                continue
            spot, half = self._spots[box.id], self._box_size()[1] / 2
            start, end = (spot.y + half, bottom) if box.in_chain else (spot.y - half, top)
            painter.setPen(self._pen(box.id in lit, dashed=box.earthed == "leakage"))
            painter.drawLine(QPointF(spot.x, start), QPointF(spot.x, end))
            words = "leakage" if box.earthed == "leakage" else _millivolts(box.emf_v)
            if words:
                painter.setPen(p.color("soft"))
                painter.setFont(self._look.font(12))
                painter.drawText(QPointF(spot.x + 5, (start + end) / 2 + px(5)), words)

    def _light_earth(self, painter: QPainter, grounds: Grounds, lit: frozenset[str]) -> None:
        px = self._look.px
        bottom, top, left = self.height() - px(FOOT_PX), px(EDGE_PX), px(8)
        inside = {b.id: b.in_chain for b in grounds.boxes}
        ends = [(self._spots[b].x, bottom if inside[b] else top) for b in lit if b in self._spots]
        if len(ends) < 2:
            return
        painter.setPen(self._pen(True))
        (x0, y0), (x1, y1) = ends[:2]
        if y0 == y1:
            painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))
            return
        painter.drawPolyline(
            [QPointF(x0, y0), QPointF(left, y0), QPointF(left, y1), QPointF(x1, y1)]
        )

    def _join(self, painter: QPainter, grounds: Grounds, join: GroundJoin, lit: bool) -> None:
        a, b = self._spots[join.a], self._spots[join.b]
        alike = [j.key for j in grounds.joins if {j.a, j.b} == {join.a, join.b}]
        bend = (alike.index(join.key) - (len(alike) - 1) / 2) * self._look.px(44)
        inside = {x.id: x.in_chain for x in grounds.boxes}
        start, end = QPointF(a.x, a.y), QPointF(b.x, b.y)
        middle = (start + end) / 2
        if inside[join.a] and inside[join.b]:
            # along the row; one that is not of the chain goes above it
            middle += QPointF(0, bend - (0 if join.of_chain else self._look.px(64)))
        elif not inside[join.a] and not inside[join.b]:
            middle += QPointF(0, self._look.px(46) + bend)
        else:
            middle += QPointF(bend, 0)
        control = middle * 2.0 - (start + end) / 2
        path = QPainterPath(start)
        path.quadTo(control, end)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(self._pen(lit, dashed=join.joins != "both-ends"))
        painter.drawPath(path)
        along = [path.pointAtPercent(share) for share in (0.5, 0.4, 0.6, 0.3, 0.7, 0.24, 0.76)]
        if join.of_chain:
            along = [p - QPointF(0, self._look.px(12)) for p in along]
            # between boxes that stand close, above or below the row
            half = self._box_size()[1] / 2
            along += [middle + QPointF(0, way * (half + self._look.px(30))) for way in (-1, 1)]
        self._names.append((along, join, lit))

    def _name(self, painter: QPainter, along: list[QPointF], join: GroundJoin, lit: bool) -> None:
        """The name of a lead on it, where nothing else stands."""
        p = self._look.palette
        face = self._look.font(12, 600 if lit else 400)
        ends = {"isolated": " (isolated)", "one-end": " (open at one end)"}.get(join.joins, "")
        metrics = QFontMetricsF(face)
        lines = wrapped(join.name + ends, metrics, self._look.px(112), 3)
        high = metrics.height()
        wide = max((metrics.horizontalAdvance(x) for x in lines), default=0.0) + 6
        tall = high * len(lines)
        places = [QRectF(at.x() - wide / 2, at.y() - tall / 2, wide, tall) for at in along]
        area = first_free(places, QRectF(self.rect()), self._taken)
        self._taken.append(area)
        painter.fillRect(area, p.color("paper", 0.92))
        painter.setFont(face)
        painter.setPen(p.color("aim_text" if lit else "soft"))
        for k, line in enumerate(lines):
            row = QRectF(area.x(), area.y() + k * high, area.width(), high)
            painter.drawText(row, Qt.AlignmentFlag.AlignCenter, line)

    def _box(self, painter: QPainter, box: GroundBox) -> None:
        p = self._look.palette
        spot = self._spots[box.id]
        wide, high = self._box_size()
        area = QRectF(spot.x - wide / 2, spot.y - high / 2, wide, high)
        frame, width = ("signal", 2.0) if box.in_chain else ("soft", 1.3)
        painter.setPen(QPen(p.color(frame), width))
        painter.setBrush(p.color("field"))
        painter.drawRoundedRect(area, 5, 5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        face = self._look.font(13, 600)
        painter.setFont(face)
        painter.setPen(p.color("ink"))
        lines = wrapped(box.name, QFontMetricsF(face), wide - 10, 2)
        line = QFontMetricsF(face).height()
        for k, words in enumerate(lines):
            row = QRectF(area.x(), spot.y - line * len(lines) / 2 + k * line, wide, line)
            shown = QFontMetricsF(face).elidedText(words, Qt.TextElideMode.ElideRight, wide - 8)
            painter.drawText(row, Qt.AlignmentFlag.AlignCenter, shown)

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Choose the box that was pressed."""
        at = event.position()
        wide, high = self._box_size() if self._spots else (0.0, 0.0)
        for box, spot in self._spots.items():
            if abs(at.x() - spot.x) <= wide / 2 and abs(at.y() - spot.y) <= high / 2:
                self.chosen.emit(box)
                return


def _millivolts(volts: float) -> str:
    return f"{volts * 1e3:.2g} mV" if volts else ""
