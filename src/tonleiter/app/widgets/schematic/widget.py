"""Draws a laid-out schematic in our own manner: round joints, petrol terminals, ink lines."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.schematic.layout import Drawing, Part, Slot

HEIGHT = 138
TOP = 44
BOTTOM = 118
# a slot of weight 1 narrower than this has no room for its value
CROWDED_BELOW_PX = 38.0
LEAST_WIDTH = 220


class SchematicWidget(QWidget):
    """Shows one drawing, scaled to the width there is."""

    def __init__(self, look: Look, ground: str = "panel") -> None:
        super().__init__()
        self._look, self._ground = look, ground
        self._drawing = Drawing(())
        self.setAccessibleName("Schematic")
        look.changed.connect(self.updateGeometry)

    def show_drawing(self, drawing: Drawing) -> None:
        """Show another drawing."""
        before = len(self._strips())
        self._drawing = drawing
        self.setAccessibleDescription(_spoken(drawing))
        if len(self._strips()) != before:
            self.updateGeometry()
        self.update()

    def _strips(self) -> list[tuple[Slot, ...]]:
        """The slots in one strip, or in two where one would be too crowded to read."""
        slots = self._drawing.slots
        weights = [_weight(slot) for slot in slots]
        total = sum(weights)
        if total * CROWDED_BELOW_PX <= max(self.width(), LEAST_WIDTH):
            return [slots]
        reached, cut = 0.0, 0
        while cut < len(slots) - 1 and reached + weights[cut] / 2 < total / 2:
            reached += weights[cut]
            cut += 1
        return [slots[:cut], slots[cut:]]

    @guarded
    def sizeHint(self) -> QSize:
        """Full width of the inspector, a fixed height for each strip."""
        return QSize(LEAST_WIDTH, self._look.px(HEIGHT) * len(self._strips()))

    @guarded
    def minimumSizeHint(self) -> QSize:
        """As tall as the hint."""
        return QSize(120, self._look.px(HEIGHT) * len(self._strips()))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the slots from left to right."""
        drawing = self._drawing
        if not drawing.slots:
            return
        with painting(self) as painter:
            painter.scale(1.0, self._look.scale)
            strips = self._strips()
            for k, slots in enumerate(strips):
                self._strip(painter, slots, first=k == 0, last=k == len(strips) - 1)
                painter.translate(0, HEIGHT)

    def _strip(self, painter: QPainter, slots: tuple[Slot, ...], first: bool, last: bool) -> None:
        """One strip; where it goes on in the next, its end is an open ring."""
        drawing = self._drawing
        left, right = 12.0, self.width() - 12.0
        if first and drawing.source == "microphone":
            left += 34
        widths = [_weight(slot) for slot in slots]
        unit = (right - left) / sum(widths)
        x = left
        self._common(painter, drawing, 12.0, right)
        if first and drawing.source == "microphone":
            self._microphone(painter, left)
        for slot, weight in zip(slots, widths, strict=True):
            width = weight * unit
            self._slot(painter, slot, x, x + width, drawing)
            x += width
        if not first or drawing.source == "port":
            self._terminal(painter, QPointF(left, TOP), open_ring=not first)
        self._terminal(painter, QPointF(right, TOP), open_ring=not last)

    # --- pieces ----------------------------------------------------------------------------------

    def _ink(self, width: float = 1.7) -> QPen:
        return QPen(
            self._look.palette.color("ink"), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap
        )

    def _terminal(self, painter: QPainter, at: QPointF, open_ring: bool = False) -> None:
        p = self._look.palette
        painter.setPen(QPen(p.color("signal"), 1.6) if open_ring else Qt.PenStyle.NoPen)
        painter.setBrush(p.color("panel" if open_ring else "signal"))
        painter.drawEllipse(at, 3.6, 3.6)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _common(self, painter: QPainter, drawing: Drawing, left: float, right: float) -> None:
        """The cold conductor along the foot, drawn lighter than the signal."""
        painter.setPen(QPen(self._look.palette.color("soft"), 1.2))
        if drawing.common:
            painter.drawLine(QPointF(left, BOTTOM), QPointF(right, BOTTOM))

    def _slot(self, painter: QPainter, slot: Slot, x0: float, x1: float, drawing: Drawing) -> None:
        if slot.inline is not None:
            if slot.inline.kind == "transformer":
                self._transformer(painter, slot, x0, x1)
            elif slot.inline.kind in ("bipolar", "fet"):
                self._transistor(painter, slot, x0, x1)
            else:
                self._inline(painter, slot.inline, x0, x1, TOP)
                if slot.cold is not None:
                    self._clear_common(painter, slot.cold, x0, x1)
                    self._inline(painter, Part(slot.cold.kind, ""), x0, x1, BOTTOM)
            return
        middle = x0 + (x1 - x0) * 0.32
        painter.setPen(self._ink())
        painter.drawLine(QPointF(x0, TOP), QPointF(x1, TOP))
        painter.setBrush(self._look.palette.color("ink"))
        painter.drawEllipse(QPointF(middle, TOP), 2.2, 2.2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if slot.hanging and slot.hanging[0].kind == "electret":
            self._electret(painter, slot.hanging[0], middle)
            return
        step = (BOTTOM - TOP) / len(slot.hanging)
        for k, part in enumerate(slot.hanging):
            self._vertical(painter, part, middle, TOP + k * step, TOP + (k + 1) * step)

    def _transistor(self, painter: QPainter, slot: Slot, x0: float, x1: float) -> None:
        """Base from the left, collector on to the right, emitter down to what stands there."""
        assert slot.inline is not None
        bar, foot = x0 + (x1 - x0) * 0.45, x0 + (x1 - x0) * 0.45 + 14
        painter.setPen(self._ink())
        painter.drawLine(QPointF(x0, TOP), QPointF(x0, TOP + 14))
        painter.drawLine(QPointF(x0, TOP + 14), QPointF(bar, TOP + 14))
        painter.setPen(self._ink(2.6))
        painter.drawLine(QPointF(bar, TOP + 4), QPointF(bar, TOP + 24))
        painter.setPen(self._ink())
        if slot.inline.kind == "bipolar":
            painter.drawLine(QPointF(bar, TOP + 9), QPointF(foot, TOP))
            painter.drawLine(QPointF(bar, TOP + 19), QPointF(foot, TOP + 29))
        else:
            painter.drawLine(QPointF(bar, TOP + 7), QPointF(foot, TOP + 7))
            painter.drawLine(QPointF(foot, TOP + 7), QPointF(foot, TOP))
            painter.drawLine(QPointF(bar, TOP + 22), QPointF(foot, TOP + 22))
            painter.drawLine(QPointF(foot, TOP + 22), QPointF(foot, TOP + 29))
        painter.drawLine(QPointF(foot, TOP), QPointF(x1, TOP))
        if not slot.hanging:
            painter.drawLine(QPointF(foot, TOP + 29), QPointF(foot, BOTTOM))
            return
        gap = 26.0
        for k, part in enumerate(slot.hanging):
            x = foot + k * gap
            painter.setPen(self._ink())
            painter.drawLine(QPointF(foot, TOP + 29), QPointF(x, TOP + 29))
            last = Part(part.kind, part.label if k == len(slot.hanging) - 1 else "")
            self._vertical(painter, last, x, TOP + 29, BOTTOM)

    def _text(self, painter: QPainter, box: QRectF, text: str, align: Qt.AlignmentFlag) -> None:
        """Text in an unscaled frame, so that letters keep their shape."""
        painter.save()
        scale = self._look.scale
        painter.scale(1.0, 1.0 / scale)
        painter.setFont(self._look.font(12, mono=True))
        painter.setPen(self._look.palette.color("ink"))
        scaled = QRectF(box.x(), box.y() * scale, box.width(), box.height() * scale)
        painter.drawText(scaled, align | Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()

    def _inline(self, painter: QPainter, part: Part, x0: float, x1: float, y: float) -> None:
        """A part in the line at height ``y``, its value above it."""
        middle = (x0 + x1) / 2
        half = min(15.0, (x1 - x0) * 0.36)
        painter.setPen(self._ink())
        painter.drawLine(QPointF(x0, y), QPointF(middle - half, y))
        painter.drawLine(QPointF(middle + half, y), QPointF(x1, y))
        match part.kind:
            case "resistor":
                painter.drawRect(QRectF(middle - half, y - 6, 2 * half, 12))
            case "capacitor":
                painter.drawLine(QPointF(middle - half, y), QPointF(middle - 3.5, y))
                painter.drawLine(QPointF(middle + 3.5, y), QPointF(middle + half, y))
                for x in (middle - 3.5, middle + 3.5):
                    painter.drawLine(QPointF(x, y - 10), QPointF(x, y + 10))
            case "coil":
                painter.drawPath(_coil(QPointF(middle - half, y), 2 * half, 4, True))
            case "amplifier":
                path = QPainterPath(QPointF(middle - half, y - 15))
                path.lineTo(middle + half, y)
                path.lineTo(middle - half, y + 15)
                path.closeSubpath()
                painter.drawPath(path)
        box = QRectF(x0 - 14, y - 34, x1 - x0 + 28, 20)
        self._text(painter, box, part.label, Qt.AlignmentFlag.AlignHCenter)

    def _clear_common(self, painter: QPainter, part: Part, x0: float, x1: float) -> None:
        """Take the common conductor away where a part of the cold leg stands in it."""
        middle = (x0 + x1) / 2
        half = min(15.0, (x1 - x0) * 0.36) if part.kind in ("resistor", "coil") else 3.5
        ground = self._look.palette.color(self._ground)
        painter.fillRect(QRectF(middle - half, BOTTOM - 2, 2 * half, 4), ground)

    def _vertical(self, painter: QPainter, part: Part, x: float, y0: float, y1: float) -> None:
        middle = (y0 + y1) / 2
        half = min(15.0, (y1 - y0) * 0.33)
        painter.setPen(self._ink())
        if part.kind in ("resistor", "granules"):
            painter.drawLine(QPointF(x, y0), QPointF(x, middle - half))
            painter.drawLine(QPointF(x, middle + half), QPointF(x, y1))
            painter.drawRect(QRectF(x - 6, middle - half, 12, 2 * half))
            if part.kind == "granules":
                painter.drawLine(QPointF(x - 13, middle + half), QPointF(x + 11, middle - half))
        elif part.kind == "coil":
            painter.drawLine(QPointF(x, y0), QPointF(x, middle - half))
            painter.drawLine(QPointF(x, middle + half), QPointF(x, y1))
            painter.drawPath(_coil(QPointF(x, middle - half), 2 * half, 4, False))
        else:
            gap = 3.5
            painter.drawLine(QPointF(x, y0), QPointF(x, middle - gap))
            painter.drawLine(QPointF(x, middle + gap), QPointF(x, y1))
            upper = 9.0
            lower = 5.0 if part.kind == "battery" else 9.0
            painter.drawLine(QPointF(x - upper, middle - gap), QPointF(x + upper, middle - gap))
            painter.drawLine(QPointF(x - lower, middle + gap), QPointF(x + lower, middle + gap))
        self._text(
            painter, QRectF(x + 11, middle - 10, 90, 20), part.label, Qt.AlignmentFlag.AlignLeft
        )

    def _microphone(self, painter: QPainter, x: float) -> None:
        """A capsule seen from the side: diaphragm towards the voice."""
        y = (TOP + BOTTOM) / 2
        painter.setPen(self._ink())
        painter.drawEllipse(QPointF(x - 22, y), 12.0, 12.0)
        painter.drawLine(QPointF(x - 35, y - 14), QPointF(x - 35, y + 14))
        painter.drawLine(QPointF(x - 22, y - 12), QPointF(x - 22, TOP))
        painter.drawLine(QPointF(x - 22, TOP), QPointF(x, TOP))
        painter.drawLine(QPointF(x - 22, y + 12), QPointF(x - 22, BOTTOM))

    def _electret(self, painter: QPainter, part: Part, x: float) -> None:
        """Charged diaphragm on the gate of a JFET, drain up, source down."""
        y = (TOP + BOTTOM) / 2
        painter.setPen(self._ink())
        channel = x - 8
        painter.drawLine(QPointF(channel, y - 14), QPointF(channel, y + 14))
        for sign in (-1, 1):
            painter.drawLine(QPointF(channel, y + sign * 9), QPointF(x, y + sign * 9))
        painter.drawLine(QPointF(x, y - 9), QPointF(x, TOP))
        painter.drawLine(QPointF(x, y + 9), QPointF(x, BOTTOM))
        gate = channel - 26
        painter.drawLine(QPointF(gate, y), QPointF(channel, y))
        arrow = QPainterPath(QPointF(channel - 1, y))
        arrow.lineTo(channel - 8, y - 4)
        arrow.lineTo(channel - 8, y + 4)
        arrow.closeSubpath()
        painter.fillPath(arrow, self._look.palette.color("ink"))
        painter.drawLine(QPointF(gate, y - 11), QPointF(gate, y + 11))
        painter.setPen(QPen(self._look.palette.color("signal"), 2.4))
        painter.drawLine(QPointF(gate - 7, y - 13), QPointF(gate - 7, y + 13))
        self._text(painter, QRectF(x + 11, y - 10, 90, 20), part.label, Qt.AlignmentFlag.AlignLeft)

    def _transformer(self, painter: QPainter, slot: Slot, x0: float, x1: float) -> None:
        assert slot.inline is not None
        middle = (x0 + x1) / 2
        painter.setPen(self._ink())
        for side in (-1, 1):
            x = middle + side * 11
            edge = x0 if side < 0 else x1
            painter.drawLine(QPointF(edge, TOP), QPointF(x, TOP))
            painter.drawLine(QPointF(x, TOP), QPointF(x, TOP + 8))
            painter.drawPath(_coil(QPointF(x, TOP + 8), BOTTOM - TOP - 16, 5, False, -side))
            painter.drawLine(QPointF(x, BOTTOM - 8), QPointF(x, BOTTOM))
            core = middle + side * 2.5
            painter.drawLine(QPointF(core, TOP + 8), QPointF(core, BOTTOM - 8))
        painter.setPen(QPen(self._look.palette.color("soft"), 1.2))
        if self._drawing.common:
            box = QRectF(x0 - 20, TOP - 34, x1 - x0 + 40, 20)
            self._text(painter, box, slot.inline.label, Qt.AlignmentFlag.AlignHCenter)
            return
        painter.drawLine(QPointF(12, BOTTOM), QPointF(middle - 11, BOTTOM))
        painter.drawLine(QPointF(middle + 11, BOTTOM), QPointF(self.width() - 12, BOTTOM))
        box = QRectF(x0 - 20, TOP - 34, x1 - x0 + 40, 20)
        self._text(painter, box, slot.inline.label, Qt.AlignmentFlag.AlignHCenter)


def _weight(slot: Slot) -> float:
    if slot.inline is None:
        return 1.15
    if slot.inline.kind in ("bipolar", "fet"):
        return 3.3 if len(slot.hanging) > 1 else 1.8
    return 1.25 if slot.inline.kind == "transformer" else 1.0


def _coil(
    start: QPointF, length: float, turns: int, horizontal: bool, side: int = 1
) -> QPainterPath:
    """Half-round turns along a line."""
    path = QPainterPath(start)
    step = length / turns
    for k in range(turns):
        if horizontal:
            box = QRectF(start.x() + k * step, start.y() - step / 2, step, step)
            path.arcTo(box, 180, -180)
        else:
            box = QRectF(start.x() - step / 2, start.y() + k * step, step, step)
            path.arcTo(box, 90, -180 * side)
    return path


def _spoken(drawing: Drawing) -> str:
    words = []
    for slot in drawing.slots:
        if slot.inline is not None:
            where = "in both legs" if slot.cold is not None else "in line"
            words.append(f"{slot.inline.kind} {slot.inline.label} {where}".replace("  ", " "))
        words += [f"{part.kind} {part.label} to common" for part in slot.hanging]
    return ", then ".join(words)
