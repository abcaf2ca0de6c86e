"""The bench: methods that find a figure of the chosen piece, with the arithmetic done."""

from __future__ import annotations

from datetime import date
from functools import partial

from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from tonleiter.app.spaces.gear.model import GearModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.app.widgets.panel import Panel
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.bench import BenchError, Method, methods_for
from tonleiter.core.gear.figure import Figure
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.edits import change_gear, uses_of
from tonleiter.core.units.quantity import QuantityError

# words of a method break into lines where they are longer
METHOD_PX = 130


class BenchPanel(Panel):
    """Methods to choose from; the chosen one with its steps, readings and result."""

    def __init__(self, model: GearModel, look: Look) -> None:
        super().__init__("inspector")
        self._model, self._look = model, look
        self.method: Method | None = None
        self._entries: dict[str, QuantityField] = {}
        self._read: dict[str, float] = {}
        self._built_for: tuple[object, ...] = ()
        self.choices: dict[str, QPushButton] = {}
        self._result = label("", "figure", wraps=True)
        self._refusal = label("", "refusal", wraps=True)
        self.store_button = button("Store as measured", "plain", self.store)
        # nobody sees this one; without a parent it would outlive the panel, and hold it
        self.store_button.setParent(self)
        self.store_button.hide()
        model.changed.connect(self.refresh)
        model.selection_changed.connect(self._other)
        look.changed.connect(self._resize)
        self._resize()
        self.refresh()

    def _resize(self) -> None:
        self.refresh()

    def _other(self) -> None:
        self.method = None
        self.refresh()

    def refresh(self) -> None:
        """Build anew when another piece or method is shown."""
        piece = self._model.piece
        uses = uses_of(self._model.station, piece.id) if piece else ()
        wanted = (piece and piece.id, piece and piece.kind_id, self.method, uses, self._look.scale)
        if wanted == self._built_for:
            return
        self._built_for = wanted
        column = self.begin(spacing=6)
        self._entries, self._read, self.choices = {}, {}, {}
        if piece is not None:
            self._build(column, piece, uses)
        self.finish(column)

    def _build(self, column: QVBoxLayout, piece: Gear, uses: tuple[str, ...]) -> None:
        methods = methods_for(piece)
        column.addWidget(label("On the bench", "title"))
        if not methods:
            column.addWidget(
                label(
                    "Its figures stand on it, or in its manual; nothing to measure.",
                    "caption",
                    wraps=True,
                )
            )
        elif self.method is None:
            column.addWidget(label("Not in the manual? Find it yourself:", "caption", wraps=True))
            for method in methods:
                metrics, room = QFontMetrics(self._look.font(14)), self._look.px(METHOD_PX)
                choose = partial(self.choose, method)
                made = wrapped_button(method.title, "answer", choose, metrics, room)
                self.choices[method.id] = made
                column.addWidget(made)
        else:
            self._build_method(column, self.method)
        column.addSpacing(10)
        column.addWidget(label("Where it stands", "section"))
        words = "\n".join(uses) if uses else "in no chain yet"
        column.addWidget(label(words, "caption", wraps=True))

    def _build_method(self, column: QVBoxLayout, method: Method) -> None:
        column.addWidget(label(method.title, "section", wraps=True))
        for k, step in enumerate(method.steps, start=1):
            column.addWidget(label(f"{k}. {step}", "sub", wraps=True))
        if method.caution:
            column.addWidget(label(f"⚠ {method.caution}", "caution", wraps=True))
        for reading in method.readings:
            column.addWidget(label(reading.title, "sub", wraps=True))
            entry = QuantityField(reading.quantity, Figure(value=1.0), reading.title)
            entry.setText("")
            entry.setPlaceholderText(reading.quantity.unit.examples)
            entry.textEdited.connect(lambda _: self._reckon())
            self._entries[reading.field] = entry
            column.addWidget(entry)
        self._result = label("", "figure", wraps=True)
        self._refusal = label("", "refusal", wraps=True)
        self.store_button = button("Store as measured", "plain", self.store)
        self.store_button.setEnabled(False)
        for widget in (self._result, self._refusal, self.store_button):
            column.addWidget(widget)
        column.addWidget(button("Other methods", "link", self._other))

    def choose(self, method: Method) -> None:
        """Show a method."""
        self.method = method
        self.refresh()
        first = next(iter(self._entries.values()), None)
        if first is not None:
            first.setFocus()

    def type_reading(self, field: str, text: str) -> None:
        """Type a reading, as a hand would."""
        self._entries[field].setText(text)
        self._reckon()

    def _figures(self) -> dict[str, Figure] | None:
        """What the readings give; None while they are incomplete or impossible."""
        piece, method = self._model.piece, self.method
        self._refusal.setText("")
        if piece is None or method is None:
            return None
        values = {}
        for reading in method.readings:
            text = self._entries[reading.field].text().strip()
            if not text:
                return None
            try:
                values[reading.field] = reading.quantity.parse(text).value
            except QuantityError as error:
                self._refusal.setText(f"{reading.title}: {error}")
                return None
        try:
            return method.figures(piece, values, date.today())
        except (BenchError, QuantityError) as error:
            self._refusal.setText(str(error)[0].upper() + str(error)[1:])
            return None

    def _reckon(self) -> None:
        figures, piece = self._figures(), self._model.piece
        self.store_button.setEnabled(bool(figures))
        if not figures or piece is None:
            self._result.setText("")
            return
        accepted = piece.figures()
        self._result.setText(
            "\n".join(
                f"{accepted[f][1].title}: {accepted[f][0].show(figure)}"
                for f, figure in figures.items()
            )
        )

    def store(self) -> None:
        """Store the result as measured today, in one undo step."""
        figures, piece, method = self._figures(), self._model.piece, self.method
        if not figures or piece is None or method is None:
            return
        try:
            self._model.edit(
                method.title, lambda station: change_gear(station, piece.id, **figures)
            )
        except RefusedError as error:
            self._refusal.setText(str(error))
        else:
            self._other()
