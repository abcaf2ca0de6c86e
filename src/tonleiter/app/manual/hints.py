"""One sentence for whoever is in a space for the first time, gone after the first thing done."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QSettings, Qt
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QWidget

from tonleiter.app.safety.events import guarded
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.core.manual.spaces import hint

KEY = "hints/seen"
SHOWN = True
WIDE_PX, FROM_FOOT_PX = 560, 18
_USES = (QEvent.Type.MouseButtonPress, QEvent.Type.KeyPress, QEvent.Type.Wheel)


def seen() -> set[str]:
    """Spaces whose sentence was read."""
    return set(str(QSettings().value(KEY, "")).split())


def mark(name: str) -> None:
    """It was read."""
    QSettings().setValue(KEY, " ".join(sorted(seen() | {name})))


def forget_all() -> None:
    """All of them are said again."""
    QSettings().remove(KEY)


class Hint(QFrame):
    """Over the foot of a space, in nobody's way: the first press, key or wheel there ends it."""

    def __init__(self, name: str, space: QWidget, look: Look) -> None:
        super().__init__(space)
        self.name, self._look, self._space = name, look, space
        self.setObjectName("hint")
        self.setAccessibleName(f"Hint: {hint(name)}")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 10, 12, 10)
        row.setSpacing(14)
        row.addWidget(label(hint(name), "step", wraps=True), 1)
        row.addWidget(button("Got it", "link", self.end), 0, Qt.AlignmentFlag.AlignTop)
        look.dress(self)
        self._place()
        space.installEventFilter(self)
        if (application := QApplication.instance()) is not None:
            application.installEventFilter(self)
        self.show()
        self.raise_()

    def _place(self) -> None:
        wide = min(self._look.px(WIDE_PX), self._space.width() - 40)
        self.setFixedWidth(max(wide, 200))
        layout = self.layout()
        high = layout.heightForWidth(self.width()) if layout is not None else 60
        self.setFixedHeight(max(high, self._look.px(44)))
        left = (self._space.width() - self.width()) // 2
        top = self._space.height() - self.height() - self._look.px(FROM_FOOT_PX)
        self.move(max(left, 0), max(top, 0))

    def end(self) -> None:
        """It was read, or made superfluous."""
        if self.isHidden():
            return
        mark(self.name)
        self.hide()
        self.deleteLater()

    @guarded
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Something was done in the space: it is used now."""
        if watched is self._space and event.type() == QEvent.Type.Resize:
            self._place()
        elif event.type() in _USES and isinstance(watched, QWidget) and self.isVisible():
            here = watched is self._space or self._space.isAncestorOf(watched)
            mine = watched is self or self.isAncestorOf(watched)
            if here and not mine:
                self.end()
        return False
