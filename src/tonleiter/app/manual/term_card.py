"""What a term is, in two sentences, beside the word that was pressed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QVBoxLayout, QWidget

from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.overlay import Overlay
from tonleiter.core.manual.glossary import Term

WIDE_PX = 380


class TermCard(Overlay):
    """Ends by Escape or a press beside it; ``more`` leads to the glossary."""

    def __init__(
        self, term: Term, at: QPoint, look: Look, more: Callable[[], object], window: QWidget
    ) -> None:
        super().__init__(window)
        self.setAccessibleName(f"{term.name}: {term.says}")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 10)
        column.setSpacing(6)
        column.addWidget(label(term.name, "title"))
        column.addWidget(label(term.says, "", wraps=True))
        column.addWidget(button("All terms, in the manual", "link", more))
        look.dress(self)
        self.setFixedWidth(min(look.px(WIDE_PX), window.width() - 40))
        self.setFixedHeight(column.heightForWidth(self.width()))
        here = window.mapFromGlobal(at)
        left = min(max(here.x(), 10), window.width() - self.width() - 10)
        below = here.y() + 4
        above = below - self.height() - look.px(30)
        fits = below + self.height() <= window.height() - 6
        self.move(left, below if fits else max(above, 6))
