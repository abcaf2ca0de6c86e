"""How the doubt shrank: a bar for each reading on one scale, with its ends in brackets."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.core.learn.result import Learned, Range

BAR_PX, BRACKET_PX, ROW_PX, FOOT_PX, SIDE_PX = 12, 20, 34, 22, 20
LINES = 5
# figures of a scale stand so far apart at least
APART_PX = 46


@dataclass(frozen=True)
class Span:
    """The scale that all bars share."""

    low: float
    high: float

    @staticmethod
    def of(made: Learned) -> Span:
        """All of a knob's scale; else what the bars reach over, to round figures."""
        ranges = [made.before, made.after, *(s.after for s in made.trail if s.after is not None)]
        low, high = min(r.low for r in ranges), max(r.high for r in ranges)
        if made.question == "knob":
            return Span(min(low, 0.0), max(high, made.marked_to))
        wide = max(high - low, 1.0)
        step = next(s for s in (1, 2, 5, 10, 20, 50, 100, 1e9) if s * (LINES - 1) >= wide)
        first = step * (low // step)
        while first + step * (LINES - 1) < high:
            step *= 2
            first = step * (low // step)
        return Span(first, first + step * (LINES - 1))

    def at(self, value: float, width: float) -> float:
        """How far a value stands over a width."""
        return (value - self.low) / (self.high - self.low) * width

    def marks(self) -> list[float]:
        """Values of its lines."""
        return [self.low + k / (LINES - 1) * (self.high - self.low) for k in range(LINES)]


class Bar(QWidget):
    """One range on the scale."""

    def __init__(
        self, look: Look, span: Span, shown: Range | None, colour: str, what: str, made: Learned
    ) -> None:
        super().__init__()
        self._look, self._span, self._shown, self._colour = look, span, shown, colour
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setMinimumHeight(look.px(ROW_PX))
        self.setAccessibleName(what)
        if shown is not None:
            said = f"between {made.printed(shown.low)} and {made.printed(shown.high)}"
            self.setAccessibleDescription(said)
            self.setToolTip(said)

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(self._look.px(200), self._look.px(ROW_PX))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Lines of the scale, the bar, its brackets."""
        look, p = self._look, self._look.palette
        side = look.px(SIDE_PX)
        width = self.width() - 2 * side
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(p.color("line"), 1.4))
            for value in self._span.marks():
                x = round(side + self._span.at(value, width))
                painter.drawLine(x, 0, x, self.height())
            if self._shown is None:
                return
            a, b = (side + self._span.at(v, width) for v in (self._shown.low, self._shown.high))
            middle, high = self.height() / 2, look.px(BAR_PX)
            bar = QRectF(a, middle - high / 2, max(b - a, 2.0), high)
            painter.fillRect(bar, p.color(self._colour, 0.5))
            painter.setPen(QPen(p.color("aim"), 2.2))
            tall, foot = look.px(BRACKET_PX) / 2, look.px(6)
            for end, way in ((a, foot), (max(b, a + 2.0), -foot)):
                painter.drawLine(round(end), round(middle - tall), round(end), round(middle + tall))
                for edge in (middle - tall, middle + tall):
                    painter.drawLine(round(end), round(edge), round(end + way), round(edge))


class Foot(QWidget):
    """The figures of the scale."""

    def __init__(self, look: Look, span: Span, unit: str) -> None:
        super().__init__()
        self._look, self._span, self._unit = look, span, unit
        self.setFixedHeight(look.px(FOOT_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """A figure under each line, the unit with the last."""
        look, p = self._look, self._look.palette
        side = look.px(SIDE_PX)
        width, half = self.width() - 2 * side, look.px(48)
        with painting(self) as painter:
            painter.setFont(look.font(12, 400, mono=True))
            painter.setPen(p.color("soft"))
            marks = self._span.marks()
            while len(marks) > 2 and width / (len(marks) - 1) < look.px(APART_PX):
                marks = marks[::2]
            for value in marks:
                x = side + self._span.at(value, width)
                said = f"{value:.3g}".replace("-", "−")
                left = min(max(x - half, 0.0), self.width() - 2 * half)
                way = Qt.AlignmentFlag.AlignHCenter
                if left > x - half:
                    way = Qt.AlignmentFlag.AlignLeft
                elif left < x - half:
                    way = Qt.AlignmentFlag.AlignRight
                painter.drawText(QRectF(left, 0, 2 * half, self.height()), way, said)


class Share(QWidget):
    """By which share a reading would shrink the doubt."""

    def __init__(self, look: Look, share: float) -> None:
        super().__init__()
        self._look, self._share = look, min(max(share, 0.0), 1.0)
        self.setFixedHeight(look.px(7))
        self.setAccessibleName(f"{100 * share:.0f} % less doubt")
        self.setToolTip(self.accessibleName())

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """A line, and how much of it."""
        p, round_px = self._look.palette, self.height() / 2
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            for share, colour in ((1.0, "line"), (self._share, "signal")):
                painter.setBrush(p.color(colour))
                wide = max(share * self.width(), self.height())
                painter.drawRoundedRect(QRectF(0, 0, wide, self.height()), round_px, round_px)
