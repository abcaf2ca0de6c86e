"""The score: a connector's face at each end, a line for each conductor, the parts between."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPainterPathStroker,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.wire.model import WireModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.words import wrapped
from tonleiter.app.widgets.drawing.painter import SheetPainter
from tonleiter.core.drawing.draft import COLD_LEG, COMMON, HOT
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.report.drawings import draw_stages
from tonleiter.core.station.shells import SHELLS, Spot
from tonleiter.core.wiring.build import COLOURS, Conductor, Span, is_soldered
from tonleiter.core.wiring.pinout import End

# how the colour of a wire is drawn; its word stands beside it
_INKS = {
    "white": "#8FA3B0", "yellow": "#C9A227", "bare braid": "#7A7F85", "red": "#A93420",
    "black": "#1D2A35", "any": "#5C6873",
}  # fmt: skip
TOP_PX, UNIT_PX, LEAST_PX = 40, 11.0, 8.2
# radius of a face, its way from the edge, room for the names of conductors: roomy, and narrow
ROOMY, NARROW, NARROW_BELOW_PX = (74, 24, 110), (58, 10, 70), 800
SPOT_PX = 13
# the transmit switch: so many rows below common, so tall
SWITCH_ROWS, SWITCH_PX = 5.5, 52
_TIE_ORDER = ("hot", "cold", "screen")


class Score(QWidget):
    """A press on a contact or conductor lights its net up; a free contact asks for its role."""

    asked = Signal(object, str)

    def __init__(self, model: WireModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._wires: list[tuple[str, QPainterPath]] = []
        self._contacts: list[tuple[End, str, QPointF]] = []
        self._sheet, self._wide, self._high = Sheet(), 0.0, 3.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Wiring of the chain")
        model.changed.connect(self._follow)
        model.lit_changed.connect(self.update)
        look.changed.connect(self._follow)

    def _follow(self) -> None:
        self.setAccessibleDescription(self.spoken())
        span = self._model.span
        self._sheet = Sheet() if span is None else self._middle(span)
        box = self._sheet.box()
        self._wide = box.width if self._sheet.symbols else 0.0
        self._high = max(-box.y0, 3.0) if self._sheet.symbols else 3.0
        self.updateGeometry()
        self.update()

    def spoken(self) -> str:
        """Every conductor in words."""
        build = self._model.build
        if build is None:
            return self._model.trouble
        return "; ".join(f"{c.start} to {c.end}, {c.colour}" for c in build.conductors)

    @guarded
    def sizeHint(self) -> QSize:
        """Room for two faces and what stands between."""
        px = self._look.px
        return QSize(px(640), px(TOP_PX) + round(self._unit() * (COMMON + 14 + self._high)))

    @guarded
    def minimumSizeHint(self) -> QSize:
        """As tall as it must be."""
        face, edge, room = (self._look.px(size) for size in NARROW)
        least = 2 * (2 * face + edge + room) + round(LEAST_PX * self._look.scale * self._wide)
        return QSize(max(self._look.px(420), least), self.sizeHint().height())

    def _size(self) -> tuple[int, int, int]:
        """Radius of a face, its way from the edge, room for names, in pixels."""
        narrow = self.width() < self._look.px(NARROW_BELOW_PX)
        face, edge, room = NARROW if narrow else ROOMY
        return self._look.px(face), self._look.px(edge), self._look.px(room)

    def _beside(self) -> int:
        """What a face takes of the width, with the names beside it."""
        face, edge, room = self._size()
        return 2 * face + edge + room

    def _unit(self) -> float:
        """A grid unit in pixels: the rows of the drawing and of the conductors are the same."""
        wide = self._wide
        room = self.width() - 2 * self._beside()
        most = UNIT_PX * self._look.scale
        return most if wide <= 0 else max(min(most, room / wide), LEAST_PX * self._look.scale)

    # --- painting --------------------------------------------------------------------------------

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Conductors below, faces over them, what is between last."""
        span, assessment = self._model.span, self._model.assessment
        if span is None or assessment is None:
            return
        self._wires, self._contacts = [], []
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            middle = self._sheet
            left, right = self._case(middle)
            self._conductors(painter, span, left, right)
            self._parts(painter, middle, left, right)
            self._switch(painter, span)
            self._face(painter, span.left, "left")
            self._face(painter, span.right, "right")

    def _middle(self, span: Span) -> Sheet:
        """The soldered pieces between, as one drawing."""
        assert self._model.assessment is not None
        solution = self._model.assessment.solution
        stages = solution.compiled.stages[span.first + 1 : span.last]
        soldered = [s for s in stages if is_soldered(s.gear)]
        return draw_stages(solution, soldered).sheet if soldered else Sheet()

    def _case(self, middle: Sheet) -> tuple[float, float]:
        """Where the case stands; it has no width where nothing is soldered."""
        box = middle.box() if middle.symbols else None
        wide = self._unit() * (box.width if box else 0.0)
        centre = self.width() / 2
        return centre - wide / 2, centre + wide / 2

    def _y(self, row: float) -> float:
        return self._look.px(TOP_PX) + self._unit() * (row + self._high)

    def _rows(self, span: Span, side: str) -> dict[str, float]:
        """The height of each leg at a joint."""
        assert self._model.assessment is not None
        stages = self._model.assessment.solution.compiled.stages
        port = stages[span.first].outlet if side == "left" else stages[span.last].inlet
        if port.screen is None or port.screen == port.cold:
            return {"hot": HOT, "cold": COMMON}
        return {"hot": HOT, "cold": COLD_LEG, "screen": COMMON}

    def _conductors(self, painter: QPainter, span: Span, left: float, right: float) -> None:
        for side, end, edge in (("left", span.left, left), ("right", span.right, right)):
            rows = self._rows(span, side)
            spots = self._places(end, side)
            for leg in _TIE_ORDER:
                contact = end.contact_of(leg) if leg in rows else None
                if contact is None or contact.label not in spots:
                    continue
                colour = COLOURS["screen" if leg == "cold" and len(rows) == 2 else leg]
                y = self._y(rows[leg])
                inner = spots[contact.label]
                turn = self._turn_x(side)
                path = QPainterPath(inner)
                path.lineTo(turn, y)
                path.lineTo(edge, y)
                net = self._model.net_of(end.ref(contact.label))
                name = net.name if net else ""
                self._wire(painter, path, colour, name)
                if side == "left" or left == right:
                    self._leg_words(painter, turn, y, leg, colour, side)

    def _turn_x(self, side: str) -> float:
        away = self._size()[1] + 2 * self._size()[0] + self._look.px(22)
        return away if side == "left" else self.width() - away

    def _wire(self, painter: QPainter, path: QPainterPath, colour: str, net: str) -> None:
        lit = net == self._model.lit and bool(net)
        if lit:
            painter.setPen(QPen(self._look.palette.color("aim", 0.45), 11))
            painter.drawPath(path)
        ink = QColor(_INKS[colour])
        if self._look.palette.name == "dark" and colour == "black":
            ink = self._look.palette.color("ink")
        painter.setPen(QPen(ink, 5.0 if colour == "bare braid" else 3.4, Qt.PenStyle.SolidLine,
                            Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))  # fmt: skip
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        self._wires.append((net, path))

    def _leg_words(
        self, painter: QPainter, x: float, y: float, leg: str, colour: str, side: str
    ) -> None:
        """The name of a conductor above it, its colour as a word below."""
        p, look = self._look.palette, self._look
        at = x + look.px(8) if side == "left" else x - look.px(100)
        painter.setFont(look.font(13, 600))
        painter.setPen(p.color("ink"))
        painter.drawText(QPointF(at, y - look.px(7)), leg)
        painter.setFont(look.font(12))
        painter.setPen(p.color("soft"))
        painter.drawText(QPointF(at, y + look.px(17)), colour)

    def _parts(self, painter: QPainter, middle: Sheet, left: float, right: float) -> None:
        """What is soldered, in a dashed case."""
        if not middle.symbols:
            return
        p, look = self._look.palette, self._look
        box = middle.box()
        unit = self._unit()
        pen = QPen(p.color("soft"), 1.4)
        pen.setDashPattern([5, 4])
        painter.setPen(pen)
        top, foot = self._y(box.y0) - look.px(16), self._y(COMMON) + look.px(30)
        painter.drawRoundedRect(QRectF(left, top, right - left, foot - top), 9, 9)
        painter.setFont(look.font(12))
        painter.setPen(p.color("soft"))
        painter.drawText(QPointF(left + look.px(10), foot - look.px(8)), "soldered in the box")
        painter.save()
        # rows of the drawing and of the conductors are the same lines
        painter.translate(left, self._y(0) + unit * box.y0)
        SheetPainter(painter, middle, p, unit, look.scale).paint()
        painter.restore()

    def _keyed(self) -> list[Conductor]:
        """The wires of the transmit switch, where this part of the chain ends in the radio."""
        build, span = self._model.build, self._model.span
        if build is None or span is None or span is not build.spans[-1]:
            return []
        return [c for c in build.conductors if c.start.startswith("switch.")]

    def _switch(self, painter: QPainter, span: Span) -> None:
        """The transmit switch with its two wires, below the sound."""
        keyed = self._keyed()
        spots = {span.right.ref(n): at for n, at in self._places(span.right, "right").items()}
        if not keyed or any(c.end not in spots for c in keyed):
            return
        p, look = self._look.palette, self._look
        box = QRectF(
            self._size()[1],
            self._y(COMMON + SWITCH_ROWS),
            max(2 * self._size()[0], look.px(152)),
            look.px(SWITCH_PX),
        )
        for k, wire in enumerate(keyed):
            y = box.top() + box.height() * (0.25 + 0.5 * k)
            path = QPainterPath(QPointF(box.right(), y))
            path.lineTo(self._turn_x("right") + look.px(26 * (k + 1)), y)
            path.lineTo(spots[wire.end])
            self._wire(painter, path, wire.colour, wire.net)
            painter.setFont(look.font(12))
            painter.setPen(p.color("soft"))
            painter.drawText(QPointF(box.right() + look.px(12), y - look.px(5)),
                             f"{wire.net}, {wire.colour}")  # fmt: skip
        painter.setPen(QPen(p.color("line"), 1.4))
        painter.setBrush(p.color("field"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(look.font(13, 600))
        painter.setPen(p.color("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "transmit switch\nmakes while pressed")

    # --- faces -----------------------------------------------------------------------------------

    def _centre(self, side: str) -> QPointF:
        x = self._size()[1] + self._size()[0]
        return QPointF(x if side == "left" else self.width() - x, self._y((HOT + COMMON) / 2))

    def _spots(self, end: End, side: str) -> tuple[Spot, ...]:
        return SHELLS[end.connector.shell].face(self._model.faces[side])

    def _places(self, end: End, side: str) -> dict[str, QPointF]:
        """Where each contact is on the screen."""
        at, radius = self._centre(side), self._size()[0]
        known = {c.label for c in end.connector.contacts}
        return {
            s.label: QPointF(at.x() + s.x * radius, at.y() - s.y * radius)
            for s in self._spots(end, side)
            if s.label in known
        }

    def _face(self, painter: QPainter, end: End, side: str) -> None:
        p = self._look.palette
        facts = SHELLS[end.connector.shell]
        at, radius = self._centre(side), self._size()[0]
        painter.setPen(QPen(p.color("ink"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if facts.coaxial:
            painter.drawRoundedRect(
                QRectF(at.x() - radius, at.y() - radius * 0.4, 2 * radius, radius * 0.8), 12, 12
            )
        else:
            painter.drawEllipse(at, radius, radius)
        if facts.key_deg is not None and not facts.coaxial:
            angle = math.radians(facts.key_deg)
            key = at + QPointF(radius * math.sin(angle), -radius * math.cos(angle))
            painter.setBrush(p.color("field"))
            painter.drawRoundedRect(QRectF(key.x() - 7, key.y() - 6, 14, 12), 3, 3)
        build = self._model.build
        used = {c for n in build.nets for c in n.contacts} if build else set()
        used |= {c.end for c in build.conductors} if build else set()
        for label, spot in self._places(end, side).items():
            self._contact(painter, end, label, spot, end.ref(label) in used)
        self._face_words(painter, end, side, facts.title)

    def _contact(self, painter: QPainter, end: End, label: str, spot: QPointF, used: bool) -> None:
        p, look = self._look.palette, self._look
        role = next(c.role for c in end.connector.contacts if c.label == label)
        live = role == "bias" and not used
        ring = "stop" if live else "ink" if used else "line"
        painter.setPen(QPen(p.color(ring), 2.0 if used or live else 1.4))
        painter.setBrush(p.color("field"))
        size = look.px(SPOT_PX)
        wide = size if len(label) <= 2 else look.px(24)
        painter.drawRoundedRect(QRectF(spot.x() - wide, spot.y() - size, 2 * wide, 2 * size), size,
                                size)  # fmt: skip
        painter.setFont(look.font(12, 600))
        painter.setPen(p.color("stop" if live else "ink" if used else "soft"))
        area = QRectF(spot.x() - wide, spot.y() - size, 2 * wide, 2 * size)
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, label)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        self._contacts.append((end, label, spot))

    def _face_words(self, painter: QPainter, end: End, side: str, title: str) -> None:
        """The connector above its face; below, which side one looks at."""
        p, look = self._look.palette, self._look
        at, radius = self._centre(side), self._size()[0]
        wide = radius * 2 + look.px(36)
        head = QRectF(at.x() - wide / 2, at.y() - radius - look.px(48), wide, look.px(38))
        painter.setFont(look.font(13, 600))
        painter.setPen(p.color("ink"))
        metrics = QFontMetricsF(painter.font())
        lines = wrapped(f"{title}: {end.name}", metrics, wide, 2)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom
        painter.drawText(head, int(flags), "\n".join(lines))
        below = at.y() + radius + look.px(8)
        if side == "right" and self._keyed():
            # the wires of the switch come up to this plug: words stand under them
            below = self._y(COMMON + SWITCH_ROWS) + look.px(SWITCH_PX + 8)
        foot = QRectF(at.x() - wide / 2, below, wide, look.px(54))
        painter.setFont(look.font(12))
        painter.setPen(p.color("soft"))
        lines = wrapped(face_words(end, self._model.faces[side]), QFontMetricsF(painter.font()),
                        wide, 3)  # fmt: skip
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        painter.drawText(foot, int(flags), "\n".join(lines))

    # --- hands -----------------------------------------------------------------------------------

    def _contact_at(self, at: QPointF) -> tuple[End, str] | None:
        reach = self._look.px(SPOT_PX + 2)
        for end, label, spot in self._contacts:
            if abs(at.x() - spot.x()) <= reach and abs(at.y() - spot.y()) <= reach:
                return end, label
        return None

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Light up what was pressed."""
        at = event.position()
        found = self._contact_at(at)
        if found is not None:
            end, label = found
            net = self._model.net_of(end.ref(label))
            if event.button() == Qt.MouseButton.RightButton or net is None:
                self.asked.emit(end, label)
            else:
                self._model.light(net.name)
            return
        stroker = QPainterPathStroker()
        stroker.setWidth(14)
        for net_name, path in self._wires:
            if stroker.createStroke(path).contains(at):
                self._model.light(net_name)
                return
        if self._model.lit:
            self._model.light(self._model.lit)

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go from net to net."""
        names = list(dict.fromkeys(n for n, _ in self._wires if n))
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and names:
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            now = names.index(self._model.lit) if self._model.lit in names else -step
            self._model.lit = names[(now + step) % len(names)]
            self._model.lit_changed.emit()
        else:
            super().keyPressEvent(event)


def face_words(end: End, face: str) -> str:
    """Which side of a plug one looks at."""
    facts = SHELLS[end.connector.shell]
    source = "a usual one: check it" if end.guessed else f"pinout: {end.connector.basis}"
    if facts.coaxial:
        return source
    if face == "front":
        return f"you look at the front of the plug; {source}"
    return f"you look at the solder side: left and right have changed; {source}"
