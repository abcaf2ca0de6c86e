"""A drop-down of ours: a chevron drawn in the theme's ink, and no change by scrolling past."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QComboBox, QStyle, QStyleOptionComboBox, QStylePainter

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look

LEAST_PX = 80
DROP_PX, PADDING_PX = 20, 8


class Choice(QComboBox):
    """As wide as its longest item, up to a limit.

    ``chosen`` tells what somebody chose, a turn of the event loop after Qt's ``activated``: what
    is done then often builds the panel anew, this box with it, and Qt still speaks to a box from
    within that signal (it died there). Until it is told, what was chosen stands: a page that is
    shown anew in between puts nothing else there.
    """

    chosen = Signal(int)

    def __init__(self, look: Look, name: str, widest_px: int = 230) -> None:
        super().__init__()
        self._look, self._widest_px = look, widest_px
        self.setAccessibleName(name)
        self.setToolTip(name)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        look.changed.connect(self._limit)
        self._untold = False
        self.activated.connect(self._hold)
        self.activated.connect(self.chosen, Qt.ConnectionType.QueuedConnection)
        # before anybody else hears of it: who does may show something else
        self.chosen.connect(self._let_go)
        self._limit()

    def _hold(self) -> None:
        self._untold = True

    def _let_go(self) -> None:
        self._untold = False

    def _limit(self) -> None:
        self.setMaximumWidth(self._look.px(self._widest_px))

    def show_items(self, items: list[tuple[str, str]], current: str) -> None:
        """Text and data of each item, and the data of the chosen one; tells nobody.

        Filled only if something changed: an open list would jump, a closed one be repainted.
        """
        ids = [data for _, data in items]
        if self._untold and self.currentData() in ids:
            current = self.currentData()
        index = ids.index(current) if current in ids else -1
        present = [(self.itemText(k), self.itemData(k)) for k in range(self.count())]
        if present == items and self.currentIndex() == index:
            return
        self.blockSignals(True)
        if present != items:
            self.clear()
            for text, data in items:
                self.addItem(text, data)
        self.setCurrentIndex(index)
        self.blockSignals(False)

    @guarded
    def minimumSizeHint(self) -> QSize:
        """A long item is cut with an ellipsis before it pushes a panel wider than its place."""
        usual = super().minimumSizeHint()
        return QSize(min(usual.width(), self._look.px(LEAST_PX)), usual.height())

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Leave the wheel to what scrolls behind."""
        event.ignore()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The usual box and a chevron."""
        box = QStylePainter(self)
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        # what the style sheet leaves beside its border, its padding and the place of the chevron
        room = self.width() - self._look.px(DROP_PX) - 2 * (PADDING_PX + 1)
        option.currentText = option.fontMetrics.elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, room
        )
        box.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        box.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        box.end()
        with painting(self) as painter:
            painter.setPen(QPen(self._look.palette.color("soft"), 1.6))
            x, y = self.width() - 15.0, self.height() / 2 - 2.0
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline([QPointF(x - 4, y), QPointF(x, y + 4), QPointF(x + 4, y)])
