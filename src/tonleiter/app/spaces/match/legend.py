"""What the shapes in the grid mean."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize
from PySide6.QtGui import QFontMetricsF, QPaintEvent
from PySide6.QtWidgets import QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.match.grid_view import paint_verdict
from tonleiter.app.theme.look import Look
from tonleiter.core.match.pair import VERDICTS

WORDS = ("plug in", "a few small parts", "something that wants a supply", "not worth it")


class Legend(QWidget):
    """A line of shapes and words."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.setAccessibleName("Legend")
        self.setAccessibleDescription("; ".join(WORDS))

    @guarded
    def sizeHint(self) -> QSize:
        """One line."""
        return QSize(300, self._look.px(30))

    @guarded
    def minimumSizeHint(self) -> QSize:
        """As tall as the hint."""
        return QSize(100, self._look.px(30))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Shapes with their words."""
        with painting(self) as painter:
            font = self._look.font(12)
            metrics = QFontMetricsF(font)
            x, y = 28.0, self.height() / 2 - 2
            for verdict, words in zip(VERDICTS, WORDS, strict=True):
                paint_verdict(painter, self._look, verdict, QPointF(x, y))
                painter.setFont(font)
                painter.setPen(self._look.palette.color("soft"))
                painter.drawText(QPointF(x + 12, y + self._look.px(4)), words)
                x += metrics.horizontalAdvance(words) + 44
