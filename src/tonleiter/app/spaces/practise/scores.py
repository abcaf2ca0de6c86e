"""What was played, as bars: points, one a riddle."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.core.practice.results import Result

HIGH_PX, MOST = 150, 40


class ScoreBars(QWidget):
    """The newest on the right; what was given up is hollow."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._results: Sequence[Result] = ()
        self.setMinimumHeight(look.px(HIGH_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Points of the riddles that were played")

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(self._look.px(300), self._look.px(HIGH_PX))

    def show_results(self, results: Sequence[Result]) -> None:
        """Others."""
        self._results = results[-MOST:]
        said = ", ".join(str(r.score) for r in self._results)
        self.setAccessibleDescription(f"{said} of 100")
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """A line at each quarter, and the bars."""
        look, p = self._look, self._look.palette
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            left, top, high = look.px(34), look.px(10), self.height() - look.px(24)
            painter.setFont(look.font(12, 400, mono=True))
            for points in (0, 50, 100):
                y = top + high * (1 - points / 100)
                painter.setPen(QPen(p.color("line"), 1))
                painter.drawLine(round(left), round(y), self.width() - 4, round(y))
                painter.setPen(p.color("soft"))
                box = QRectF(0, y - look.px(8), left - 6, look.px(16))
                right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(box, int(right), str(points))
            step = min((self.width() - left - 8) / max(len(self._results), 1), look.px(34))
            for k, result in enumerate(self._results):
                share = max(result.score / 100, 0.012)
                bar = QRectF(left + k * step + 3, top + high * (1 - share), step - 6, high * share)
                colour = "signal" if result.solved else "stop"
                painter.setPen(QPen(p.color(colour), 1.5))
                painter.setBrush(p.color(colour) if result.solved else p.color("field"))
                painter.drawRoundedRect(bar, 2, 2)
