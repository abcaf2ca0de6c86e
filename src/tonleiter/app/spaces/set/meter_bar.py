"""A meter as a bar: what it shows now, what it reaches on the voice, its brackets, its end."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.canvas.bracket import paint_brackets
from tonleiter.core.guide.meters import Meter

HIGH_PX, BAR_PX, LEAST_PX = 44, 14, 130


class MeterBar(QWidget):
    """``live`` is the needle; the mark is what the voice reaches."""

    def __init__(self, look: Look, meter: Meter) -> None:
        super().__init__()
        self._look, self.meter, self.live = look, meter, meter.value
        self.setMinimumWidth(look.px(LEAST_PX))
        self.setFixedHeight(look.px(HIGH_PX))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.show_meter(meter)

    def show_meter(self, meter: Meter) -> None:
        """The readings of a whole voice."""
        self.meter = meter
        aim = "" if meter.aim is None else f"; aim {meter.aim[0]:.3g} to {meter.aim[1]:.3g}"
        self.setAccessibleName(meter.title)
        self.setAccessibleDescription(f"{meter.says}{aim}")
        self.update()

    def needle(self, value: float) -> None:
        """Where the needle is now."""
        if abs(value - self.live) > 1e-3 * self.meter.full:
            self.live = value
            self.update()

    @guarded
    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(self._look.px(170), self._look.px(HIGH_PX))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Words above, the bar below."""
        look, p, m = self._look, self._look.palette, self.meter
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(13, 700))
            painter.setPen(p.color("ink"))
            top = QRectF(0, 0, self.width(), look.px(18))
            painter.drawText(
                top, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, m.title
            )
            name_px = painter.fontMetrics().horizontalAdvance(m.title) + 8
            painter.setFont(look.font(13, 400, mono=True))
            fits = m.fits()
            painter.setPen(p.color("ink" if fits else "aim_text"))
            room = QRectF(name_px, 0, self.width() - name_px, look.px(18))
            said = painter.fontMetrics().elidedText(
                m.says, Qt.TextElideMode.ElideRight, int(room.width())
            )
            painter.drawText(
                room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, said
            )
            bar = QRectF(0, look.px(24), self.width(), look.px(BAR_PX))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.color("line"))
            painter.drawRoundedRect(bar, 3, 3)
            if m.danger_from is not None:
                at = bar.left() + m.share(m.danger_from) * bar.width()
                painter.setBrush(p.color("stop", 0.35))
                painter.drawRoundedRect(QRectF(at, bar.top(), bar.right() - at, bar.height()), 3, 3)
            painter.setBrush(p.color("signal"))
            wide = m.share(self.live) * bar.width()
            painter.drawRoundedRect(QRectF(bar.left(), bar.top(), wide, bar.height()), 3, 3)
            self._marks(painter, bar)

    def _marks(self, painter: QPainter, bar: QRectF) -> None:
        p, m = self._look.palette, self.meter
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.color("ink"))
        for value in (m.value, m.peak):
            if value is not None:
                x = bar.left() + m.share(value) * (bar.width() - 3)
                painter.drawRect(QRectF(x, bar.top() - 1, 3, bar.height() + 2))
        if m.aim is not None and m.aim[1] > m.aim[0]:
            low, high = (bar.left() + m.share(v) * bar.width() for v in m.aim)
            box = QRectF(low, bar.top() - 4, max(high - low, 8.0), bar.height() + 8)
            paint_brackets(painter, self._look, box, 5.0, 2.2)
