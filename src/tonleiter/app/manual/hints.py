"""One sentence for whoever is in a space for the first time, gone after the first thing done."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QSettings, Qt, QTimer
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from tonleiter.app.copying import is_picture
from tonleiter.app.safety.events import guarded
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.core.manual.spaces import hint

KEY = "hints/seen"
SHOWN = True
WIDE_PX, FROM_FOOT_PX = 560, 10
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
        # what is shown for the first time is laid out a moment later. Not in no time: what is to be
        # called then is kept, with the whole space, if the hint goes first
        QTimer.singleShot(1, self, self._place)
        space.installEventFilter(self)
        # the window's own door: a press or a key comes there once, and nothing else does
        door = space.window().windowHandle()
        if door is not None:
            door.installEventFilter(self)
        self.show()
        self.raise_()

    def _place(self) -> None:
        wide = min(self._look.px(WIDE_PX), self._space.width() - 40)
        self.setFixedWidth(max(wide, 200))
        layout = self.layout()
        high = layout.heightForWidth(self.width()) if layout is not None else 60
        self.setFixedHeight(max(high, self._look.px(44)))
        on = self._on()
        left = on.left() + (on.width() - self.width()) // 2
        top = on.bottom() - self.height() - self._look.px(FROM_FOOT_PX)
        self.move(min(max(left, 0), self._space.width() - self.width()), max(top, 0))

    def _on(self) -> QRect:
        """The largest picture of the space, which leaves its words free; else the space."""
        pictures = [w for w in self._space.findChildren(QWidget) if w.isVisible() and is_picture(w)]
        if not pictures:
            return self._space.rect()
        best = max(pictures, key=lambda w: w.visibleRegion().boundingRect().width() * w.height())
        seen = best.visibleRegion().boundingRect()
        return seen.translated(best.mapTo(self._space, QPoint(0, 0)))

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
        elif event.type() in _USES and watched is not self._space and self.isVisible():
            if isinstance(event, QMouseEvent | QWheelEvent):
                at = event.globalPosition().toPoint()
                here = self._space.rect().contains(self._space.mapFromGlobal(at))
                if not here or self.rect().contains(self.mapFromGlobal(at)):
                    return False
            self.end()
        return False
