"""Over time: what is sent, when the transmitter is on, what of the reply is heard."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.words import elided
from tonleiter.core.desk.keying import Keyed

LEAST_PX, ROWS = 112, 3
SENT_S, REPLY_S, BEFORE_S = 1.2, 0.9, 0.15
AT_ONCE_S = 0.005


class KeyingView(QWidget):
    """``show_keyed`` with what the switch does, and how soon the other station answers."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._keyed: Keyed | None = None
        self._answers_s = 0.0
        self._keyed_by = ""
        self.setMinimumHeight(look.px(LEAST_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Keying over time")

    @guarded
    def sizeHint(self) -> QSize:
        """As much as there is."""
        return QSize(self._look.px(380), self._look.px(LEAST_PX))

    def show_keyed(self, keyed: Keyed | None, answers_s: float, keyed_by: str) -> None:
        """Another transmission; ``keyed_by`` is empty where a switch listens to it."""
        self._keyed, self._answers_s, self._keyed_by = keyed, answers_s, keyed_by
        self.setAccessibleDescription(self._words())
        self.update()

    def _words(self) -> str:
        keyed = self._keyed
        if keyed is None:
            return ""
        if keyed.opens_after_s is None:
            return "it does not key"
        lost = keyed.lost_s(self._answers_s)
        return (
            f"keys after {1000 * keyed.opens_after_s:.0f} ms, hangs on for"
            f" {1000 * keyed.tail_s:.0f} ms, loses {lost:.2f} s of the reply"
        )

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Three lines with their bars."""
        look, p, keyed = self._look, self._look.palette, self._keyed
        if keyed is None:
            return
        tail, lost = keyed.tail_s, keyed.lost_s(self._answers_s)
        reply = BEFORE_S + SENT_S + self._answers_s
        whole = max(reply + REPLY_S, BEFORE_S + SENT_S + tail + 0.2)
        left, right = look.px(96), self.width() - look.px(10)
        step = (self.height() - look.px(26)) / ROWS

        def x(seconds: float) -> float:
            return left + seconds / whole * (right - left)

        def row(k: int, since: float, until: float) -> QRectF:
            top = k * step + look.px(4)
            return QRectF(x(since), top, x(until) - x(since), step - look.px(12))

        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(13))
            for k, name in enumerate(("sound sent", "transmitting", "reply heard")):
                foot = (k + 1) * step - look.px(6)
                painter.setPen(QPen(p.color("line"), 1.5))
                painter.drawLine(round(left), round(foot), round(right), round(foot))
                painter.setPen(p.color("soft"))
                box = QRectF(0, k * step, left - 8, step - look.px(4))
                flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(box, int(flags), name)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.color("signal"))
            painter.drawRoundedRect(row(0, BEFORE_S, BEFORE_S + SENT_S), 2, 2)
            said: list[tuple[float, float, str, str]] = []
            if keyed.opens_after_s is None:
                said.append((x(BEFORE_S), right, "it does not key", "stop"))
            else:
                painter.setBrush(p.color("aim", 0.75))
                since = BEFORE_S + keyed.opens_after_s
                painter.drawRoundedRect(row(1, since, BEFORE_S + SENT_S + tail), 2, 2)
                if not self._keyed_by:
                    hang = f"hangs on {1000 * tail:.0f} ms"
                    said.append((x(since), x(BEFORE_S + SENT_S + tail), hang, "ink"))
            painter.setBrush(p.color("signal"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRoundedRect(row(2, reply + lost, max(reply + REPLY_S, reply + lost)), 2, 2)
            if lost > 0:
                painter.setBrush(p.color("field"))
                painter.setPen(QPen(p.color("stop"), 2))
                painter.drawRoundedRect(row(2, reply, min(reply + lost, whole)), 2, 2)
            self._says(painter, step, lost, said)

    def _says(
        self,
        painter: QPainter,
        step: float,
        lost: float,
        said: list[tuple[float, float, str, str]],
    ) -> None:
        """Words below the lines, and in the bar of the transmitter."""
        look, p, keyed = self._look, self._look.palette, self._keyed
        assert keyed is not None
        painter.setFont(look.font(12, 600))
        metrics = painter.fontMetrics()
        for left, right, text, colour in said:
            wide = metrics.horizontalAdvance(text) + 10
            if wide > right - left:
                continue  # the dial beside it says it as well
            painter.setPen(p.color(colour))
            box = QRectF(left, step + look.px(4), right - left, step - look.px(12))
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)
        foot = QRectF(0, self.height() - look.px(22), self.width(), look.px(20))
        painter.setPen(p.color("stop" if lost > 0 else "soft"))
        opens = (
            f"keyed {self._keyed_by}"
            if self._keyed_by
            else "keys at once"
            if keyed.opens_after_s is not None and keyed.opens_after_s < AT_ONCE_S
            else f"keys after {1000 * keyed.opens_after_s:.0f} ms"
            if keyed.opens_after_s is not None
            else "nothing keys"
        )
        ends = f"the reply's first {lost:.2f} s are lost" if lost > 0 else "nothing is lost"
        text = elided(f"{opens}; {ends}", QFontMetricsF(metrics), self.width() - 8.0)
        painter.drawText(foot, int(Qt.AlignmentFlag.AlignVCenter), text)
