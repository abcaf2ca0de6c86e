"""The page of what readings teach: what was read, what it comes to, what to read next."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QHideEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.gear.learning_model import LearningModel, Line
from tonleiter.app.spaces.gear.model import GearModel
from tonleiter.app.spaces.gear.place import Place
from tonleiter.app.spaces.space import Context
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.learn.learned import Learned, Range
from tonleiter.core.learn.reading import AT_STAGES, Kind, words_of
from tonleiter.core.words import sentence

ROW_PX, NAMES_PX, BAR_PX, FOOT_PX = 34, 110, 12, 20
MOST_NEXT = 4
SHORT: dict[Kind, str] = {
    "open": "volts, radio's contact open", "volts": "volts DC, plugged in",
    "speech": "volts AC of speech", "knob": "where the gain stands",
}  # fmt: skip


class Doubt(QWidget):
    """Two bars: where an answer lay as typed, and where it lies as learned."""

    def __init__(self, look: Look, made: Learned) -> None:
        super().__init__()
        self._look, self._made = look, made
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("How the doubt shrank")
        self.setAccessibleDescription(made.headline())
        self.setFixedHeight(look.px(2 * ROW_PX + FOOT_PX))

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(self._look.px(360), self._look.px(2 * ROW_PX + FOOT_PX))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Scale, both bars with their ends."""
        look, p, made = self._look, self._look.palette, self._made
        low, high = min(made.before.low, made.after.low), max(made.before.high, made.after.high)
        if made.unit == "":
            low, high = min(low, 0.0), max(high, 100.0)
        axis = Axis(low, max(high, low + 1.0))
        left, right = look.px(NAMES_PX), self.width() - look.px(16)
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(12, 400, mono=True))
            foot = 2 * look.px(ROW_PX)
            for share in (0.0, 0.25, 0.5, 0.75, 1.0):
                x = left + share * (right - left)
                painter.setPen(QPen(p.color("line"), 1.2))
                painter.drawLine(round(x), 0, round(x), foot)
                value = f"{low + share * (high - low):.0f}".replace("-", "−")
                box = QRectF(x - 40, foot + 2, 80, look.px(FOOT_PX - 2))
                painter.setPen(p.color("soft"))
                painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, value)
            rows = (("as typed", made.before, "soft"), ("as learned", made.after, "signal"))
            for k, (name, shown, colour) in enumerate(rows):
                y = (k + 0.5) * look.px(ROW_PX)
                painter.setFont(look.font(13, 700))
                painter.setPen(p.color("ink"))
                names = QRectF(0, y - 10, left - 8, 20)
                painter.drawText(names, Qt.AlignmentFlag.AlignVCenter, name)
                self._bar(painter, axis, shown, y, colour, (left, right))

    def _bar(
        self, painter: QPainter, axis: Axis, shown: Range, y: float, colour: str,
        between: tuple[float, float],
    ) -> None:  # fmt: skip
        look, p = self._look, self._look.palette
        left, right = between
        a, b = (left + axis.share(v) * (right - left) for v in (shown.low, shown.high))
        high = look.px(BAR_PX)
        painter.fillRect(QRectF(a, y - high / 2, max(b - a, 2.0), high), p.color(colour, 0.5))
        painter.setPen(QPen(p.color("aim"), 2.2))
        for x, way in ((a, 5), (b, -5)):
            painter.drawLine(round(x), round(y - high), round(x), round(y + high))
            for edge in (y - high, y + high):
                painter.drawLine(round(x), round(edge), round(x + way), round(edge))


