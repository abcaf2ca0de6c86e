"""Painting a score: a face at each end, a line for each conductor, what is soldered between."""

from __future__ import annotations

from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen

from tonleiter.app.theme.fonts import font
from tonleiter.app.theme.palette import Palette
from tonleiter.app.widgets.canvas.words import wrapped
from tonleiter.app.widgets.drawing.painter import SheetPainter
from tonleiter.app.widgets.wiring.faces import FacePainter, spot_size, spot_tall
from tonleiter.app.widgets.wiring.inks import inks_of, is_braid
from tonleiter.app.widgets.wiring.places import (
    FEED_EDGE_PX,
    FOOT_PX,
    KEYER_FOOT_PX,
    KEYER_TOP_PX,
    KEYER_UNIT_PX,
    PORT_PX,
    ScorePlaces,
)
from tonleiter.app.widgets.wiring.routing import into
from tonleiter.core.drawing.draft import COMMON, HOT
from tonleiter.core.report.score import Plug, Score, Side, Strand
from tonleiter.core.station.shells import Face
from tonleiter.core.wiring.keyed import PORT_WORDS
from tonleiter.core.wiring.model import Build, Conductor


@dataclass(frozen=True)
class Shown:
    """What of a score is lit, chosen, and from which side its plugs are seen."""

    net: str = ""
    wire: str = ""
    contact: tuple[str, str] | None = None
    faces: dict[str, Face] = field(default_factory=lambda: {"left": "front", "right": "front"})


