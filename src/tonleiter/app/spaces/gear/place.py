"""A page of the Gear space that shows something else than a piece."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from tonleiter.app.drafts import Key
from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.gear.model import GearModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.field import fields_in
from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.panel import put_away
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.model import Station


class Place(QFrame):
    """A page built anew when what it shows has changed: an edit elsewhere costs it nothing."""

    def __init__(self, model: GearModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self.refusal = label("", "refusal", wraps=True)
        self._refused_of: Station | None = None
        self.setObjectName("center")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(24, 16, 20, 16)
        self._column.setSpacing(10)
        self._body: QWidget | None = None
        self._built_of: object = None
        model.changed.connect(self.refresh)
        look.changed.connect(self._wear)
        self._worn = look.scale
        self.refresh()

    def _wear(self) -> None:
        """Colours follow by themselves; other sizes want it built anew, when it is seen."""
        if self.isVisible() and self._worn != self._look.scale:
            self._build_anew()

    @guarded
    def showEvent(self, event: QShowEvent) -> None:
        """Seen again, perhaps with another size of text."""
        super().showEvent(event)
        self._wear()

    def refresh(self) -> None:
        """Build the page from the station, if that changed what it shows."""
        if self.shown() != self._built_of:
            self._build_anew()

    def _build_anew(self) -> None:
        self._built_of, self._worn = self.shown(), self._look.scale
        if self._body is not None:
            for field in fields_in(self._body):
                field.retire()  # their successors show what was typed
        body = QWidget()
        body.setObjectName("center")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        # what was refused stays said while that station stands: what a worker found comes later
        said = self.refusal.text() if self._refused_of is self._model.station else ""
        self.refusal = label(said, "refusal", wraps=True)
        self.build(column)
        column.addWidget(self.refusal)
        column.addStretch(1)
        if self._body is not None:
            self._column.removeWidget(self._body)
            put_away(self._body)
        self._body = body
        self._column.addWidget(body)

    def shown(self) -> object:
        """Everything of the station that the page is built from."""
        raise NotImplementedError

    def build(self, column: QVBoxLayout) -> None:
        """Add the page's widgets."""
        raise NotImplementedError

    def say(self, why: str) -> None:
        """Show a refusal."""
        self._refused_of = self._model.station
        self.refusal.setText(why)

    def attempt(self, words: str, change: Callable[[Station], Station]) -> str:
        """Edit the station; returns the refusal that is shown, empty if it was taken."""
        why = ""
        try:
            self._model.edit(words, change)
        except RefusedError as error:
            why = str(error)
        self.say(why)
        return why

    def field(self, quantity: Quantity, figure: Figure, name: str, key: Key) -> QuantityField:
        """An entry of the usual width."""
        entry = QuantityField(quantity, figure, name, self._model.document.drafts, key)
        entry.setFixedWidth(self._look.px(110))
        entry.refused.connect(self.say)
        return entry

    def choice(self, name: str, words: tuple[str, ...], now: str) -> Choice:
        """A drop-down of words."""
        box = Choice(self._look, name, 150)
        box.addItems(list(words))
        box.setCurrentText(now)
        return box
