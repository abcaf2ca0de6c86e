"""The dark rail at the left: spaces with their digits, then files and the like."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QFrame, QLabel, QSizePolicy, QToolButton, QVBoxLayout

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look

# heights at normal text: name of the program with its margins, a space, a file's button, a line
HEAD_PX, SPACE_PX, ACTION_PX, LINE_PX = 84, 51, 33, 25


class SpaceButton(QToolButton):
    """A space's digit and name; a badge counts what is wrong there."""

    def __init__(self, look: Look, digit: str, name: str) -> None:
        super().__init__()
        self._look, self._name = look, name
        self._count, self._severity = 0, "stop"
        self._lines = 2
        self._digit = digit
        self.show_in_lines(2)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setAccessibleName(f"{digit} {name}")

    def show_in_lines(self, lines: int) -> None:
        """Digit over name, or beside it where the rail is low."""
        self._lines = lines
        self._write()

    def _write(self) -> None:
        if self._lines > 1:
            self.setText(f"{self._digit}\n{self._name}")
            return
        # a badge in the same line wants its room
        room = "\N{EN SPACE}" if self._count else ""
        self.setText(f"{room}{self._digit} {self._name}")

    def show_badge(self, count: int, severity: str) -> None:
        """How many findings of a severity stand; none hides it."""
        if (count, severity) != (self._count, self._severity):
            self._count, self._severity = count, severity
            words = f", {count} to {severity}" if count else ""
            self.setAccessibleDescription(f"{self._name}{words}")
            self._write()
            self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The button, and a round badge at its right."""
        super().paintEvent(event)
        if not self._count:
            return
        with painting(self) as painter:
            # in one line the name goes nearly to the edge: what is free is before the digit
            if self._lines > 1:
                size = max(self._look.px(17), 16)
                box = QRectF(self.width() - size - 5, 7, size, size)
            else:
                size = min(max(self._look.px(12), 12), 14)
                box = QRectF(1, (self.height() - size) / 2, size, size)
            # the rail is dark in both themes: the light theme's brick and ochre carry white and ink
            stop = self._severity == "stop"
            painter.setBrush(QColor("#A93420" if stop else "#B7850B"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawEllipse(box)
            painter.setPen(QColor("#FFFFFF" if stop else "#1D2A35"))
            painter.setFont(
                self._look.font(12 if self._lines > 1 else max(10, 12 / self._look.scale), 700)
            )
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(min(self._count, 9)))


class Rail(QFrame):
    """Buttons by name."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.buttons: dict[str, QToolButton] = {}
        self.setObjectName("rail")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 10, 0, 8)
        self._column.setSpacing(2)
        for text, role in (("Ton", "brand"), ("leiter", "brand2")):
            label = QLabel(text)
            label.setProperty("role", role)
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            self._column.addWidget(label)
        self._column.addSpacing(14)
        look.changed.connect(self._resize)
        self._resize()

    def _resize(self) -> None:
        self.setFixedWidth(self._look.px(76))
        self._fit()

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """In a low window names stand beside their digits."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        spaces = [b for b in self.buttons.values() if isinstance(b, SpaceButton)]
        others = len(self.buttons) - len(spaces)
        wanted = self._look.px(HEAD_PX + SPACE_PX * len(spaces) + ACTION_PX * others)
        for space in spaces:
            space.show_in_lines(1 if self.height() < wanted else 2)

    @guarded
    def minimumSizeHint(self) -> QSize:
        """As tall as it is with names beside their digits; its buttons then give way."""
        return QSize(self._look.px(76), self._look.px(HEAD_PX + LINE_PX * len(self.buttons)))

    def add_space(self, name: str, digit: str, title: str, go: Callable[[], object]) -> None:
        """A space's button."""
        button = SpaceButton(self._look, digit, title)
        self._add(name, button, go)

    def add_action(self, name: str, title: str, do: Callable[[], object]) -> None:
        """A button for something that is done."""
        button = QToolButton()
        button.setText(title)
        button.setAccessibleName(title)
        self._add(name, button, do)

    def add_stretch(self) -> None:
        """What comes after stands at the foot."""
        self._column.addStretch(1)

    def _add(self, name: str, button: QToolButton, do: Callable[[], object]) -> None:
        button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        button.setMinimumHeight(self._look.px(LINE_PX))
        button.clicked.connect(lambda _=False: do())
        self._column.addWidget(button)
        self.buttons[name] = button

    def badge(self, name: str, count: int, severity: str) -> None:
        """Show how many findings stand in a space."""
        button = self.buttons[name]
        assert isinstance(button, SpaceButton)
        button.show_badge(count, severity)
