"""The drawing of what is on the bench, with a letter at every point to put a probe."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.prove.model import ProveModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.drawing.painter import SheetPainter, size_px
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.report.drawings import draw_stages
from tonleiter.core.wiring.model import is_soldered

UNIT_PX, LEAST_PX, SPOT_PX, TOP_PX = 9.0, 6.5, 10.0, 10


class BenchDrawing(QWidget):
    """Letters are green where the reading fits, red where it does not, brass where it is next."""

    def __init__(self, model: ProveModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._sheet = Sheet()
        self._of: object = None
        self.setAccessibleName("Drawing of the build with its measuring points")
        model.changed.connect(self._follow)
        model.scoped.connect(self.update)
        look.changed.connect(self._follow)

    def _follow(self) -> None:
        found = self._model.found
        if found is not self._of:
            self._of = found
            self._sheet = Sheet()
            if found is not None and found.build.spans:
                span = found.build.spans[self._model.place]
                stages = span.between(found.assessment.solution.compiled.stages)
                soldered = [s for s in stages if is_soldered(s.gear)]
                if soldered:
                    drawn = draw_stages(found.assessment.solution, soldered).sheet
                    # volts stand beside their readings; here the letters need the room
                    texts = tuple(t for t in drawn.texts if t.role != "volts")
                    self._sheet = replace(drawn.named(dict(found.build.refs)), texts=texts)
        self.setVisible(bool(self._sheet.symbols))
        self.setAccessibleDescription(self._sheet.spoken())
        self.updateGeometry()
        self.update()

    def _unit(self) -> float:
        box = self._sheet.box()
        most = UNIT_PX * self._look.scale
        return min(max((self.width() - 8) / max(box.width, 1), LEAST_PX), most)

    def _text_scale(self) -> float:
        """Large text, as far as the drawing has room for it."""
        return min(self._look.scale, max(self._unit() / LEAST_PX, 1.0))

    @guarded
    def sizeHint(self) -> QSize:
        """As tall as the drawing is in this width."""
        _, height = size_px(self._sheet, self._unit())
        return QSize(self._look.px(300), round(height) + TOP_PX + 4)

    @guarded
    def minimumSizeHint(self) -> QSize:
        """As tall as it must be."""
        width, height = size_px(self._sheet, LEAST_PX)
        return (
            QSize(round(width), round(height) + TOP_PX + 4) if self._sheet.symbols else QSize(0, 0)
        )

    def spots(self) -> dict[str, QPointF]:
        """Where each letter stands."""
        proof, found = self._model.proof, self._model.found
        if proof is None or found is None or not self._sheet.symbols:
            return {}
        box, unit = self._sheet.box(), self._unit()
        place: dict[str, QPointF] = {}
        net_at = found.build.net_at
        for point in proof.unit.points:
            net = net_at.get(point.node)
            lines = [w for w in self._sheet.wires if net_at.get(w.node) == net]
            if not lines:
                continue
            # on the longest straight piece of the net, where there is room for a letter
            best = max(lines, key=lambda w: abs(w.x1 - w.x0) + abs(w.y1 - w.y0))
            x, y = (best.x0 + best.x1) / 2, (best.y0 + best.y1) / 2
            place[point.letter] = QPointF((x - box.x0) * unit, (y - box.y0) * unit + TOP_PX)
        return place

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A press on a letter puts the red tip there, with Shift the black one."""
        at, reach = event.position(), 1.4 * self._look.px(SPOT_PX)
        near = {letter: (spot - at).manhattanLength() for letter, spot in self.spots().items()}
        letter = min(near, key=lambda k: near[k], default="")
        if not letter or near[letter] > reach:
            return
        shift = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        self._model.set_tools(**{"black" if shift else "red": letter})

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The drawing, then the letters."""
        if not self._sheet.symbols:
            return
        look, model = self._look, self._model
        with painting(self) as painter:
            painter.save()
            painter.translate(0, TOP_PX)
            SheetPainter(
                painter, self._sheet, look.palette, self._unit(), self._text_scale()
            ).paint()
            painter.restore()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            wanted = model.ranking.next.id if model.ranking and model.ranking.next else ""
            read, off = model.readings(), model.disagreeing()
            for letter, at in self.spots().items():
                name = f"dc {letter}"
                fill = "stop" if name in off else "fine" if name in read else "field"
                self._letter(painter, letter, at, wanted == name, fill)
            self._tips(painter)

    def _tips(self, painter: QPainter) -> None:
        """Where the meter is held: a small mark beside the letter, its colour as a word."""
        look, tools, spots = self._look, self._model.tools, self.spots()
        if self._model.step not in ("ring", "dc", "tone"):
            return
        painter.setFont(look.font(12, 600))
        for name, at in (("red", tools.red), ("black", tools.black)):
            if at in spots and tools.mode != "current":
                painter.setPen(look.palette.color("stop" if name == "red" else "ink"))
                spot, size = spots[at], look.px(SPOT_PX)
                below = size + painter.fontMetrics().ascent() + 1
                painter.drawText(QPointF(max(spot.x() - size, 0), spot.y() + below), name)

    def _letter(self, painter: QPainter, letter: str, at: QPointF, wanted: bool, fill: str) -> None:
        look = self._look
        p, read = look.palette, fill != "field"
        painter.setPen(QPen(p.color("aim" if wanted or not read else fill), 3 if wanted else 1.6))
        painter.setBrush(p.color(fill))
        painter.drawEllipse(at, look.px(SPOT_PX), look.px(SPOT_PX))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(look.font(12, 700))
        painter.setPen(p.color("panel" if read else "ink"))
        size = look.px(SPOT_PX)
        painter.drawText(
            int(at.x()) - size,
            int(at.y()) - size,
            2 * size,
            2 * size,
            int(Qt.AlignmentFlag.AlignCenter),
            letter,
        )
