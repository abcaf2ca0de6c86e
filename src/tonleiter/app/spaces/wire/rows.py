"""What the panels of the inspector are made of: choices, fields and figures in rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from tonleiter.app.spaces.wire.model import WireModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import label, wrapped_button
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.gear.labels import label_of
from tonleiter.core.station.contacts import At
from tonleiter.core.station.shells import SHELLS

LINK_PX = 208
# letters of a figure that wants as much room as its words
LONG_FIGURE = 12
# letters of a list that are seen at least
LEAST_LETTERS = 5


class Rows:
    """One column of the inspector as it grows; edits go to the model."""

    def __init__(
        self, model: WireModel, look: Look, column: QVBoxLayout, again: Callable[[], None]
    ) -> None:
        self.model, self.look, self.column, self._again = model, look, column, again

    def words(self, text: str, role: str = "sub") -> None:
        """A line of words."""
        self.column.addWidget(label(text, role, wraps=True))

    def do(self, change: Callable[[], object]) -> None:
        """An edit; where it is refused, what stood there is shown again."""
        if not self.model.attempt(change):
            self._again()

    def choice(
        self,
        words: str,
        name: str,
        items: Sequence[tuple[str, str]],
        now: str,
        take: Callable[[str], object],
    ) -> Choice:
        """A row with a list to choose from; ``take`` gets what was chosen."""
        made = Choice(self.look, name, 190)
        # in a panel the list gives way, not the panel
        made.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        made.setMinimumContentsLength(LEAST_LETTERS)
        made.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        made.show_items(list(items), now)
        made.chosen.connect(lambda _: self.do(lambda: take(str(made.currentData()))))
        self.row(words, made)
        return made

    def figure(
        self,
        words: str,
        name: str,
        quantity: Quantity,
        figure: Figure,
        key: tuple[str, str],
        take: Callable[[Figure], object],
    ) -> QuantityField:
        """A row with a figure to type."""
        field = QuantityField(quantity, figure, name, self.model.drafts, key)
        field.accepted.connect(lambda f: field.offer(lambda: take(f)))
        field.refused.connect(self.model.refused)
        self.row(words, field)
        return field

    def link(self, words: str, do: Callable[[], object], spoken: str = "") -> QPushButton:
        """Words to press."""
        metrics = QFontMetrics(self.look.font(14, 600))
        made = wrapped_button(words, "link", lambda: self.do(do), metrics, self.look.px(LINK_PX))
        if spoken:
            made.setAccessibleName(spoken)
        self.column.addWidget(made)
        return made

    def row(self, words: str, field: QWidget) -> None:
        """Words and a widget."""
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(label(words, "sub", wraps=True), 2)
        row.addWidget(field, 3)
        self.column.addLayout(row)

    def pair(self, words: str, figure: str) -> None:
        """Words and a figure; what is too long for one line breaks, each on its own side."""
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(label(words, "sub", wraps=True), 3)
        value = label(figure, "figure", wraps=True)
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
        row.addWidget(value, 3 if len(figure) > LONG_FIGURE else 2)
        self.column.addLayout(row)

    def named(self, contact: At) -> str:
        """A contact as people call it: its box, its number, what it carries."""
        build = self.model.build
        end = build.end_of(contact) if build else None
        if end is None:
            return contact
        role = next((c.role for c in end.connector.contacts if c.label == contact.label), None)
        carries = f", {label_of(role)}" if role else ""
        return f"{end.name}, {contact.label}{carries}"

    def short(self, contact: At) -> str:
        """A contact by its plug's form and its mark."""
        build = self.model.build
        end = build.end_of(contact) if build else None
        if end is None:
            return contact
        return f"{SHELLS[end.connector.shell].form} {contact.label}"
