"""Plans side by side: each a small ladder and schematic, why it stands there, what it costs."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.match.model import MatchModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.drawing.large import LargeDrawing
from tonleiter.app.widgets.drawing.widget import DrawingView
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.mini_ladder import MiniLadder, common_span
from tonleiter.app.widgets.panel import clear
from tonleiter.app.widgets.progress import Progress
from tonleiter.core.gear.parts import PRICE_WORDS, Part
from tonleiter.core.plan.candidate import Candidate
from tonleiter.core.plan.explain import Words, explain
from tonleiter.core.plan.search import MOST_SOLVES
from tonleiter.core.plan.styles import STYLES
from tonleiter.core.plan.transmit_switch import keying
from tonleiter.core.report.drawings import Drawn, draw_stages
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import HERTZ, format_quantity
from tonleiter.core.words import the

SHOWN = 3
# a strip of a drawing in grid units: on a card, and large
CARD_UNITS, SHEET_UNITS = 40.0, 96.0


class PlanView(QWidget):
    """Results appear as they come; the search can be stopped."""

    adopted = Signal()

    def __init__(self, model: MatchModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._shown: tuple[object, ...] = ()
        self.cards: list[PlanCard] = []
        self.setObjectName("center")
        self._says = label("", "headline", wraps=True)
        self._proves = label("", "sub", wraps=True)
        self._bar = Progress(look, "Candidates solved")
        self.stop_button = button("Stop", "plain", model.stop_plan, "Keep what was found so far")
        self.back_button = button("Back to the grid  Esc", "plain", model.leave_plan)
        self.style_buttons: dict[str, QPushButton] = {}
        self._row = QHBoxLayout()
        self._row.setSpacing(14)
        self._arrange()
        model.plan_changed.connect(self.refresh)
        look.changed.connect(self._rebuild)

    def _arrange(self) -> None:
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addWidget(self._says)
        words.addWidget(self._proves)
        top = QHBoxLayout()
        top.setSpacing(10)
        top.addLayout(words, 1)
        top.addWidget(self.stop_button, 0, Qt.AlignmentFlag.AlignTop)
        top.addWidget(self.back_button, 0, Qt.AlignmentFlag.AlignTop)
        styles = QHBoxLayout()
        styles.setSpacing(6)
        for style in STYLES.values():
            made = button(style.title, "plain", partial(self._model.start_plan, style.id))
            made.setCheckable(True)
            made.setToolTip(style.says)
            self.style_buttons[style.id] = made
            styles.addWidget(made)
        styles.addStretch(1)
        body = QWidget()
        body.setObjectName("center")
        body.setLayout(self._row)
        self._row.setContentsMargins(0, 0, 0, 0)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(body)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(20, 10, 16, 12)
        whole.setSpacing(10)
        whole.addLayout(top)
        whole.addLayout(styles)
        whole.addWidget(self._bar)
        whole.addWidget(scroll, 1)

    def _rebuild(self) -> None:
        self._shown = ()
        self.refresh()

    def refresh(self) -> None:
        """Show how far the search is and the best so far."""
        progress = self._model.progress
        if progress is None:
            return
        source, socket = (self._model.gear(i) for i in self._model.selected)
        if source is None or socket is None:
            return
        for style, made in self.style_buttons.items():
            made.setChecked(style == self._model.style)
        self._bar.show_share(progress.solved, MOST_SOLVES)
        self._bar.setVisible(self._model.planning)
        self.stop_button.setVisible(self._model.planning)
        purpose = self._model.terms.facts.title
        best = progress.best[:SHOWN]
        self._says.setText(_headline(best, self._model.planning))
        self._proves.setText(
            f"{source.name[0].upper()}{source.name[1:]} to {the(socket.name)}, for {purpose},"
            f" {STYLES[self._model.style].title}: {progress.solved} candidates solved."
        )
        shown = tuple((c.pieces, c.cost) for c in best)
        if shown == self._shown:
            return
        self._shown = shown
        self._show_cards(best)

    def _show_cards(self, best: tuple[Candidate, ...]) -> None:
        clear(self._row)
        self.cards = []
        span = common_span([c.assessment.rows for c in best])
        for candidate, words in zip(best, explain(best), strict=True):
            card = PlanCard(candidate, words, span, self._look, self._adopt)
            self._row.addWidget(card, 1)
            self.cards.append(card)
        if len(best) < SHOWN:
            self._row.addStretch(SHOWN - len(best))
        self._align_heads()

    def _align_heads(self) -> None:
        if self.cards:
            least = self.cards[0].minimumWidth()
            width = max((self.width() - 80) // SHOWN, least)
            height = max(card.head_height(width) for card in self.cards)
            for card in self.cards:
                card.set_head_height(height)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Heads wrap anew."""
        super().resizeEvent(event)
        self._align_heads()

    def _adopt(self, candidate: Candidate) -> None:
        if self._model.adopt(candidate):
            self._model.leave_plan()
            self.adopted.emit()


