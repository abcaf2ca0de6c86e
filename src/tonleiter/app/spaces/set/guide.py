"""The guide: steps on a path, the one that is on with its move in figures."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.set.hearing import Hearing
from tonleiter.app.spaces.set.model import SetModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import Panel
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.guide.meters import accepted
from tonleiter.core.guide.scene import Scene
from tonleiter.core.guide.step import Step
from tonleiter.core.setup.loop.real import RealLoop
from tonleiter.core.station.settings import MeterId
from tonleiter.core.words import count_of, one_or

BEAD_PX, NARROW_PX = 22, 400


class Bead(QWidget):
    """A step's number in a ring: filled and ticked when done, brass where the guide is."""

    def __init__(self, look: Look, number: int, step: Step) -> None:
        super().__init__()
        self._look, self._number, self._state = look, number, step.state
        self.setFixedSize(QSize(look.px(BEAD_PX + 4), look.px(BEAD_PX + 4)))
        self.setAccessibleName(f"Step {number}, {step.title}: {step.state}")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Ring and figure."""
        p, look = self._look.palette, self._look
        with painting(self) as painter:
            painter.setRenderHint(painter.RenderHint.Antialiasing)
            r = look.px(BEAD_PX) / 2
            name = {"done": "fine", "now": "aim", "later": "line", "open": "mind"}[self._state]
            painter.setPen(QPen(p.color(name), 2))
            painter.setBrush(p.color("fine" if self._state == "done" else "field"))
            painter.drawEllipse(QPointF(self.width() / 2, self.height() / 2), r, r)
            painter.setFont(look.font(13, 700))
            painter.setPen(
                p.color(
                    "field" if self._state == "done" else "ink" if self._state == "now" else "soft"
                )
            )
            signs = {"done": "✓", "open": "!"}
            said = signs.get(self._state, str(self._number))
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), said)


class GuidePanel(Panel):
    """The path with its move; below it what is heard, and cards: ``cards_wanted`` asks for them."""

    cards_wanted = Signal()
    kept = Signal()

    def __init__(self, model: SetModel, look: Look) -> None:
        super().__init__("inspector")
        self.model, self._look = model, look
        self.hearing = Hearing(model.heard, look)
        self._built_for: object = None

    def show_guide(self) -> None:
        """Heading, steps, buttons below; built anew only when something of it changed."""
        model, look = self.model, self._look
        scene = model.scene
        key = (
            scene.steps if scene else model.trouble,
            model.own,
            self.hearing.key(),
            len(model.records.cards),
            self.width(),
            look.scale,
            look.palette.name,
            dict(model.panel.readings),
        )
        if key == self._built_for:
            return
        self._built_for = key
        column = self.begin(spacing=6)
        if scene is None:
            column.addWidget(label("The guide", "title"))
            column.addWidget(label(model.trouble or "The voice is being sent…", "sub", wraps=True))
            self.finish(column)
            return
        narrow = self.width() < look.px(NARROW_PX)
        head = QVBoxLayout() if narrow else QHBoxLayout()
        words = QVBoxLayout()
        words.addWidget(label(f"{scene.title}, step by step", "title", wraps=True))
        what, own = ("desk", "computer") if scene.mode == "loop" else ("set", "radio")
        said = (
            f"your own {own}: turn it, and type what its meters show"
            if model.own
            else f"on the simulated {what}; or turn your own and type what it shows"
        )
        words.addWidget(label(said, "caption", wraps=True))
        head.addLayout(words, 1)
        switch = f"The simulated {what}" if model.own else f"My own {own}"
        head.addWidget(
            button(switch, "plain", partial(model.use_own, not model.own)),
            0,
            Qt.AlignmentFlag.AlignTop,
        )
        column.addLayout(head)
        for number, step in enumerate(scene.steps, 1):
            self._step(column, number, step, scene, narrow)
        if scene.is_right:
            what = "Every knob" if scene.heard else "Everything"
            said = f"{what} is where it should be: keep it as a card."
            column.addWidget(label(said, "section", wraps=True))
        self._buttons(column, scene, narrow)
        self.finish(column)

    def _step(
        self, column: QVBoxLayout, number: int, step: Step, scene: Scene, narrow: bool
    ) -> None:
        row = QHBoxLayout()
        row.setSpacing(10)
        row.addWidget(Bead(self._look, number, step), 0, Qt.AlignmentFlag.AlignTop)
        inside = QVBoxLayout()
        inside.setSpacing(4)
        top = QVBoxLayout() if narrow else QHBoxLayout()
        on = step.state == "now"
        top.addWidget(label(step.title, "step" if on else "plain", wraps=narrow))
        if narrow:
            top.addWidget(label(step.shown, "caption", wraps=True))
        else:
            top.addWidget(label(step.shown, "caption"), 1, Qt.AlignmentFlag.AlignRight)
        inside.addLayout(top)
        if on:
            self._on(inside, step, scene)
        elif step.state == "open" and step.move is not None:
            said = f"{step.move.says} {step.if_nothing}"
            inside.addWidget(label(said, "caption", wraps=True))
        if step.caution and step.state != "later":
            # it belongs to the step, whether there is something to turn or not
            inside.addWidget(label(f"⚠ {step.caution}", "caution", wraps=True))
        row.addLayout(inside, 1)
        column.addLayout(row)

    def _on(self, column: QVBoxLayout, step: Step, scene: Scene) -> None:
        model = self.model
        if step.says:
            column.addWidget(label(step.says, "sub", wraps=True))
        if model.own and step.meter is not None:
            self._reading(column, step.meter, scene)
        if step.move is not None:
            box = QFrame()
            box.setObjectName("move")
            inside = QVBoxLayout(box)
            inside.setContentsMargins(12, 8, 12, 8)
            inside.setSpacing(2)
            inside.addWidget(label(step.move.says, "headline", wraps=True))
            inside.addWidget(label(step.move.why, "caption", wraps=True))
            if step.move.knobs or step.move.fix is not None:
                elsewhere = "Do it here" if scene.mode == "loop" else "Do it in the chain"
                there = "Turn it there" if step.move.knobs else elsewhere
                said = "Turned: read again" if model.own and step.move.knobs else there
                inside.addWidget(
                    button(said, "primary", model.follow_guide), 0, Qt.AlignmentFlag.AlignLeft
                )
            if isinstance(scene, RealLoop) and scene.tellable == step.id:
                tell = partial(model.at_desk.tell, step.id)
                inside.addWidget(button("Done so", "primary", tell), 0, Qt.AlignmentFlag.AlignLeft)
            column.addWidget(box)
        if step.if_nothing:
            column.addWidget(label(step.if_nothing, "caption", wraps=True))

    def _reading(self, column: QVBoxLayout, name: MeterId, scene: Scene) -> None:
        """A field for what the own radio's meter shows."""
        meter = scene.meter(name)
        if meter is None:
            return
        row = QGridLayout()
        said = f"your {meter.title} meter"
        row.addWidget(label(said, "sub", wraps=True), 0, 0)
        kept = self.model.panel.readings.get(name, "")
        field = TextField(kept, said, self.model.drafts, ("set", name))
        field.setPlaceholderText(accepted(meter.scale))
        field.accepted.connect(partial(self._take, field, name))
        row.addWidget(field, 0, 1)
        row.setColumnStretch(1, 1)
        column.addLayout(row)

    def _take(self, field: TextField, name: MeterId, text: str) -> None:
        self.model.refused.emit(field.offer(lambda: self.model.take_reading(name, text)))

    def _buttons(self, column: QVBoxLayout, scene: Scene, narrow: bool) -> None:
        self.hearing.show(column, narrow, self.width())
        row = QVBoxLayout() if narrow else QHBoxLayout()
        row.addWidget(button("Keep as a card", "primary", self._keep))
        column.addLayout(row)
        count = len(self.model.records.cards)
        if count:
            words = f"{count_of(count, 'card')} {one_or(count, 'is', 'are')} kept"
            column.addWidget(button(f"{words}: look…", "link", self.cards_wanted.emit))

    def _keep(self) -> None:
        if self.model.attempt(self.model.keep_card):
            self.kept.emit()
