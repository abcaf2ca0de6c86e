"""The score under the hand: press to light a net up, drag a wire's end to another contact."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainterPathStroker,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.wire.model import WireModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button
from tonleiter.app.widgets.wiring.faces import SPOT_PX
from tonleiter.app.widgets.wiring.score import ScorePainter, Shown
from tonleiter.core.report.score import Plug, Score, Side, score_of
from tonleiter.core.station.shells import Face

SIDES: tuple[Side, ...] = ("left", "right")
FACES: tuple[tuple[Face, str], ...] = (("front", "the front"), ("solder-side", "solder side"))
BUTTONS_PX = 36


class ScoreView(QWidget):
    """A press on a contact or conductor lights its net up and chooses it for the inspector."""

    def __init__(self, model: WireModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self.score: Score | None = None
        self._painter: ScorePainter | None = None
        self._pressed: tuple[Plug, str] | None = None
        self._from, self._drag = QPointF(), QPointF()
        self._dragging = False
        self.face_buttons: dict[tuple[Side, Face], QPushButton] = {}
        for side in SIDES:
            for face, words in FACES:
                made = button(words, "plain", partial(model.turn, side, face))
                made.setParent(self)
                made.setAccessibleName(f"{words}, {side} plug")
                made.setCheckable(True)
                made.hide()
                self.face_buttons[side, face] = made
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Wiring of the chain")
        model.changed.connect(self._edited)
        model.lit_changed.connect(self.update)
        model.schools_changed.connect(self._follow)
        look.changed.connect(self._follow)

    def _follow(self) -> None:
        found = self._model.verdict
        self.setAccessibleDescription(self.spoken())
        self.score = None
        if found is not None and found.build.spans:
            self.score = score_of(found, self._model.place, self._model.together)
        for (side, face), made in self.face_buttons.items():
            made.setChecked(self._model.faces[side] == face)
            made.setVisible(self.score is not None)
        self._lay_out()
        self.updateGeometry()
        self.update()

    def _edited(self) -> None:
        """What an edit did is seen at once: panels and findings may follow a moment later."""
        self._follow()
        self.repaint()

    def _lay_out(self) -> None:
        build = self._model.build
        if self.score is None or build is None:
            self._painter = None
            return
        look = self._look
        self._painter = made = ScorePainter(
            self.score,
            build,
            look.palette,
            look.scale,
            self.width(),
            self.height(),
            look.px(BUTTONS_PX),
        )
        for plug in (self.score.left, self.score.right):
            self._place_buttons(plug, made.buttons_at(plug.side))

    def _place_buttons(self, plug: Plug, at: QPointF) -> None:
        """The two faces of a plug, side by side under it; a jack shows the same from both."""
        pair = [self.face_buttons[plug.side, face] for face, _ in FACES]
        wide = sum(b.sizeHint().width() for b in pair) + 4
        x = min(max(at.x() - wide / 2, 2.0), self.width() - wide - 2.0)
        for made in pair:
            size = made.sizeHint()
            made.setGeometry(round(x), round(at.y()), size.width(), size.height())
            made.setVisible(plug.has_faces)
            x += size.width() + 4

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Laid out anew."""
        super().resizeEvent(event)
        self._lay_out()
        self.updateGeometry()

    def spoken(self) -> str:
        """Every conductor in words."""
        build = self._model.build
        if build is None:
            return self._model.trouble
        return "; ".join(
            f"{c.start or 'air'} to {c.end or 'air'}, {c.colour}" for c in build.conductors
        )

    @guarded
    def sizeHint(self) -> QSize:
        """Room for two faces and what stands between."""
        made = self._painter
        if made is None:
            return QSize(self._look.px(640), self._look.px(300))
        return QSize(self._look.px(640), round(made.height()))

    @guarded
    def minimumSizeHint(self) -> QSize:
        """As tall as it must be."""
        made = self._painter
        if made is None:
            return QSize(self._look.px(300), self._look.px(200))
        return QSize(round(made.least_width()), round(made.height()))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The score, and a wire that is being dragged."""
        made, model = self._painter, self._model
        if made is None:
            return
        with painting(self) as painter:
            made.paint(painter, Shown(model.lit, model.wire, model.contact, model.faces))
            if self._dragging:
                painter.setPen(QPen(self._look.palette.color("aim"), 2.4, Qt.PenStyle.DashLine))
                painter.drawLine(self._from, self._drag)

    @property
    def wires(self):  # type: ignore[no-untyped-def] # noqa: ANN201
        """Wires as painted, with their paths."""
        return self._painter.wires if self._painter else []

    @property
    def contacts(self):  # type: ignore[no-untyped-def] # noqa: ANN201
        """Contacts as painted, with their places."""
        return self._painter.contacts if self._painter else []

    def centre(self, side: str) -> QPointF:
        """The middle of a face."""
        assert self._painter is not None
        return self._painter.centre("left" if side == "left" else "right")

    # --- hands -----------------------------------------------------------------------------------

    def _contact_at(self, at: QPointF) -> tuple[Plug, str, QPointF] | None:
        reach = self._look.px(SPOT_PX + 2)
        near = [
            (abs(at.x() - spot.x()) + abs(at.y() - spot.y()), k)
            for k, (_, _, spot) in enumerate(self.contacts)
            if abs(at.x() - spot.x()) <= reach and abs(at.y() - spot.y()) <= reach
        ]
        return self.contacts[min(near)[1]] if near else None

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Light up what was pressed."""
        at = event.position()
        found = self._contact_at(at)
        if found is not None:
            plug, label, spot = found
            self._pressed, self._from, self._drag = (plug, label), spot, at
            return
        stroker = QPainterPathStroker()
        stroker.setWidth(14)
        for wire, net, path in reversed(self.wires):
            if stroker.createStroke(path).contains(at):
                self._model.light(net, wire.key)
                return
        if self._model.lit or self._model.contact:
            self._model.light("")

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the end of a wire away from its contact."""
        if self._pressed is None:
            return
        self._drag = event.position()
        far = (self._drag - self._from).manhattanLength()
        if far >= QApplication.startDragDistance() and self._legs_at(*self._pressed):
            self._dragging = True
        self.update()

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Solder it where it was let go; a press without a drag chooses the contact."""
        pressed, dragging = self._pressed, self._dragging
        self._pressed, self._dragging = None, False
        self.update()
        if pressed is None:
            return
        plug, label = pressed
        if not dragging:
            self._choose(plug, label)
            return
        there = self._contact_at(event.position())
        if there is None or there[0].side != plug.side or there[1] == label:
            return
        legs = self._legs_at(plug, label)
        wire = self._model.conductor()
        leg = wire.leg if wire is not None and wire.leg in legs else legs[0]
        self._model.attempt(lambda: self._model.land(plug.end, leg, there[1]))

    def _choose(self, plug: Plug, label: str) -> None:
        build = self._model.build
        ref = plug.end.ref(label)
        net = self._model.net_of(ref)
        wires = [
            c for c in (build.conductors if build else ()) if c.key and ref in (c.start, c.end)
        ]
        key = wires[0].key if wires else ""
        self._model.light("" if net is None else net.name, key, (plug.end.id, label))

    def _legs_at(self, plug: Plug, label: str) -> list[str]:
        """What of the sound and the switch is soldered to a contact."""
        score = self.score
        if score is None:
            return []
        legs = [s.leg for s in score.strands if s.side == plug.side and s.contact == label]
        ref = plug.end.ref(label)
        return legs + [c.leg for c in score.keyed if c.end == ref]

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down from wire to wire, left and right from contact to contact."""
        step = 1 if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Right) else -1
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.wires:
            keys = [(w.net, w.key) for w, _, _ in self.wires]
            keys = list(dict.fromkeys(keys))
            now = (self._model.lit, self._model.wire)
            at = keys.index(now) if now in keys else -step if step > 0 else 0
            net, key = keys[(at + step) % len(keys)]
            self._model.light(net, key)
        elif event.key() in (Qt.Key.Key_Right, Qt.Key.Key_Left) and self.contacts:
            ids = [(p.end.id, label) for p, label, _ in self.contacts]
            now_at = self._model.contact
            place = ids.index(now_at) if now_at in ids else -step if step > 0 else 0
            plug, label, _ = self.contacts[(place + step) % len(ids)]
            self._choose(plug, label)
        elif event.key() == Qt.Key.Key_Escape and (self._model.lit or self._model.contact):
            self._model.light("")
        else:
            super().keyPressEvent(event)