class ScorePainter(ScorePlaces):
    """Paints it. After painting ``wires`` and ``contacts`` say what is where."""

    def __init__(
        self,
        score: Score,
        build: Build,
        palette: Palette,
        scale: float,
        width: float,
        height: float = 0.0,
        buttons_px: float = 0.0,
        foot: bool = True,
    ) -> None:
        """As the places of a score, in the inks of a palette."""
        super().__init__(score, build, scale, width, height, buttons_px, foot)
        self._palette = palette
        self.wires: list[tuple[Conductor, str, QPainterPath]] = []
        self.contacts: list[tuple[Plug, str, QPointF]] = []

    def paint(self, painter: QPainter, shown: Shown) -> None:
        """Faces below, conductors over them, contacts and words last."""
        self.wires, self.contacts = [], []
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        faces = FacePainter(painter, self._palette, self.size()[0], self._scale)
        score = self._score
        plugs = (score.left, score.right)
        spots = {p.side: faces.places(p, shown.faces[p.side], self.centre(p.side)) for p in plugs}
        for plug in plugs:
            faces.outline(plug, shown.faces[plug.side], self.centre(plug.side))
        self._case(painter)
        self._strands(painter, spots, shown)
        self._switch(painter, spots["right"], shown)
        self._fed(painter, spots["right"], shown)
        self._shared(painter, spots["right"], shown)
        self._links(painter, spots)
        self._parts(painter, shown)
        for plug in plugs:
            self._contacts_of(faces, plug, spots[plug.side], shown)
            self._words(painter, plug, shown.faces[plug.side])

    def _contacts_of(
        self, faces: FacePainter, plug: Plug, spots: dict[str, QPointF], shown: Shown
    ) -> None:
        used = {label for side, label in self._used if side == plug.side}
        live = {
            c.label for c in plug.end.connector.contacts if c.role == "bias" and c.label not in used
        }
        chosen = ""
        if shown.contact is not None and shown.contact[0] == plug.end.id:
            chosen = shown.contact[1]
        faces.paint_contacts(spots, used, live, chosen)
        self.contacts += [(plug, label, at) for label, at in spots.items()]

    def _case(self, painter: QPainter) -> None:
        """What is soldered, in a dashed case."""
        if not self._score.sheet.symbols:
            return
        box = self._score.sheet.box()
        left, right = self._edges()
        pen = QPen(self._palette.color("soft"), 1.4)
        pen.setDashPattern([5, 4])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        top, foot = self._y(box.y0) - self.px(16), self._y(COMMON) + self.px(30)
        painter.drawRoundedRect(QRectF(left, top, right - left, foot - top), 9, 9)
        painter.setFont(font(12, 400, False, self._scale))
        painter.setPen(self._palette.color("soft"))
        tail = ", joined to the screen" if self._score.case_joined else ", joined to nothing"
        words = self._score.case + (tail if self._score.case.startswith("metal") else "")
        painter.drawText(QPointF(left + self.px(2), foot + self.px(15)), words)

    def _parts(self, painter: QPainter, shown: Shown) -> None:
        sheet = self._score.sheet
        if not sheet.symbols:
            return
        box, unit = sheet.box(), self.unit()
        painter.save()
        # rows of the drawing and of the conductors are the same lines
        painter.translate(self._edges()[0], self._y(0) + unit * box.y0)
        if shown.net:
            painter.setPen(QPen(self._palette.color("aim", 0.45), 9))
            for wire in sheet.wires:
                if self._build.net_at.get(wire.node) == shown.net:
                    painter.drawLine(
                        QPointF((wire.x0 - box.x0) * unit, (wire.y0 - box.y0) * unit),
                        QPointF((wire.x1 - box.x0) * unit, (wire.y1 - box.y0) * unit),
                    )
        SheetPainter(painter, sheet, self._palette, unit, self._scale).paint()
        painter.restore()

    def _strands(
        self, painter: QPainter, spots: dict[Side, dict[str, QPointF]], shown: Shown
    ) -> None:
        left, right = self._edges()
        if left == right:
            self._whole_strands(painter, spots, shown)
            return
        for strand in self._score.strands:
            edge = left if strand.side == "left" else right
            turn, y = self._turn_x(strand.side), self._y(strand.row)
            at = None if strand.contact is None else spots[strand.side].get(strand.contact)
            way = self._into(QPointF(turn, y), strand.contact, spots[strand.side])
            path = _through([*reversed(way), QPointF(edge, y)])
            self._wire(painter, path, strand.wire, shown)
            if at is None:
                self._cut(painter, QPointF(turn, y))
            self._names(painter, strand, turn, y)

    def _whole_strands(
        self, painter: QPainter, spots: dict[Side, dict[str, QPointF]], shown: Shown
    ) -> None:
        """Nothing stands between: each wire is one line from plug to plug."""
        right = {s.leg: s for s in self._score.strands if s.side == "right"}
        for strand in (s for s in self._score.strands if s.side == "left"):
            y = self._y(strand.row)
            ends = [QPointF(self._turn_x(side), y) for side in ("left", "right")]
            other = right.get(strand.leg)
            starts = spots["left"].get(strand.contact or "")
            goal = spots["right"].get(other.contact or "") if other is not None else None
            here = self._into(ends[0], strand.contact, spots["left"])
            there = self._into(ends[1], other.contact if other else None, spots["right"])
            path = _through([*reversed(here), *there])
            self._wire(painter, path, strand.wire, shown)
            for at, end in ((starts, ends[0]), (goal, ends[1])):
                if at is None:
                    self._cut(painter, end)
            self._names(painter, strand, ends[0].x(), y)

    def _past(self) -> QPointF:
        """How far a wire runs whose end is on another plug."""
        return QPointF(self.px(250), 0)

    def _into(
        self, start: QPointF, contact: str | None, spots: dict[str, QPointF]
    ) -> list[QPointF]:
        """The way into a face; nothing but its start for a wire that ends in no contact of it."""
        if contact is None or contact not in spots:
            return [start]
        size = spot_size(spots, self._scale)
        return into(start, contact, spots, size, spot_tall(size, self._scale))

    def _cut(self, painter: QPainter, at: QPointF) -> None:
        """A wire that is cut back."""
        painter.setPen(QPen(self._palette.color("aim"), 2.2))
        size = self.px(5)
        for dx, dy in ((size, size), (size, -size)):
            painter.drawLine(at - QPointF(dx, dy), at + QPointF(dx, dy))

    def _wire(self, painter: QPainter, path: QPainterPath, wire: Conductor, shown: Shown) -> None:
        if shown.net and wire.net == shown.net:
            strong = 13 if wire.key and wire.key == shown.wire else 10
            painter.setPen(QPen(self._palette.color("aim", 0.45), strong))
            painter.drawPath(path)
        ink, second = inks_of(wire.colour, self._palette)
        pen = QPen(
            ink,
            5.0 if is_braid(wire.colour) else 3.4,
            Qt.PenStyle.SolidLine,
            Qt.PenCapStyle.RoundCap,
            Qt.PenJoinStyle.RoundJoin,
        )
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        if second is not None:
            stripe = QPen(second, 3.4, Qt.PenStyle.CustomDashLine, Qt.PenCapStyle.FlatCap)
            stripe.setDashPattern([3, 3])
            painter.setPen(stripe)
            painter.drawPath(path)
        self.wires.append((wire, wire.net, path))

    def _names(self, painter: QPainter, strand: Strand, turn: float, y: float) -> None:
        """The name of a conductor above it, its colour as a word below."""
        wide = self.size()[2] - self.px(12)
        name = strand.name if strand.contact is not None else f"{strand.name}, cut back"
        flag = Qt.AlignmentFlag.AlignLeft
        x = turn + self.px(8)
        if strand.side == "right":
            flag, x = Qt.AlignmentFlag.AlignRight, turn - self.px(8) - wide
        if not self._score.sheet.symbols:
            # nothing stands between: the name has the whole line
            wide = max(wide, self._width - 2 * self._turn_x("left"))
        both = ((name, 600, "ink", -24.0), (strand.wire.colour, 400, "soft", 4.0))
        for words, weight, ink, dy in both:
            painter.setFont(font(12 if weight == 400 else 13, weight, False, self._scale))
            painter.setPen(self._palette.color(ink))
            metrics = QFontMetricsF(painter.font())
            said = metrics.elidedText(words, Qt.TextElideMode.ElideRight, wide)
            painter.drawText(
                QRectF(x, y + self.px(dy), wide, self.px(20)),
                int(flag | Qt.AlignmentFlag.AlignVCenter),
                said,
            )

    def _switch(self, painter: QPainter, spots: dict[str, QPointF], shown: Shown) -> None:
        """The transmit switch with its wires, below the sound."""
        keyed = self._score.keyed
        if not keyed:
            return
        box = self._switch_box()
        for k, wire in enumerate(keyed):
            start = self._keyed_from(k)
            y = start.y()
            label = wire.label_at(self._score.right.end.id)
            at = None if label is None else spots.get(label)
            turn = QPointF(self._turn_x("right") + self.px(20 * (k + 1)), y)
            way = self._into(turn, label, spots) if at is not None else [start + self._past()]
            self._wire(painter, _through([start, *way]), wire, shown)
            painter.setFont(font(12, 400, False, self._scale))
            painter.setPen(self._palette.color("soft"))
            tail = "" if at is not None else f", to {self._elsewhere(wire)}"
            painter.drawText(
                QPointF(box.right() + self.px(12), y - self.px(5)),
                f"{wire.leg.replace('-', ' ')}, {wire.colour}{tail}",
            )
        if self._score.keyer.symbols:
            self._captioned(painter, box, "")
            self._keyer(painter, box)
            return
        keying = self._build.keying
        self._captioned(painter, box, keying.says if keying is not None else "transmit switch")

    def _fed(self, painter: QPainter, spots: dict[str, QPointF], shown: Shown) -> None:
        """From a contact of the right plug over the case to what it feeds."""
        box, unit, left = self._score.sheet.box(), self.unit(), self._edges()[0]
        for wire, node in self._score.fed:
            ends = [t for t in self._score.sheet.terminals if t.node == node and t.leg == "feed"]
            contact = wire.label_at(self._score.right.end.id)
            if not ends:
                continue
            at = QPointF(left + unit * (ends[0].x - box.x0), self._y(0) + unit * ends[0].y)
            over = self._y(box.y0) - self.px(26)
            edge = self._width - self.px(FEED_EDGE_PX) / 3
            down = QPointF(edge, spots[contact].y() if contact in spots else over)
            way = [QPointF(at.x(), over), QPointF(edge, over), *self._into(down, contact, spots)]
            self._wire(painter, _through([at, *way]), wire, shown)
            painter.setFont(font(12, 400, False, self._scale))
            painter.setPen(self._palette.color("soft"))
            where = QPointF(at.x() + self.px(12), over - self.px(6))
            painter.drawText(where, f"{wire.leg}, {wire.colour}")

    def _shared(self, painter: QPainter, spots: dict[str, QPointF], shown: Shown) -> None:
        """Other chains that are soldered in the same plug, each with its wires."""
        turned = len(self._score.keyed)
        for n, other in enumerate(self._score.shared):
            box = self._shared_box(n)
            for k, wire in enumerate(other.wires):
                y = box.top() + box.height() * (k + 0.5) / len(other.wires)
                turned += 1
                turn = QPointF(self._turn_x("right") + self.px(12 * turned + 8), y)
                way = self._into(turn, wire.label_at(other.end), spots)
                self._wire(painter, _through([QPointF(box.right(), y), *way]), wire, shown)
                painter.setFont(font(12, 400, False, self._scale))
                painter.setPen(self._palette.color("soft"))
                words = f"{wire.leg.replace('-', ' ')}, {wire.colour}"
                painter.drawText(QPointF(box.right() + self.px(12), y - self.px(5)), words)
            self._captioned(painter, box, other.chain.name)

    def _captioned(self, painter: QPainter, box: QRectF, words: str) -> None:
        painter.setPen(QPen(self._palette.color("line"), 1.4))
        painter.setBrush(self._palette.color("field"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(12, 600, False, self._scale))
        painter.setPen(self._palette.color("ink"))
        lines = wrapped(words, QFontMetricsF(painter.font()), box.width() - self.px(10), 3)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "\n".join(lines))

    def _elsewhere(self, wire: Conductor) -> str:
        """Where a wire goes that does not end in the right plug."""
        end = self._build.key_end
        if wire.end is None:
            return "nothing"
        if end is not None and wire.end.thing == end.id:
            return f"{wire.end.label} of {end.connector.name}"
        return wire.end

    def _keyer(self, painter: QPainter, box: QRectF) -> None:
        """What a serial port drives, as it is soldered, and the contacts of the port."""
        sheet, unit = self._score.keyer, self.px(KEYER_UNIT_PX)
        drawn = sheet.box()
        left = box.left() + self.px(PORT_PX)
        painter.save()
        painter.translate(left, box.top() + self.px(KEYER_TOP_PX))
        SheetPainter(painter, sheet, self._palette, unit, self._scale).paint()
        painter.restore()
        painter.setFont(font(12, 400, False, self._scale))
        painter.setPen(self._palette.color("soft"))
        ends = [t for t in sheet.terminals if t.side == "left" and t.leg != "feed"]
        for terminal, contact in zip(ends, PORT_WORDS, strict=True):
            y = box.top() + self.px(KEYER_TOP_PX) + unit * (terminal.y - drawn.y0)
            area = QRectF(box.left() + 2, y - self.px(10), self.px(PORT_PX) - 4, self.px(20))
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, f"port {contact.label}")
        foot = QRectF(
            box.left() + self.px(6),
            box.bottom() - self.px(KEYER_FOOT_PX),
            box.width() - self.px(12),
            self.px(KEYER_FOOT_PX),
        )
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "port: DE-9, female half")

    def _links(self, painter: QPainter, spots: dict[Side, dict[str, QPointF]]) -> None:
        """Short wires in a plug, and contacts that are joined by solder."""
        for side, one, other, _ in self._score.links:
            self._short(painter, spots[side], one, other, "soft", 2.6)
        for side, one, other in self._score.joined:
            self._short(painter, spots[side], one, other, "mind", 7.0)

    def _short(
        self,
        painter: QPainter,
        spots: dict[str, QPointF],
        one: str,
        other: str,
        ink: str,
        wide: float,
    ) -> None:
        if one in spots and other in spots:
            painter.setPen(QPen(self._palette.color(ink), wide))
            painter.drawLine(spots[one], spots[other])

    def _words(self, painter: QPainter, plug: Plug, face: Face) -> None:
        """The connector above its face; below, which side one looks at, and where that is from."""
        at, radius = self.centre(plug.side), self.size()[0]
        wide = radius * 2 + self.px(72)
        x = min(max(at.x() - wide / 2, 2.0), self._width - wide - 2.0)
        # over the name of the first wire, which stands beside a small face
        top = min(at.y() - radius, self._y(HOT) - self.px(20))
        # a wire that feeds something comes down at the right edge
        left = wide - self.px(FEED_EDGE_PX) if self._score.fed and plug.side == "right" else wide
        head = QRectF(x, top - self.px(70), left, self.px(62))
        painter.setFont(font(13, 600, False, self._scale))
        painter.setPen(self._palette.color("ink"))
        metrics = QFontMetricsF(painter.font())
        lines = [
            *wrapped(plug.title(), metrics, left, 2),
            *wrapped(plug.end.name, metrics, left, 1),
        ]
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom
        painter.drawText(head, int(flags), "\n".join(lines))
        if self._foot_px < FOOT_PX:
            return
        below = self.buttons_at(plug.side).y() + self._buttons
        foot = QRectF(x, below, wide, self.px(FOOT_PX))
        painter.setFont(font(12, 400, False, self._scale))
        painter.setPen(self._palette.color("soft"))
        metrics = QFontMetricsF(painter.font())
        said = f"{plug.words(face)} {plug.source()[0].upper()}{plug.source()[1:]}."
        lines = wrapped(said, metrics, wide, 4)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        painter.drawText(foot, int(flags), "\n".join(lines))


def _through(points: list[QPointF]) -> QPainterPath:
    """A line through points."""
    path = QPainterPath(points[0])
    for point in points[1:]:
        path.lineTo(point)
    return path
