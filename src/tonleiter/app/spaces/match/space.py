"""The Match space: the grid with the chosen pair beside it, or the plans for that pair."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.reckoned_switch import ReckonedSwitch
from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.match.detail import Detail
from tonleiter.app.spaces.match.grid_view import GridView
from tonleiter.app.spaces.match.legend import Legend
from tonleiter.app.spaces.match.model import MatchModel
from tonleiter.app.spaces.match.plan_view import PlanView
from tonleiter.app.spaces.space import Context, Space
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.progress import Progress
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.core.gear.figure import DISTANCE, Figure
from tonleiter.core.match.grid import answer, answer_for_source
from tonleiter.core.station.purpose import PURPOSES


def solved_with(pairs: int) -> str:
    """What the grid's pairs are solved with."""
    of = f"Each of {pairs} pairs is" if pairs > 1 else "The one pair here is"
    return f"{of} solved with a lead of 2 m"


class MatchSpace(Space):
    """Header sentence, answer, grid and detail; plans take the grid's place."""

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = context.look
        self.model = MatchModel(context.document, context.jobs, context.reckoning)
        self.model.setParent(self)  # it ends with its space: a signal keeps what it tells alive
        self.model.refused.connect(self.refused)
        self._look = look
        self.purpose = Choice(look, "Purpose")
        self.operator = Choice(look, "Who speaks")
        self.distance = QuantityField(
            DISTANCE,
            Figure(value=30.0),
            "Distance",
            context.document.drafts,
            ("match", "distance"),
        )
        self.grid = GridView(self.model, look)
        self.detail = Detail(self.model, look)
        self.plans = PlanView(self.model, look)
        self.reckoned = ReckonedSwitch(context.reckoning)
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self._bar = Progress(look, "Pairs solved")
        self._pages = QStackedWidget()
        self._arrange()
        self._connect()
        self.refresh()
        self._turn()

    def _arrange(self) -> None:
        head = QFrame()
        head.setObjectName("header")
        sentence = QHBoxLayout(head)
        sentence.setContentsMargins(20, 8, 16, 8)
        sentence.setSpacing(6)
        for item in ("For", self.purpose, "the", self.operator, "speaks at", self.distance):
            sentence.addWidget(QLabel(item) if isinstance(item, str) else item)
        sentence.addStretch(1)
        sentence.addWidget(self.reckoned)
        sentence.addWidget(
            button(
                "A guest…",
                "plain",
                lambda: self.wanted.emit("gear", "guest"),
                "See what a microphone or radio would do here that you do not own yet",
            )
        )
        words = QVBoxLayout()
        words.setContentsMargins(20, 10, 16, 0)
        words.setSpacing(2)
        words.addWidget(self._says)
        words.addWidget(self._proves)
        words.addWidget(self._bar)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        inside = QWidget()
        inside.setObjectName("center")
        around = QVBoxLayout(inside)
        around.setContentsMargins(12, 4, 12, 8)
        around.addWidget(self.grid, 1)
        scroll.setWidget(inside)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addLayout(words)
        left.addWidget(scroll, 1)
        left.addWidget(Legend(self._look))
        page = QWidget()
        page.setObjectName("center")
        both = QHBoxLayout(page)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(0)
        both.addLayout(left, 1)
        both.addWidget(self.detail)
        self._pages.addWidget(page)
        self._pages.addWidget(self.plans)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(head)
        whole.addWidget(self._pages, 1)

    def _connect(self) -> None:
        model = self.model
        model.changed.connect(self.refresh)
        model.selection_changed.connect(self.refresh)
        model.plan_changed.connect(self._turn)
        self.purpose.chosen.connect(lambda _: model.set_terms(purpose=self.purpose.currentData()))
        self.operator.chosen.connect(
            lambda _: model.set_terms(operator=self.operator.currentData())
        )
        self.distance.accepted.connect(lambda f: model.set_terms(distance_mm=f.value))
        self.distance.nudged.connect(
            lambda n: model.set_terms(
                distance_mm=min(max(10.0, model.terms.distance_mm + 5 * n), 600.0)
            )
        )
        self.distance.refused.connect(self.refused)
        self.grid.opened.connect(self._show_ladder)
        self.detail.ladder_wanted.connect(self._show_ladder)
        self.detail.plan_wanted.connect(self._plan)
        self.detail.why_asked.connect(self._ask_why)
        self.plans.adopted.connect(lambda: self.wanted.emit("ladder", ""))
        self._look.changed.connect(self._resize)
        self._resize()

    def _resize(self) -> None:
        self.distance.setFixedWidth(self._look.px(86))

    def refresh(self) -> None:
        """Fill the sentence, answer for the chosen input, show progress."""
        model = self.model
        self.purpose.show_items([(p.title, p.id) for p in PURPOSES.values()], model.terms.purpose)
        people = [(o.name, o.id) for o in model.station.operators]
        self.operator.show_items(people, model.terms.operator)
        self.distance.show_figure(Figure(value=model.terms.distance_mm))
        grid = model.grid
        total, solved = len(grid.sources) * len(grid.inputs), len(grid.pairs)
        self._bar.show_share(solved, total)
        self._bar.setVisible(not model.finished and total > 0)
        if total == 0:
            self._says.setText("Nothing to match yet.")
            self._proves.setText("Put a microphone and an input of a radio on the shelf: press 1.")
        elif solved < total:
            self._says.setText("What goes with what?")
            self._proves.setText(f"{solved} of {total} pairs are solved.")
        else:
            self._says.setText(answer(grid, model.station, model.selected[1], model.terms))
            best = grid.column(model.selected[1], model.terms.facts.spoken)[0]
            told = (best.source, best.input)
            across = answer_for_source(grid, model.selected[0], model.terms, told)
            self._proves.setText(
                f"{across} {solved_with(total)}; the figure in a cell is signal over noise."
            )

    def _turn(self) -> None:
        self._pages.setCurrentIndex(0 if self.model.progress is None else 1)

    def _show_ladder(self) -> None:
        if self.model.show_ladder():
            self.wanted.emit("ladder", "")

    def _ask_why(self, what: str) -> None:
        answer = self.model.why(what)
        if answer is not None:
            self.context.asking.ask(answer)

    def _plan(self) -> None:
        self.model.start_plan(self.detail.house_style.currentData())

    def rest(self) -> None:
        """Stop what runs behind the window."""
        self.model.rest()

    def hints(self) -> tuple[tuple[str, str], ...]:
        """Keys of the grid itself."""
        return (
            ("Arrows", "Choose a pair"),
            ("Enter", "Show its ladder"),
            ("P", "Plan the chosen pair"),
            ("Esc", "Back from the plans"),
        )

    def arrive(self, word: str = "") -> None:
        """The keyboard goes to the grid."""
        self.grid.setFocus(Qt.FocusReason.ShortcutFocusReason)

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leaves the plans, P plans the chosen pair."""
        if event.key() == Qt.Key.Key_Escape and self.model.progress is not None:
            self.model.leave_plan()
            self.arrive()
        elif event.key() == Qt.Key.Key_P and self.model.progress is None:
            self.model.start_plan()
        else:
            super().keyPressEvent(event)
