"""Rows of a piece's figures and words: typed, scrolled, dragged; each with where it comes from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QPushButton

from tonleiter.app.drafts import Drafts
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.quantity_field import DragLabel, QuantityField
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.gear.labels import label_of
from tonleiter.core.refused import RefusedError
from tonleiter.core.units import preferred
from tonleiter.core.words import the

ORIGIN = {"typical": "typical", "manual": "from the manual", "measured": "measured"}
ENTRY_PX, CHOICE_PX = 108, 150
# a wheel that is spun may ask for hundreds of places at once
MOST_STEPS = 100


@dataclass
class Row:
    """Widgets of one figure."""

    field: str
    entry: QuantityField
    tag: QPushButton | None
    learned: QPushButton


class FigureForm:
    """Makes rows in grids and keeps them current.

    ``set_value`` takes a field, a value and a gesture (edits of one gesture are one undo step) and
    raises RefusedError; ``say`` shows a refusal; ``settle`` ends a gesture; ``show_readings`` leads
    to the readings that a figure was learned from.
    """

    def __init__(
        self,
        look: Look,
        gear: Gear,
        set_value: Callable[[str, object, str | None], None],
        say: Callable[[str], None],
        settle: Callable[[], None],
        drafts: Drafts | None = None,
        show_readings: Callable[[], None] | None = None,
    ) -> None:
        self._look, self._gear, self._drafts = look, gear, drafts
        self._show_readings = show_readings
        self._set_value, self._say, self._settle = set_value, say, settle
        self.rows: list[Row] = []
        self.choices: list[tuple[str, QComboBox]] = []
        self._scrubs = 0

    def entry(self, field: str) -> QuantityField:
        """The entry of a field. Raises KeyError."""
        for row in self.rows:
            if row.field == field:
                return row.entry
        raise KeyError(field)

    def add_figure(self, grid: QGridLayout, field: str, tagged: bool) -> None:
        """A row with the figure's name, its entry and, if ``tagged``, its origin."""
        gear = self._gear
        quantity, info = gear.figures()[field]
        title = info.title or field
        movable = field == gear.handle
        name = DragLabel(title, movable)
        name.setProperty("role", "sub")
        name.setToolTip("Drag sideways to change it" if movable else "")
        name.setWordWrap(True)
        name_of = f"{title} of {the(gear.name)}"
        key = (gear.id, field)
        entry = QuantityField(quantity, gear.figure(field), name_of, self._drafts, key)
        entry.setFixedWidth(self._look.px(ENTRY_PX))
        line = grid.rowCount()
        tag = self._tag(field, title) if tagged else None
        grid.addWidget(name, line, 0)
        grid.addWidget(entry, line, 1, 2 if tag else 1, 1, Qt.AlignmentFlag.AlignTop)
        if tag is not None:
            grid.addWidget(tag, line + 1, 0, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)
        entry.accepted.connect(lambda figure: self._take(field, entry, figure))
        entry.refused.connect(self._say)
        entry.nudged.connect(lambda steps: self._move(field, quantity, steps, None))
        name.dragged.connect(
            lambda steps: self._move(field, quantity, steps, f"scrub {self._scrubs}")
        )
        name.drag_ended.connect(self._end_scrub)
        learned = self._bracket(title)
        grid.addWidget(learned, line + 2, 0, 1, 2, Qt.AlignmentFlag.AlignLeft)
        self.rows.append(Row(field, entry, tag, learned))

    def _bracket(self, title: str) -> QPushButton:
        """What readings taught of a figure: there once they did."""
        made = QPushButton()
        made.setProperty("role", "learned")
        made.setToolTip("What readings taught of it; press to see them")
        made.setAccessibleName(f"Learned of {title}")
        made.setCursor(Qt.CursorShape.PointingHandCursor)
        made.clicked.connect(lambda: self._show_readings() if self._show_readings else None)
        made.hide()
        return made

    def _tag(self, field: str, title: str) -> QPushButton:
        tag = QPushButton()
        tag.setProperty("role", "tag")
        tag.setToolTip("Where the figure comes from; press to change")
        tag.clicked.connect(lambda: self._next_basis(field))
        tag.setAccessibleName(f"Origin of {title}")
        tag.setCursor(Qt.CursorShape.PointingHandCursor)
        return tag

    def add_words(self, grid: QGridLayout, field: str) -> None:
        """A row for a field that holds one of a few words."""
        info = type(self._gear).model_fields[field]
        line = grid.rowCount()
        box = Choice(self._look, f"{info.title} of {the(self._gear.name)}", CHOICE_PX)
        for token in get_args(info.annotation):
            box.addItem(label_of(token), token)
        box.chosen.connect(lambda index: self._attempt(field, box.itemData(index), None))
        grid.addWidget(label(info.title or field, "sub", wraps=True), line, 0)
        grid.addWidget(box, line, 1)
        self.choices.append((field, box))

    def show(self, gear: Gear, learned: Gear | None = None) -> None:
        """Show the present figures of the piece, and what was learned of them."""
        self._gear = gear
        for row in self.rows:
            figure = gear.figure(row.field)
            row.entry.show_figure(figure)
            if row.tag is not None:
                row.tag.setText(origin_text(figure))
            taught = learned.figure(row.field) if learned is not None else figure
            row.learned.setVisible(taught.told)
            if taught.told:
                row.learned.setText(f"[{bracket_text(gear.figures()[row.field][0], taught)}]")
        for field, box in self.choices:
            box.setCurrentIndex(box.findData(getattr(gear, field)))

    # --- hands -----------------------------------------------------------------------------------

    def _take(self, field: str, entry: QuantityField, figure: Figure) -> None:
        old, choice = self._gear.figure(field), field in self._gear.choices
        taken = figure.typed_over(old, date.today(), choice)
        try:
            self._set_value(field, taken, None)
        except RefusedError as error:
            entry.refuse(str(error))

    def _attempt(self, field: str, value: object, gesture: str | None) -> None:
        """Set what needs no typing; a refusal is shown beside, and things stay as they were."""
        try:
            self._set_value(field, value, gesture)
            self._say("")
        except RefusedError as error:
            self._say(str(error))
            self.show(self._gear)

    def _move(self, field: str, quantity: Quantity, steps: int, gesture: str | None) -> None:
        value = stepped(quantity, self._gear.figure(field).value, steps)
        self._attempt(field, value, gesture)

    def _end_scrub(self) -> None:
        self._scrubs += 1
        self._settle()

    def _next_basis(self, field: str) -> None:
        self._attempt(field, self._gear.figure(field).of_next_origin(date.today()), None)


