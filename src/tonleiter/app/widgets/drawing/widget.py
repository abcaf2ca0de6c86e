"""A drawing in the window: as large as there is room, wider ones to be moved along."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.drawing.painter import SheetPainter, size_px
from tonleiter.core.drawing.sheet import Sheet

# a grid unit at normal text size: as wanted, and as small as values still fit between parts
WANTED_PX, LEAST_PX = 9.0, 8.2


class Canvas(QWidget):
    """Paints one sheet."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.sheet = Sheet()
        self.unit_px = WANTED_PX

    def show_sheet(self, sheet: Sheet, unit_px: float) -> None:
        """Show another sheet, or the same in another size."""
        self.sheet, self.unit_px = sheet, unit_px
        width, height = size_px(sheet, unit_px)
        self.setFixedSize(QSize(int(width) + 1, int(height) + 1))
        self.setAccessibleName("Drawing")
        self.setAccessibleDescription(sheet.spoken())
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint it."""
        if not self.sheet.symbols:
            return
        with painting(self) as painter:
            SheetPainter(
                painter, self.sheet, self._look.palette, self.unit_px, self._look.scale
            ).paint()


class DrawingView(QScrollArea):
    """Fits a drawing into its width; pressed, or with Enter, it asks to be seen large."""

    opened = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._canvas = Canvas(look)
        self._sheet = Sheet()
        self.setWidget(self._canvas)
        self.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.setAccessibleName("Schematic")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setStyleSheet("background: transparent;")
        self.setToolTip("Press to see it large, with its parts list")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        look.changed.connect(self._fit)

    def show_sheet(self, sheet: Sheet) -> None:
        """Show another drawing."""
        if sheet == self._sheet:
            return
        self._sheet = sheet
        self.setAccessibleDescription(sheet.spoken())
        self._fit()

    @property
    def sheet(self) -> Sheet:
        """What is shown."""
        return self._sheet

    def _fit(self) -> None:
        box = self._sheet.box()
        scale = self._look.scale
        room = max(self.width() - 4, 40)
        unit = min(max(room / box.width, LEAST_PX * scale), WANTED_PX * scale)
        self._canvas.show_sheet(self._sheet, unit)
        needs_bar = box.width * unit > room + 1
        bar = self.horizontalScrollBar().sizeHint().height() if needs_bar else 0
        self.setFixedHeight(self._canvas.height() + bar + 4)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit again."""
        super().resizeEvent(event)
        self._fit()

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Ask to be seen large."""
        super().mouseReleaseEvent(event)
        if event.button() == Qt.MouseButton.LeftButton:
            self.opened.emit()

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The same by Enter."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
            return
        super().keyPressEvent(event)
