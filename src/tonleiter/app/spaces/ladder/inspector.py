"""The inspector: the selected stage's schematic, values to change, and what they come to."""

from __future__ import annotations

from functools import partial
from typing import Any, get_args

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QGridLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
)

from tonleiter.app.in_turns import InTurns
from tonleiter.app.spaces.ladder.grasp import VOICE_INDEX
from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.drawing.large import LargeDrawing
from tonleiter.app.widgets.drawing.widget import DrawingView
from tonleiter.app.widgets.figure_form import FigureForm, add_section, plain_grid, word_fields
from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.lines_field import LinesField
from tonleiter.app.widgets.panel import Panel
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.app.widgets.small_plot import SmallPlot
from tonleiter.app.widgets.text_field import TextField
from tonleiter.app.widgets.why_row import WhyRow
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.labels import label_of
from tonleiter.core.gear.pad_shapes import ShapedPad
from tonleiter.core.report.curves import MOST_CURVES, stage_curves
from tonleiter.core.report.drawings import draw_chain
from tonleiter.core.report.results import pad_choices, stage_results, voice_results
from tonleiter.core.station.model import Speaks
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import format_short
from tonleiter.core.words import the

WIDE_PX, MOST_PX = 276, 400
# between the ends of a range
RANGE = " … "
# a strip of a chain's drawing, in grid units
CHAIN_UNITS = 96.0