def bracket_text(quantity: Quantity, figure: Figure) -> str:
    """Both ends of a range, the unit once where they share it: there is little room."""
    low, high = (quantity.show(Figure(value=v)) for v in (figure.low, figure.high) if v is not None)
    figures, _, unit = low.rpartition(" ")
    return f"{figures}…{high}" if figures and high.endswith(f" {unit}") else f"{low}…{high}"


def origin_text(figure: Figure) -> str:
    """Where a figure comes from, with the day it was measured."""
    if figure.basis == "measured" and figure.measured_on is not None:
        return f"measured {figure.measured_on.isoformat()}"
    return ORIGIN[figure.basis]


def stepped(quantity: Quantity, value: float, steps: int) -> float:
    """A few places along the preferred values for parts, half units for levels and gains."""
    if quantity.unit.prefixed and value > 0:
        series: preferred.Series = "E24" if quantity.unit.symbol == "Ω" else "E6"
        moved = preferred.step(value, min(max(steps, -MOST_STEPS), MOST_STEPS), series)
    else:
        moved = value + 0.5 * steps
    return quantity.held(moved, value)


def word_fields(gear: Gear) -> list[str]:
    """Fields that hold one of a few words."""
    fields = type(gear).model_fields
    return [
        name
        for name, info in fields.items()
        if name != "kind"
        and get_args(info.annotation)
        and info.title
        and all(isinstance(a, str) for a in get_args(info.annotation))
    ]


def add_section(
    form: FigureForm, grid: QGridLayout, gear: Gear, fields: list[str], tagged: bool
) -> None:
    """Rows for fields in the order of the model, figures and words alike."""
    figures = gear.figures()
    for field in (f for f in type(gear).model_fields if f in fields):
        if field in figures:
            form.add_figure(grid, field, tagged)
        else:
            form.add_words(grid, field)


def plain_grid() -> QGridLayout:
    """A grid of names and values."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(6)
    grid.setVerticalSpacing(5)
    grid.setColumnStretch(0, 1)
    return grid
