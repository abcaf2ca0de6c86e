"""A field for a figure: type it as people write it, scroll or drag its name to move it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import (
    QAction,
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QLabel, QLineEdit

from tonleiter.app.drafts import Drafts, Key
from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.field import Keeping, TypedText
from tonleiter.app.widgets.recent_values import keep, recent
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.units.quantity import MOST_CHARACTERS, QuantityError, format_short

PX_PER_STEP = 8
ALT = Qt.KeyboardModifier.AltModifier


def field_text(quantity: Quantity, figure: Figure) -> str:
    """The text a field shows: short part values for ohms and farads, unit included elsewhere."""
    percent = figure.tolerance_percent
    if percent is None and figure.low is not None and figure.high is not None:
        # both ends have to be read in a narrow field, and typed again as they stand there
        if quantity.unit.prefixed:
            return f"{format_short(figure.low)}..{format_short(figure.high)}"
        return f"{figure.low:.4g}..{figure.high:.4g}".replace("-", "−")
    if quantity.unit.symbol in ("Ω", "F", "H") and (figure.low is None or percent is not None):
        unit = "" if quantity.unit.symbol == "Ω" else quantity.unit.symbol
        tail = "" if percent is None else f" {percent:.3g}%"
        return format_short(figure.value, 4) + unit + tail
    return quantity.show(figure, 4)


class QuantityField(TypedText, QLineEdit):
    """Shows a figure; on Enter or leaving it parses what was typed.

    A refusal keeps the text, marks the field and is told through ``refused``.
    """

    accepted = Signal(object)
    refused = Signal(str)
    nudged = Signal(int)

    def __init__(
        self,
        quantity: Quantity,
        figure: Figure,
        name: str,
        drafts: Drafts | None = None,
        key: Key | None = None,
    ) -> None:
        text = field_text(quantity, figure)
        QLineEdit.__init__(self, text)
        self._quantity = quantity
        self.setAccessibleName(name)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setMaxLength(4 * MOST_CHARACTERS)
        self.returnPressed.connect(self.commit)
        self.begin(text, Keeping(drafts, key, name))

    def typed(self) -> str:
        """The text as it stands there."""
        return self.text()

    def write(self, text: str) -> None:
        """Put a text there."""
        self.setText(text)

    def show_figure(self, figure: Figure) -> None:
        """Show another value, unless there is something typed that is not taken over."""
        self.show_text(field_text(self._quantity, figure))

    def commit(self) -> None:
        """Take over what was typed, or say why not and keep it."""
        TypedText.commit(self)
        if not self._keeping.retired and not self._keeping.why:
            self.refused.emit("")

    def send(self, typed: str) -> None:
        """Only a figure that can be read is offered."""
        try:
            figure = self._quantity.parse(typed)
        except QuantityError as error:
            self.refuse(str(error))
            return
        self.settle()
        keep(self._quantity.unit.symbol, typed)
        self.accepted.emit(figure)

    def refuse(self, why: str) -> None:
        """Mark the field and tell why; the text stays."""
        self.answer(why)
        self.refused.emit(why)

    @guarded
    def focusInEvent(self, event: QFocusEvent) -> None:
        """Select all, so that typing replaces."""
        super().focusInEvent(event)
        self.selectAll()

    @guarded
    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving the field takes over what was typed."""
        super().focusOutEvent(event)
        self.commit()

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows nudge, Escape gives the old value back, Alt+Down offers what was typed last."""
        if event.key() == Qt.Key.Key_Escape:
            self.give_back()
            self.refused.emit("")
        elif event.key() == Qt.Key.Key_Down and event.modifiers() & ALT:
            self.offer_recent()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.nudged.emit(1 if event.key() == Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)

    def offer_recent(self) -> None:
        """What was typed last for this unit, to choose from."""
        menu = self.createStandardContextMenu()
        first = menu.actions()[0]
        texts = [t for t in recent(self._quantity.unit.symbol) if t != self.text()]
        for text in texts:
            action = QAction(text, menu)
            action.triggered.connect(partial(self._take_recent, text))
            menu.insertAction(first, action)
        if texts:
            menu.insertSeparator(first)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.mapToGlobal(self.rect().bottomLeft()))

    def _take_recent(self, text: str) -> None:
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.setText(text)
        self.commit()

    @guarded
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """The usual menu, with what was typed last on top."""
        self.offer_recent()
        event.accept()

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scroll to nudge, once the field has the focus."""
        if self.hasFocus() and event.angleDelta().y():
            self.nudged.emit(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        else:
            event.ignore()


class DragLabel(QLabel):
    """A field's name that is dragged sideways to move its value."""

    dragged = Signal(int)
    drag_ended = Signal()

    def __init__(self, text: str, movable: bool) -> None:
        super().__init__(text)
        self._at: QPointF | None = None
        self._movable = movable
        if movable:
            self.setCursor(Qt.CursorShape.SizeHorCursor)

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        if self._movable:
            self._at = event.globalPosition()

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A step for every few pixels."""
        if self._at is None:
            return
        steps = int((event.globalPosition().x() - self._at.x()) / PX_PER_STEP)
        if steps:
            self._at += QPointF(steps * PX_PER_STEP, 0)
            self.dragged.emit(steps)

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        if self._at is not None:
            self._at = None
            self.drag_ended.emit()