def _headline(best: tuple[Candidate, ...], planning: bool) -> str:
    if not best:
        return (
            "Searching…"
            if planning
            else ("No path without a stop was found: the pair's ladder shows what stands in it.")
        )
    title = best[0].title()
    so_far = " so far" if planning else ""
    return f"Best{so_far}: {title}."


class PlanCard(QFrame):
    """One plan."""

    def __init__(
        self,
        candidate: Candidate,
        words: Words,
        span_dbu: tuple[float, float],
        look: Look,
        adopt: object,
    ) -> None:
        super().__init__()
        assert callable(adopt)
        self.candidate = candidate
        self._look = look
        self.setObjectName("card")
        self.setMinimumWidth(look.px(270))
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 12)
        column.setSpacing(6)
        title = candidate.title()
        self._title = label(title[0].upper() + title[1:], "title", wraps=True)
        self._why = label(f"{words.why}.", "sub", wraps=True)
        self._head = QWidget()
        said = QVBoxLayout(self._head)
        said.setContentsMargins(0, 0, 0, 0)
        said.setSpacing(2)
        said.addWidget(self._title)
        said.addWidget(self._why)
        said.addStretch(1)
        column.addWidget(self._head)
        ladder = MiniLadder(look)
        rows = [r for r in candidate.assessment.rows if not r.gear.lead]
        ladder.show_rows(rows, span_dbu)
        column.addWidget(ladder)
        column.addLayout(_figures(candidate))
        column.addWidget(label(f"Trades away: {words.costs}.", "caption", wraps=True))
        for finding in candidate.assessment.findings:
            if finding.severity == "mind":
                column.addWidget(label(f"▲ {finding.says}.", "caution", wraps=True))
        self.button = button("Make it a variant", "plain", partial(adopt, candidate))
        column.addWidget(self.button)
        self.drawn = path_drawing(candidate, CARD_UNITS)
        if self.drawn.sheet.symbols:
            schematic = DrawingView(look)
            schematic.show_sheet(self.drawn.sheet)
            schematic.opened.connect(self.open_drawing)
            column.addWidget(schematic)
        self._parts(column, candidate)
        column.addStretch(1)

    def open_drawing(self) -> None:
        """The plan's drawing large, with its parts."""
        drawn = path_drawing(self.candidate, SHEET_UNITS)
        self.large = LargeDrawing(drawn, self.candidate.title(), self._look, self)
        self.large.open()

    def head_height(self, width: int) -> int:
        """How tall title and reason are in a card of a width."""
        inner = width - 36
        for words in (self._title, self._why):
            words.ensurePolished()
        return self._title.heightForWidth(inner) + self._why.heightForWidth(inner) + 4

    def set_head_height(self, height: int) -> None:
        """As tall as the other cards' heads, so that ladders and figures stand in line."""
        self._head.setFixedHeight(height)

    def _parts(self, column: QVBoxLayout, candidate: Candidate) -> None:
        key = keying(candidate.pieces[0], candidate.pieces[-1], candidate.figures.isolated)
        owned = [g.name for g in candidate.between if g.id in candidate.owned]
        if owned:
            column.addWidget(label(f"From the shelf: {', '.join(owned)}", "caption", wraps=True))
        parts = candidate.parts()
        if parts:
            column.addWidget(label("Parts", "section"))
            for part in parts:
                column.addWidget(label(_line(part), "sub", wraps=True))
        if key is not None:
            column.addWidget(label("To transmit", "section"))
            column.addWidget(label(key.says, "caption", wraps=True))


def _line(part: Part) -> str:
    return f"{part.words()}  ({PRICE_WORDS[part.price_class]})"


def _level_line(candidate: Candidate) -> tuple[str, str]:
    knob = candidate.assessment.rows[-1].knob
    if knob is not None:
        return "Microphone gain at", knob.mark if knob.reaches else "out of reach"
    return "Off the middle", f"{signed(candidate.figures.off_middle_db, 1, plus=True)} dB"


def _figures(candidate: Candidate) -> QGridLayout:
    f = candidate.figures
    lines = [
        _level_line(candidate),
        ("Over the noise", f"{f.snr_db:.0f} dB"),
        ("Headroom", f"{f.headroom_db:.0f} dB"),
    ]
    if f.hum_under_db is not None:
        lines.append(("Hum under speech", f"{f.hum_under_db:.0f} dB"))
    bass = "below 20 Hz" if f.bass_hz is None else format_quantity(f.bass_hz, HERTZ, 2)
    lines.append(("Bass from", bass))
    grid = QGridLayout()
    grid.setVerticalSpacing(2)
    for k, (name, value) in enumerate(lines):
        grid.addWidget(label(name, "sub"), k, 0)
        figure = label(value, "figure")
        figure.setAlignment(Qt.AlignmentFlag.AlignRight)
        grid.addWidget(figure, k, 1)
    return grid


def path_drawing(candidate: Candidate, most_width: float) -> Drawn:
    """Everything between source and input on one sheet, in strips of a width in grid units."""
    solution = candidate.assessment.solution
    between = [s for s in solution.compiled.stages[1:-1] if not s.gear.lead]
    return draw_stages(solution, between, most_width)