class LearningPage(Place):
    """Worked out while it is seen."""

    def __init__(self, model: GearModel, look: Look, context: Context) -> None:
        self.learning = LearningModel(model.document, context.jobs, context.verdicts)
        super().__init__(model, look)
        self.learning.setParent(self)
        self.learning.changed.connect(self.refresh)
        self.learning.refused.connect(self.say)

    @guarded
    def showEvent(self, event: QShowEvent) -> None:
        """It is seen from now on."""
        super().showEvent(event)
        self.learning.arrive()

    @guarded
    def hideEvent(self, event: QHideEvent) -> None:
        """Nobody looks any more."""
        super().hideEvent(event)
        self.learning.leave()

    def shown(self) -> object:
        """The readings, what they come to, and whether it is being worked out."""
        made = self.learning
        return made.lines(), id(made.learned), made.trouble, made.busy, made.stages()

    def build(self, column: QVBoxLayout) -> None:
        """Sentence, picture, readings, figures, what next."""
        made = self.learning.learned
        says = made.headline() if made is not None else "What readings teach of the open chain"
        column.addWidget(label(says, "headline", wraps=True))
        if self.learning.trouble:
            column.addWidget(label(f"{sentence(self.learning.trouble)}.", "sub", wraps=True))
            return
        if made is None:
            column.addWidget(label("It is being worked out…", "sub"))
        else:
            column.addWidget(Doubt(self._look, made))
        self._form(column)
        odd = {(o.reading.kind, o.reading.stage, o.reading.typed): o.why()
               for o in made.odd} if made is not None else {}  # fmt: skip
        for line in self.learning.lines():
            self._line(column, line, odd)
        if made is None:
            return
        self._figures(column, made)
        self._next(column, made)

    def _form(self, column: QVBoxLayout) -> None:
        column.addWidget(label("What was read", "section"))
        kind = Choice(self._look, "What was read", 240)
        kind.show_items([(words, k) for k, words in SHORT.items()], "knob")
        stage = Choice(self._look, "At the input of", 200)
        stages = [*self.learning.stages()]
        stage.show_items(stages, stages[-1][1] if stages else "")
        drafts = self._model.document.drafts
        typed = TextField("", "What it reads", drafts, ("learn", "typed"))
        typed.setPlaceholderText("7.9, 2.31 V, 1 mV, 58")
        typed.setMaximumWidth(self._look.px(170))

        def take() -> None:
            text = typed.text()
            if self.learning.add(kind.currentData(), stage.currentData(), text):
                typed.write("")
                typed.settle()

        typed.accepted.connect(lambda _: typed.settle())
        typed.returnPressed.connect(take)
        kind.chosen.connect(lambda _: stage.setEnabled(kind.currentData() in AT_STAGES))
        stage.setEnabled(False)
        column.addLayout(Flow(kind, label("at", "plain"), stage, typed,
                              button("Take it", "primary", take), gap_px=8))  # fmt: skip

    def _line(
        self, column: QVBoxLayout, line: Line, odd: dict[tuple[Kind, str | None, str], str]
    ) -> None:
        kept, model = line.kept, self.learning
        row = QHBoxLayout()
        expected = odd.get((kept.kind, kept.stage, kept.typed))
        role = "wrong" if expected is not None else "sub" if line.why_not else "step"
        text = f"{words_of(kept.kind, self._name(kept.stage))}: {kept.typed}"
        if line.why_not:
            text += f" ({line.why_not})"
        elif expected is not None:
            text += f"; left out, {expected}"
        row.addWidget(label(sentence(text), role, wraps=True), 1)
        if kept.struck is None:
            strike = partial(model.strike, kept, "it does not fit" if expected else "")
            row.addWidget(button("Strike out", "plain", strike))
        else:
            row.addWidget(button("Let it count", "plain", partial(model.strike, kept, None)))
        row.addWidget(button("Forget", "plain", partial(model.forget, kept)))
        column.addLayout(row)

    def _figures(self, column: QVBoxLayout, made: Learned) -> None:
        told = [f for f in made.figures if f.told]
        if not made.readings:
            return
        column.addWidget(label("What was learned", "section"))
        if not told:
            column.addWidget(label("No figure by itself: only what hangs on all of them.", "sub"))
        for figure in told:
            take = partial(self.learning.take_as_measured, figure)
            column.addWidget(label(figure.parameter.label, "plain", wraps=True))
            column.addLayout(
                Flow(
                    label(f"as typed {' … '.join(figure.said(figure.before))}", "sub"),
                    label(f"learned {' … '.join(figure.said(figure.after))}", "figure"),
                    button("Take as measured", "link", take),
                    gap_px=14,
                )
            )

    def _next(self, column: QVBoxLayout, made: Learned) -> None:
        column.addWidget(label("Read next", "section"))
        if not made.next_:
            column.addWidget(label("Nothing that a multimeter tells says more.", "sub"))
        for one in made.next_[:MOST_NEXT]:
            text = (
                f"{sentence(words_of(one.kind, self._name(one.stage)))}: {one.minutes:.0f} min,"
                f" {one.with_what}; {100 * one.shrinks:.0f} % less doubt"
            )
            column.addWidget(label(text, "plain", wraps=True))

    def _name(self, stage: str | None) -> str | None:
        names = {i: n for n, i in self.learning.stages()}
        return None if stage is None else names.get(stage, stage)
