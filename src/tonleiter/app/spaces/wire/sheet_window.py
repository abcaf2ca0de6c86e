"""The sheet as it will be printed, to be looked at, saved and sent to a printer."""

from __future__ import annotations

from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.printing import ask_print
from tonleiter.app.widgets.vector import a4
from tonleiter.app.widgets.wiring.sheet import (
    PAGE_HIGH,
    PAGE_WIDE,
    Pages,
    print_pages,
    write_sheet,
)
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.worksheet import worksheets
from tonleiter.core.station.model import Station
from tonleiter.core.words import count_of

EDGE_PX = 45.0


class _Paper(QWidget):
    """Pages under each other, as on paper whatever the theme."""

    def __init__(self, pages: Pages) -> None:
        super().__init__()
        self._pages = pages
        self.setFixedSize(QSize(round(PAGE_WIDE + 2 * EDGE_PX), round(self._high() + 16)))
        self.setAccessibleName("The sheet as it is printed")

    def _high(self) -> float:
        return (PAGE_HIGH + 2 * EDGE_PX + 16) * len(self._pages.pages)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """White sheets."""
        with painting(self) as painter:
            for number in range(len(self._pages.pages)):
                painter.save()
                painter.translate(0, number * (PAGE_HIGH + 2 * EDGE_PX + 16))
                painter.fillRect(
                    0,
                    0,
                    round(PAGE_WIDE + 2 * EDGE_PX),
                    round(PAGE_HIGH + 2 * EDGE_PX),
                    LIGHT.color("field"),
                )
                painter.translate(EDGE_PX, EDGE_PX)
                self._pages.paint(painter, number)
                painter.restore()


class SheetWindow(QDialog):
    """Closed by Escape; nothing is edited here."""

    def __init__(
        self, found: Verdict, station: Station, look: Look, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        compiled = found.assessment.solution.compiled
        self._title = f"{compiled.chain.name}, {compiled.variant.name}"
        self.pages = Pages(found, worksheets(found, date.today().isoformat(), station))
        self.setObjectName("space")
        self.setWindowTitle(f"Sheet: {self._title}")
        area = QScrollArea()
        area.setWidget(_Paper(self.pages))
        area.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.says = label("", "refusal", wraps=True)
        head = QHBoxLayout()
        pages = count_of(len(self.pages.pages), "page")
        head.addWidget(label(f"{self._title}: {pages}, A4", "headline", wraps=True), 1)
        head.addWidget(button("Save as PDF or SVG…", "plain", self.ask_save))
        print_it = button("Print…", "plain", self.ask_print)
        print_it.setShortcut("Ctrl+P")
        head.addWidget(print_it)
        head.addWidget(button("Close  Esc", "plain", self.accept))
        whole = QVBoxLayout(self)
        whole.setContentsMargins(20, 14, 16, 14)
        whole.addLayout(head)
        whole.addWidget(self.says)
        whole.addWidget(area, 1)
        self.says.hide()
        screen = self.screen().availableSize()
        wide = min(round(PAGE_WIDE + 2 * EDGE_PX) + look.px(90), screen.width() - 40)
        self.resize(wide, min(820, screen.height() - 60))

    def ask_save(self) -> None:
        """Ask for a file; its ending says which kind."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the sheet", f"{self._title}.pdf", "Sheets (*.pdf *.svg)"
        )
        if name:
            self.save(Path(name))

    def save(self, file: Path) -> None:
        """Write it, or say in one line why not."""
        try:
            write_sheet(self.pages, self._title, file)
        except RefusedError as error:
            self.says.setText(str(error))
        else:
            self.says.setText(f"Saved as {file}.")
        self.says.show()

    def ask_print(self) -> None:
        """Show it as it will lie on the paper; from there it is printed."""
        try:
            ask_print(self._title, a4(), partial(print_pages, self.pages), self)
        except RefusedError as error:
            self.says.setText(str(error))
            self.says.show()
