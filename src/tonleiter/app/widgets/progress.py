"""A thin bar that fills; unlike the toolkit's own it repaints only when the loop has time."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look

HEIGHT_PX = 5


class Progress(QWidget):
    """Shows how much of something is done."""

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self._look, self._name = look, name
        self._share = 0.0
        self.setAccessibleName(name)
        look.changed.connect(self.updateGeometry)

    @guarded
    def sizeHint(self) -> QSize:
        """A thin line."""
        return QSize(100, self._look.px(HEIGHT_PX))

    @guarded
    def minimumSizeHint(self) -> QSize:
        """As thin as the hint."""
        return QSize(40, self._look.px(HEIGHT_PX))

    def show_share(self, done: int, of: int) -> None:
        """Show ``done`` of ``of``."""
        self._share = min(done / max(of, 1), 1.0)
        self.setAccessibleDescription(f"{done} of {of}")
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Ground and what is done."""
        with painting(self) as painter:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._look.palette.color("line"))
            painter.drawRoundedRect(QRectF(self.rect()), 2, 2)
            painter.setBrush(self._look.palette.color("signal"))
            done = QRectF(0, 0, self.width() * self._share, self.height())
            painter.drawRoundedRect(done, 2, 2)