class Inspector(Panel):
    """Rebuilt when another piece is selected; refreshed in place while values move."""

    refused = Signal(str)
    why_asked = Signal(str)

    def __init__(self, model: LadderModel, look: Look) -> None:
        super().__init__("inspector")
        self._model, self._look = model, look
        self._built_for: tuple[object, ...] = ()
        self._form: FigureForm | None = None
        self._results: list[tuple[QLabel, QLabel]] = []
        self._options: list[QPushButton] = []
        self.insert_box: Choice | None = None
        self._plots: list[SmallPlot] = []
        self._cards: LinesField | None = None
        self._nodes: dict[str, TextField] = {}
        self._most_px = MOST_PX
        self.speaks: Choice | None = None
        self.large: LargeDrawing | None = None
        self._refusal = QLabel()
        self._drawer = QLabel()
        self._turns = InTurns(self)
        model.changed.connect(self._follow)
        model.selection_changed.connect(self.refresh)
        look.changed.connect(self._resize)
        self._resize()
        self.refresh()

    def _resize(self) -> None:
        self.setFixedWidth(min(self._look.px(WIDE_PX), self._most_px))

    def limit(self, most_px: int) -> None:
        """How wide it may be in a window of the present size."""
        if most_px != self._most_px:
            self._most_px = most_px
            self._resize()

    # --- what is selected ------------------------------------------------------------------------

    def _gear(self) -> Gear | None:
        assessment, index = self._model.assessment, self._model.selected
        if assessment is None or index == VOICE_INDEX:
            return None
        return assessment.rows[index].gear

    def _stage(self, gear: Gear | None) -> tuple[bool, str | None]:
        """Which stage is to be shown, where there is any."""
        return self._model.assessment is None, gear.id if gear else None

    def _follow(self) -> None:
        """Another chain has another stage there: built in a turn of its own, the ladder is first.

        What is typed meanwhile is of the piece that is seen, wherever that stands.
        """
        if self.isVisible() and self._stage(self._gear()) != self._built_for[:2]:
            self._turns.take_after(self.refresh)
        else:
            self.refresh()

    def refresh(self) -> None:
        """Show the selected stage's present figures."""
        self._turns.drop()
        gear = self._gear()
        idle = gear.idle_fields() if gear else ()
        shelf = tuple(self._model.insertable()) if gear else ()
        wanted = (*self._stage(gear), self._look.scale, idle, shelf)
        if wanted != self._built_for:
            self._built_for = wanted
            self._build(gear)
        if self._model.assessment is None:
            return
        self._show_figures(gear)

    def focus_first(self) -> None:
        """Put the keyboard into the first value."""
        if self._form is not None and self._form.rows:
            self._form.rows[0].entry.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def open_insert(self) -> None:
        """Open the list of pieces that could stand behind the chosen stage."""
        if self.insert_box is not None:
            self.insert_box.setFocus(Qt.FocusReason.ShortcutFocusReason)
            self.insert_box.showPopup()

    def _build_insert(self, column: QVBoxLayout) -> None:
        """What stands on the shelf and could stand behind this stage, or before a radio."""
        index, assessment = self._model.selected, self._model.assessment
        items = self._model.insertable()
        self.insert_box = None
        if assessment is None or index == VOICE_INDEX or not items:
            return
        last = index == len(assessment.rows) - 1
        column.addWidget(label("Put in before it" if last else "Put in behind it", "section"))
        box = Choice(self._look, "Piece to put in", 240)
        box.addItem("from the shelf…", "")
        for name, gear_id in items:
            box.addItem(name, gear_id)
        box.chosen.connect(lambda _: self._insert(index, box.currentData()))
        column.addWidget(box)
        self.insert_box = box

    def entry(self, field: str) -> QuantityField:
        """The entry of a field. Raises KeyError."""
        if self._form is not None:
            return self._form.entry(field)
        raise KeyError(field)

    # --- building --------------------------------------------------------------------------------

    def _build(self, gear: Gear | None) -> None:
        self._form, self._results, self._options = None, [], []
        self.speaks = self.insert_box = None
        self._cards, self._nodes = None, {}
        column = self.begin(spacing=4)
        self._refusal = label("", "refusal")
        self._refusal.setWordWrap(True)
        if self._model.assessment is None:
            column.addWidget(label("Nothing to inspect", "title"))
        else:
            self._build_stage(column, gear)
        self.finish(column)

    def _build_stage(self, column: QVBoxLayout, gear: Gear | None) -> None:
        title = label(gear.name if gear else "Voice", "title")
        title.setWordWrap(True)
        column.addWidget(title)
        what = gear.what if gear else "what speaks, and the room"
        column.addWidget(label(what, "caption", wraps=True))
        if gear is None:
            self._build_voice(column)
            self._grid_results(column)
            return
        self._schematic = DrawingView(self._look)
        self._schematic.opened.connect(self.open_drawing)
        column.addWidget(self._schematic)
        if gear.lines_field is not None:
            self._build_cards(column, gear, gear.lines_field)
        self._form = form = FigureForm(
            self._look,
            gear,
            partial(self._model.set_value_of, gear.id),
            self._refuse,
            self._model.document.settle,
            self._model.document.drafts,
            self._model.readings_wanted.emit,
        )
        idle = gear.idle_fields()
        choices = [f for f in gear.figures() if f in gear.choices and f not in idle]
        facts = [f for f in gear.figures() if f not in gear.choices and f not in idle]
        words = [f for f in word_fields(gear) if f not in idle]
        if choices or any(f in gear.choices for f in words):
            grid = _grid(column)
            for field in choices:
                form.add_figure(grid, field, tagged=False)
            for field in words:
                if field in gear.choices:
                    form.add_words(grid, field)
        column.addWidget(self._refusal)
        self._grid_results(column)
        self.whys = WhyRow()
        self.whys.asked.connect(self.why_asked)
        column.addWidget(self.whys)
        self._plots = [SmallPlot(self._look) for _ in range(MOST_CURVES)]
        for plot in self._plots:
            column.addWidget(plot)
        self._drawer = label("", "section")
        column.addWidget(self._drawer)
        for _ in range(3):
            option = QPushButton()
            option.setProperty("role", "option")
            option.setCheckable(True)
            self._options.append(option)
            column.addWidget(option)
        for section in gear.sections:
            self._build_section(column, gear, section, facts, words)
        self._build_insert(column)
        if gear.notes:
            notes = label(gear.notes, "caption")
            notes.setWordWrap(True)
            column.addWidget(notes)

    def _build_voice(self, column: QVBoxLayout) -> None:
        """How the microphone is spoken into."""
        assessment, chain = self._model.assessment, self._model.chain
        if assessment is None or chain is None or not assessment.voice.acoustic:
            return
        grid = _grid(column)
        self.speaks = box = Choice(self._look, "How it is spoken into")
        box.chosen.connect(
            lambda _: self._model.attempt(
                lambda: self._model.set_chain("spoken", None, speaks=box.currentData())
            )
        )
        grid.addWidget(label("Spoken", "sub"), 0, 0)
        grid.addWidget(box, 0, 1)

    def _build_cards(self, column: QVBoxLayout, gear: Gear, field: str) -> None:
        """The netlist itself, and the nodes that are its ports."""
        column.addWidget(label("Its cards", "section"))
        drafts = self._model.document.drafts
        text, name = getattr(gear, field), f"Netlist cards of {the(gear.name)}"
        cards = LinesField(text, name, drafts, (gear.id, field))
        cards.setFixedHeight(self._look.px(170))
        cards.accepted.connect(partial(self._take_text, gear.id, field, cards))
        column.addWidget(cards)
        self._cards = cards
        grid = _grid(column)
        for field, title in gear.word_titles.items():
            name = f"{title} of {the(gear.name)}"
            entry = TextField(str(getattr(gear, field)), name, drafts, (gear.id, field))
            entry.setFixedWidth(self._look.px(108))
            entry.accepted.connect(partial(self._take_text, gear.id, field, entry))
            line = grid.rowCount()
            grid.addWidget(label(title, "sub"), line, 0)
            grid.addWidget(entry, line, 1)
            self._nodes[field] = entry

    def _take_text(
        self, gear_id: str, field: str, entry: LinesField | TextField, text: str
    ) -> None:
        """Cards that cannot be read stay as typed, with one line that says where."""
        self._refuse(entry.offer(lambda: self._model.set_value_of(gear_id, field, text)))

    def _insert(self, behind: int, gear_id: str) -> None:
        if gear_id:
            self._model.attempt(lambda: self._model.insert(behind, gear_id))

    def _build_section(
        self, column: QVBoxLayout, gear: Gear, section: str, facts: list[str], words: list[str]
    ) -> None:
        figures = [f for f in facts if gear.section(f) == section]
        chosen = [f for f in words if f not in gear.choices and gear.section(f) == section]
        if not figures and not chosen:
            return
        column.addSpacing(6)
        column.addWidget(label(section, "section"))
        assert self._form is not None
        add_section(self._form, _grid(column), gear, [*figures, *chosen], tagged=True)

    def _grid_results(self, column: QVBoxLayout) -> None:
        self._result_grid = _grid(column)

    def _add_result(self) -> None:
        name, value = label("", "sub"), label("", "figure")
        name.setWordWrap(True)
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        line = len(self._results)
        self._result_grid.addWidget(name, line, 0)
        self._result_grid.addWidget(value, line, 1)
        self._results.append((name, value))

    # --- showing ---------------------------------------------------------------------------------

    def _show_figures(self, gear: Gear | None) -> None:
        assessment, index = self._model.assessment, self._model.selected
        assert assessment is not None
        lines = voice_results(assessment) if gear is None else stage_results(assessment, index)
        if gear is not None:
            self.whys.offer(self._model.whys())
        while len(self._results) < len(lines):
            self._add_result()
        spare = [None] * (len(self._results) - len(lines))
        for (name, value), line in zip(self._results, [*lines, *spare], strict=True):
            name.setVisible(line is not None)
            value.setVisible(line is not None)
            if line is not None:
                name.setText(line.name)
                _show_value(value, line.value)
        if self.speaks is not None and (chain := self._model.chain) is not None:
            items = [(label_of(token), token) for token in get_args(Speaks)]
            self.speaks.show_items(items, chain.speaks)
        if gear is None:
            return
        if self._form is not None:
            self._form.show(self._model.as_typed(gear), gear)
        if gear.lines_field is not None and self._cards is not None:
            self._cards.show_text(getattr(gear, gear.lines_field))
        self._schematic.show_sheet(draw_chain(assessment.solution, [index]).sheet)
        curves = stage_curves(assessment, index)
        for plot, curve in zip(self._plots, [*curves, None, None], strict=False):
            plot.show_curve(curve)
        self._show_options()

    def _show_options(self) -> None:
        assessment, index = self._model.assessment, self._model.selected
        assert assessment is not None
        designs = pad_choices(assessment, index)
        self._drawer.setVisible(bool(designs))
        if designs:
            aim = assessment.rows[-1].window
            aim_text = f" for {signed(aim.middle_dbu, 0)} dBu" if aim else ""
            drawer = assessment.station.drawer.ohms()
            source = "From your drawer" if drawer else "Preferred values"
            self._drawer.setText(f"{source}{aim_text}")
        now = assessment.rows[index].gear
        for k, option in enumerate(self._options):
            option.setVisible(k < len(designs))
            if k >= len(designs):
                continue
            design = designs[k]
            parts = " / ".join(format_short(v) for _, v in design.values)
            option.setText(f"{parts:<12} {signed(-design.loss_db)} dB")
            option.setChecked(
                all(abs(now.figure(f).value - v) < 1e-6 * v for f, v in design.values)
            )
            _reconnect(option, lambda _=False, d=design: self._use(d))

    # --- hands -----------------------------------------------------------------------------------

    def open_drawing(self) -> None:
        """The selected stage large, with its parts."""
        assessment, gear = self._model.assessment, self._gear()
        if assessment is not None and gear is not None:
            drawn = draw_chain(assessment.solution, [self._model.selected])
            self.large = LargeDrawing(drawn, gear.name, self._look, self)
            self.large.open()

    def open_chain_drawing(self) -> None:
        """The whole chain large, on one sheet."""
        assessment, chain = self._model.assessment, self._model.chain
        if assessment is not None and chain is not None:
            drawn = draw_chain(assessment.solution, most_width=CHAIN_UNITS)
            title = f"{chain.name}, {chain.variant().name}"
            self.large = LargeDrawing(drawn, title, self._look, self)
            self.large.open()

    def print_chain_drawing(self) -> None:
        """The same as it will lie on the paper."""
        self.large = None
        self.open_chain_drawing()
        if self.large is not None:
            self.large.ask_print()

    def _refuse(self, why: str) -> None:
        self._refusal.setText(why)
        self.refused.emit(why)

    def _use(self, design: ShapedPad) -> None:
        """All resistors of a design in one undo step."""
        gesture = f"design {design.values}"
        index = self._model.selected
        gear_id = self._model.station.chain().variant().stages[index].gear
        for field, value in design.values:
            self._model.attempt(partial(self._model.set_value_of, gear_id, field, value, gesture))
        self._model.document.settle()
        self.refresh()


def _show_value(label: QLabel, text: str) -> None:
    """A figure stays in one piece; of a range each end does."""
    of_two = RANGE in text
    label.setWordWrap(of_two)
    low, _, high = (part.replace(" ", "\u00a0") for part in text.partition(RANGE))
    label.setText(f"{low}\u00a0… {high}" if of_two else text)


def _grid(column: QVBoxLayout) -> QGridLayout:
    grid = plain_grid()
    column.addLayout(grid)
    return grid


def _reconnect(button: QPushButton, slot: Any) -> None:  # noqa: ANN401 - any callable
    if button.property("connected"):
        button.clicked.disconnect()
    button.setProperty("connected", True)
    button.clicked.connect(slot)
