"""The chosen pair: what it takes, its figures, and where to go from here."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.match.grid_view import VERDICT_COLOR, paint_verdict
from tonleiter.app.spaces.match.model import MatchModel
from tonleiter.app.spaces.no_chain import SHOWS_LADDER
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import Panel
from tonleiter.app.widgets.why_row import WhyRow
from tonleiter.core.match.pair import Pair, Verdict
from tonleiter.core.plan.styles import STYLES
from tonleiter.core.units.levels import format_dbu, format_volts, signed
from tonleiter.core.units.quantity import HERTZ, format_quantity
from tonleiter.core.words import the

VERDICT_WORDS: dict[Verdict, str] = {
    "plug-in": "Plug in",
    "small-parts": "A few small parts",
    "active-part": "An active part",
    "not-worth-it": "Not worth it",
}


class _Mark(QWidget):
    """A verdict's shape."""

    def __init__(self, look: Look, verdict: Verdict) -> None:
        super().__init__()
        self._look, self._verdict = look, verdict
        self.setFixedSize(look.px(18), look.px(22))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The shape in the middle."""
        with painting(self) as painter:
            at = QPointF(self.width() / 2, self.height() / 2)
            paint_verdict(painter, self._look, self._verdict, at)


class Detail(Panel):
    """Built anew when another pair or another verdict is shown."""

    ladder_wanted = Signal()
    plan_wanted = Signal()
    why_asked = Signal(str)

    def __init__(self, model: MatchModel, look: Look) -> None:
        super().__init__("inspector")
        self._model, self._look = model, look
        self._built_for: object = None
        self.house_style = Choice(look, "House style", 240)
        model.changed.connect(self.refresh)
        model.selection_changed.connect(self.refresh)
        look.changed.connect(self._resize)
        self._resize()

    def _resize(self) -> None:
        self.setFixedWidth(min(self._look.px(286), 420))
        self._built_for = None
        self.refresh()

    def refresh(self) -> None:
        """Show the chosen pair."""
        wanted = (self._model.selected, self._model.pair, self._model.terms)
        if wanted == self._built_for:
            return
        self._built_for = wanted
        column = self.begin(spacing=6)
        source, socket = (self._model.gear(i) for i in self._model.selected)
        if source is not None and socket is not None:
            column.addWidget(label(source.name, "title", wraps=True))
            column.addWidget(label(f"on {the(socket.name)}", "sub", wraps=True))
            pair = self._model.pair
            if pair is None:
                column.addWidget(label("being solved…", "caption"))
            else:
                self._build(column, pair)
        self.finish(column)

    def _build(self, column: QVBoxLayout, pair: Pair) -> None:
        head = QHBoxLayout()
        head.setSpacing(6)
        head.addWidget(_Mark(self._look, pair.verdict))
        words = label(VERDICT_WORDS[pair.verdict], "section")
        color = getattr(self._look.palette, VERDICT_COLOR[pair.verdict].replace("aim", "aim_text"))
        words.setStyleSheet(f"color: {color}; font-weight: 700;")
        head.addWidget(words, 1)
        column.addSpacing(4)
        column.addLayout(head)
        if pair.why_not:
            column.addWidget(label(pair.why_not[0].upper() + pair.why_not[1:], "sub", wraps=True))
        for take in pair.takes:
            column.addWidget(label(f"– {take.words}", "sub", wraps=True))
        if not pair.takes and not pair.why_not:
            column.addWidget(label("Nothing stands between them but a lead.", "sub", wraps=True))
        self._figures(column, pair)
        column.addSpacing(8)
        ladder = button(
            SHOWS_LADDER,
            "plain",
            self.ladder_wanted.emit,
            "As plugged in, with everything that is wrong with it",
        )
        column.addWidget(ladder)
        column.addSpacing(8)
        column.addWidget(label("Plan it", "section"))
        self.house_style = Choice(self._look, "House style", 260)
        for style in STYLES.values():
            self.house_style.addItem(style.title, style.id)
        self.house_style.setCurrentIndex(list(STYLES).index(self._model.style))
        column.addWidget(self.house_style)
        plan = button("Search for a path", "plain", self.plan_wanted.emit)
        plan.setEnabled(pair.verdict != "not-worth-it" or pair.speech_dbu is not None)
        column.addWidget(plan)

    def _figures(self, column: QVBoxLayout, pair: Pair) -> None:
        lines: list[tuple[str, str]] = []
        if pair.speech_dbu is not None:
            lines.append(("Level at the pins", format_dbu(pair.speech_dbu)))
            lines.append(("", format_volts(pair.speech_dbu)))
        if pair.window_low_dbu is not None and pair.window_high_dbu is not None:
            low, high = signed(pair.window_low_dbu, 0), format_dbu(pair.window_high_dbu, 0)
            lines.append(("It wants", f"{low} … {high}"))
        if pair.off_middle_db is not None:
            lines.append(("Off the middle", f"{signed(pair.off_middle_db, 0, plus=True)} dB"))
        if pair.snr_db is not None:
            lines.append(("Over the noise", f"{signed(pair.snr_db, 0)} dB"))
        if pair.hum_under_db is not None:
            lines.append(("Hum under it", f"{signed(pair.hum_under_db, 0)} dB"))
        if pair.bass_corner_hz is not None:
            lines.append(("Bass from", format_quantity(pair.bass_corner_hz, HERTZ, 2)))
        if pair.presence_db is not None and self._model.terms.facts.spoken:
            lines.append(("2 kHz over 500 Hz", f"{signed(pair.presence_db, 0, plus=True)} dB"))
            if self._model.terms.facts.presence_db:
                wanted = signed(self._model.terms.facts.presence_db, 0, plus=True)
                lines.append(("wanted", f"{wanted} dB"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(4)
        for k, (name, value) in enumerate(lines):
            grid.addWidget(label(name, "sub"), k, 0)
            figure = label(value, "figure")
            figure.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(figure, k, 1)
        column.addSpacing(4)
        column.addLayout(grid)
        column.addWidget(self._asks(pair))

    def _asks(self, pair: Pair) -> WhyRow:
        there = {
            "level": pair.speech_dbu is not None,
            "gain": pair.knob is not None,
            "noise": pair.snr_db is not None,
            "hum": pair.hum_under_db is not None,
            "bass": pair.bass_corner_hz is not None,
        }
        self.whys = WhyRow()
        self.whys.asked.connect(self.why_asked)
        self.whys.offer([what for what, is_there in there.items() if is_there])
        return self.whys
