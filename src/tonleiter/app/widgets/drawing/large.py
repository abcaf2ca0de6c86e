"""A drawing large, beside its parts list, to be saved or printed."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.drawing.files import page_of, print_drawing, write_drawing
from tonleiter.app.widgets.drawing.widget import Canvas
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.printing import ask_print
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.drawings import Drawn

UNIT_PX, PARTS_PX = 10.0, 300


class LargeDrawing(QDialog):
    """Closed by Escape; nothing is edited here."""

    def __init__(self, drawn: Drawn, title: str, look: Look, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.drawn, self._title = drawn, title
        self.setObjectName("space")
        self.setWindowTitle(title)
        canvas = Canvas(look)
        canvas.show_sheet(drawn.sheet, UNIT_PX * look.scale)
        area = QScrollArea()
        area.setWidget(canvas)
        area.setAlignment(Qt.AlignmentFlag.AlignCenter)
        area.setStyleSheet("background: transparent;")
        self.says = label("", "refusal", wraps=True)
        side = QFrame()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(label("Parts", "section"))
        for part in drawn.parts:
            column.addWidget(label(part.words(), "sub", wraps=True))
        if not drawn.parts:
            column.addWidget(label("Nothing to get.", "sub"))
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(side)
        scroll.setFixedWidth(look.px(PARTS_PX))
        head = QHBoxLayout()
        head.addWidget(label(title, "headline", wraps=True), 1)
        head.addWidget(button("Save as SVG or PDF…", "plain", self.ask_save))
        print_it = button("Print…", "plain", self.ask_print)
        print_it.setShortcut("Ctrl+P")
        head.addWidget(print_it)
        head.addWidget(button("Close  Esc", "plain", self.accept))
        both = QHBoxLayout()
        both.setSpacing(16)
        both.addWidget(area, 1)
        both.addWidget(scroll)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(20, 14, 16, 14)
        whole.setSpacing(10)
        whole.addLayout(head)
        whole.addWidget(self.says)
        whole.addLayout(both, 1)
        self.says.hide()
        screen = self.screen().availableSize()
        wanted = canvas.width() + look.px(PARTS_PX) + 90
        self.resize(
            min(max(wanted, 760), screen.width() - 40),
            min(max(canvas.height() + 150, 460), screen.height() - 60),
        )

    def ask_save(self) -> None:
        """Ask for a file; its ending says which kind."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the drawing", f"{self._title}.pdf", "Drawings (*.pdf *.svg)"
        )
        if name:
            self.save(Path(name))

    def ask_print(self) -> None:
        """Show it as it will lie on the paper; from there it is printed."""
        sheet, parts = self.drawn.sheet, self.drawn.parts
        paint = partial(print_drawing, sheet, parts, self._title)
        try:
            ask_print(self._title, page_of(sheet, parts), paint, self)
        except RefusedError as error:
            self.says.setText(str(error))
            self.says.show()

    def save(self, file: Path) -> None:
        """Write it, or say in one line why not."""
        try:
            write_drawing(self.drawn.sheet, self.drawn.parts, self._title, file)
        except RefusedError as error:
            self.says.setText(str(error))
        else:
            self.says.setText(f"Saved as {file}.")
        self.says.show()
