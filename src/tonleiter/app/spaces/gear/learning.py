"""The page of what readings teach: how the doubt shrank, what was learned, what to read next."""

from __future__ import annotations

from functools import partial

from PySide6.QtGui import QHideEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLayout,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.gear.learning_model import LearningModel
from tonleiter.app.spaces.gear.learning_picture import Bar, Foot, Share, Span
from tonleiter.app.spaces.gear.model import GearModel
from tonleiter.app.spaces.gear.place import Place
from tonleiter.app.spaces.space import Context
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.learn.gathered import SOURCE_WORDS, Gathered
from tonleiter.core.learn.reading import AT_STAGES, words_of
from tonleiter.core.learn.result import QUESTIONS, Learned, Next, Odd, from_readings
from tonleiter.core.station.instruments import INSTRUMENTS
from tonleiter.core.station.kept_reading import ReadingKind
from tonleiter.core.words import sentence

NAMES_PX, SIDE_PX, NARROW_BELOW_PX = 190, 250, 760
MOST_NEXT = 4
TAKE_TIP = "Take as measured: its middle and its range become the figure"
SHORT: dict[ReadingKind, str] = {
    "open": "volts, radio's contact open",
    "volts": "volts DC, plugged in",
    "speech": "volts AC of speech",
    "gain": "decibels by a tone",
    "knob": "where the gain stands",
    "noise": "noise under speech, recorded",
}
EXAMPLES: dict[ReadingKind, str] = {
    "open": "7.9 V",
    "volts": "2.31 V",
    "speech": "1 mV",
    "gain": "32 dB",
    "knob": "58",
    "noise": "40 dB",
}


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

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """What to read next beside it, or below."""
        super().resizeEvent(event)
        self.refresh()

    def _narrow(self) -> bool:
        return self.width() < self._look.px(NARROW_BELOW_PX)

    def shown(self) -> object:
        """The readings, what they come to, whether it is being worked out; nothing out of sight."""
        if not self.isVisible():
            return None
        made = self.learning
        learned = made.learned
        odd = learned.odd if learned is not None else ()
        return (
            made.lines(),
            id(learned),
            made.trouble,
            made.busy,
            made.stages(),
            made.question if made.stages() else "",
            made.records.reckoned,
            made.station.instruments,
            tuple(made.suspects(o) for o in odd),
            self._narrow(),
        )

    def build(self, column: QVBoxLayout) -> None:
        """Sentence, bars, form, figures; beside them what to read next and what does not fit."""
        if not self.isVisible():
            return
        made = self.learning.learned
        says = made.headline() if made is not None else "What readings teach of the open chain"
        column.addWidget(label(says, "headline", wraps=True))
        if self.learning.trouble:
            column.addWidget(label(f"{sentence(self.learning.trouble)}.", "sub", wraps=True))
            if self.learning.stages():
                self._form(column)
            return
        proves = made.proves() if made is not None else "It is being worked out…"
        column.addWidget(label(proves, "sub", wraps=True))
        main, side = QVBoxLayout(), QVBoxLayout()
        for part in (main, side):
            part.setSpacing(8)
        self._asked(main)
        self._bars(main, made)
        self._form(main)
        if made is not None:
            self._figures(main, made)
        self._switch(main)
        if made is not None:
            self._next(side, made)
            for odd in made.odd:
                self._odd(side, odd)
        self._owned(side)
        self._divided(column, main, side)

    def _divided(self, column: QVBoxLayout, main: QLayout, side: QVBoxLayout) -> None:
        if self._narrow():
            column.addLayout(main)
            column.addLayout(side)
            return
        row = QHBoxLayout()
        row.setSpacing(18)
        left = QVBoxLayout()
        left.addLayout(main)
        left.addStretch(1)
        row.addLayout(left, 1)
        panel = QWidget()
        panel.setFixedWidth(self._look.px(SIDE_PX))
        side.setContentsMargins(0, 0, 0, 0)
        side.addStretch(1)
        panel.setLayout(side)
        row.addWidget(panel)
        column.addLayout(row)

    # --- how the doubt shrank --------------------------------------------------------------------

    def _asked(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.addWidget(label("How the doubt shrank:", "step"))
        asked = Choice(self._look, "What you want to know", 270)
        asked.show_items(
            [(QUESTIONS[q], q) for q in self.learning.questions()], self.learning.question
        )
        asked.chosen.connect(lambda _: self.learning.ask(asked.currentData()))
        row.addWidget(asked)
        row.addStretch(1)
        column.addLayout(row)

    def _bars(self, column: QVBoxLayout, made: Learned | None) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(0)
        grid.setColumnMinimumWidth(0, self._look.px(NAMES_PX))
        grid.setColumnStretch(1, 1)
        row = 0
        span = Span.of(made) if made is not None else None
        if made is not None and span is not None:
            grid.addWidget(label("as typed", "step"), row, 0)
            grid.addWidget(Bar(self._look, span, made.before, "soft", "as typed", made), row, 1)
            row += 1
        for line in self.learning.lines():
            self._line(grid, row, line, made, span)
            row += 1
        if made is not None and span is not None:
            grid.addWidget(Foot(self._look, span, made.unit), row, 1)
        column.addLayout(grid)

    def _line(
        self, grid: QGridLayout, row: int, line: Gathered, made: Learned | None, span: Span | None
    ) -> None:
        model = self.learning
        stop = next(
            (s for s in made.trail if s.reading.key == line.key), None
        ) if made is not None else None  # fmt: skip
        odd = next(
            (o for o in made.odd if o.reading.key == line.key), None
        ) if made is not None else None  # fmt: skip
        said = model.brief(line)
        text = f"{said} {line.typed}" if said.endswith(" at") else f"{said}: {line.typed}"
        if line.source != "typed":
            text += f" ({SOURCE_WORDS[line.source]})"
        role = "wrong" if odd is not None else "sub" if line.why_not else "step"
        name = label(text, role, wraps=True)
        name.setFixedWidth(self._look.px(NAMES_PX))
        name.setToolTip(sentence(model.words(line)))
        grid.addWidget(name, row, 0)
        if odd is not None:
            grid.addWidget(label(f"left out; {odd.why()}", "wrong", wraps=True), row, 1)
        elif line.why_not:
            grid.addWidget(label(f"not counted: {line.why_not}", "sub", wraps=True), row, 1)
        elif stop is not None and span is not None and made is not None:
            grid.addWidget(
                Bar(self._look, span, stop.after, "signal", f"after {text}", made), row, 1
            )
        hands = QVBoxLayout()
        hands.setSpacing(0)
        if line.struck:
            hands.addWidget(button("Let it count", "link", partial(model.strike, line, None)))
        else:
            why = "it does not fit" if odd is not None else ""
            hands.addWidget(button("Strike out", "link", partial(model.strike, line, why)))
        if model.may_forget(line):
            hands.addWidget(button("Forget", "link", partial(model.forget, line)))
        grid.addLayout(hands, row, 2)

    def _form(self, column: QVBoxLayout) -> None:
        kind = Choice(self._look, "What was read", 230)
        usual: ReadingKind = "knob" if "knob" in self.learning.questions() else "volts"
        kind.show_items([(words, k) for k, words in SHORT.items()], usual)
        stage = Choice(self._look, "At the input of", 190)
        stages = [*self.learning.stages()]
        stage.show_items(stages, stages[-1][1] if stages else "")
        drafts = self._model.document.drafts
        typed = TextField("", "What it reads", drafts, ("learn", "typed"))
        typed.setMaximumWidth(self._look.px(120))
        at = label("at", "plain")

        def take() -> None:
            text = typed.text()
            if self.learning.add(kind.currentData(), stage.currentData(), text):
                typed.write("")
                typed.settle()

        def follow() -> None:
            now: ReadingKind = kind.currentData()
            stage.setVisible(now in AT_STAGES)
            at.setVisible(now in AT_STAGES)
            typed.setPlaceholderText(EXAMPLES[now])

        typed.accepted.connect(lambda _: typed.settle())
        typed.returnPressed.connect(take)
        kind.chosen.connect(lambda _: follow())
        follow()
        column.addLayout(
            Flow(
                label("I read", "plain"), kind, at, stage, typed,
                button("Take it", "primary", take), gap_px=8,
            )
        )  # fmt: skip

    # --- figures ---------------------------------------------------------------------------------

    def _figures(self, column: QVBoxLayout, made: Learned) -> None:
        if not made.readings:
            return
        column.addWidget(label("What was learned", "step"))
        told = [f for f in made.figures if f.told]
        if not told:
            column.addWidget(label("No figure by itself: only what hangs on all of them.", "sub"))
            return
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        for k, words in enumerate(("as typed", "learned", "from")):
            grid.addWidget(label(words, "caption"), 0, k + 1)
        for row, figure in enumerate(told, 1):
            name = label(figure.parameter.label, "plain", wraps=True)
            name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            grid.addWidget(name, row, 0)
            before, after = (" … ".join(figure.said(r)) for r in (figure.before, figure.after))
            typed = label(before.replace(" … ", " …\n"), "caption")
            grid.addWidget(typed, row, 1)
            learned = label(after.replace(" … ", " …\n"), "figure")
            grid.addWidget(learned, row, 2)
            grid.addWidget(label(from_readings(figure.readings), "caption"), row, 3)
            take = button("Take", "link", partial(self.learning.take_as_measured, figure), TAKE_TIP)
            take.setAccessibleName(f"Take as measured: {figure.parameter.label}")
            grid.addWidget(take, row, 4)
        column.addLayout(grid)
        rest = len(made.figures) - len(told)
        if rest:
            column.addWidget(label(f"Of {rest} more figures no reading tells.", "caption"))

    def _switch(self, column: QVBoxLayout) -> None:
        learned = self.learning.records.reckoned == "learned"
        made = []
        for words, as_ in (("as learned", True), ("as typed", False)):
            one = button(words, "plain", partial(self.learning.reckon, as_))
            one.setCheckable(True)
            one.setChecked(learned == as_)
            one.setAccessibleName(f"Reckon {words}")
            made.append(one)
        column.addSpacing(6)
        column.addLayout(Flow(*made, label("for Ladder, Match and Set", "caption"), gap_px=8))

    # --- beside ----------------------------------------------------------------------------------

    def _next(self, column: QVBoxLayout, made: Learned) -> None:
        column.addWidget(label("Read next", "title"))
        if not made.next_:
            column.addWidget(
                label("Nothing that your instruments tell says more.", "sub", wraps=True)
            )
            return
        column.addWidget(label(f"for {QUESTIONS[made.question]}", "caption", wraps=True))
        for k, one in enumerate(made.next_[:MOST_NEXT]):
            column.addWidget(self._card(one, first=k == 0))

    def _card(self, one: Next, first: bool) -> QWidget:
        card = QFrame()
        card.setObjectName("card")
        card.setProperty("first", first)
        words = QVBoxLayout(card)
        words.setContentsMargins(12, 8, 12, 10)
        words.setSpacing(4)
        title = sentence(words_of(one.kind, self.learning.name(one.stage)))
        words.addWidget(label(title, "step", wraps=True))
        words.addWidget(label(one.promise(), "caption"))
        words.addWidget(label(f"{one.minutes:.0f} min, {one.with_what}", "caption", wraps=True))
        share = Share(self._look, one.shrinks)
        words.addWidget(share)
        return card

    def _odd(self, column: QVBoxLayout, odd: Odd) -> None:
        column.addSpacing(8)
        column.addWidget(label("The odd one out", "title"))
        column.addWidget(label(f"{sentence(odd.says())}.", "sub", wraps=True))
        suspects = self.learning.suspects(odd)
        if suspects:
            column.addWidget(label("It would be explained by", "caption"))
            for one in suspects:
                column.addWidget(label(f"· {one}", "plain", wraps=True))
        if self.learning.asks_prove(odd):
            column.addWidget(
                button("Prove the build", "plain", lambda: self.learning.prove_wanted.emit())
            )

    def _owned(self, column: QVBoxLayout) -> None:
        column.addSpacing(8)
        column.addWidget(label("What you have to read with", "section"))
        owned = self.learning.station.instruments
        for one, words in INSTRUMENTS.items():
            box = QCheckBox(words.partition(",")[0])
            box.setToolTip(words)
            box.setAccessibleName(words)
            box.setChecked(one in owned)
            box.clicked.connect(
                lambda on, one=one: self.learning.own(
                    tuple(i for i in INSTRUMENTS if (on if i == one else i in owned))
                )
            )
            column.addWidget(box)
