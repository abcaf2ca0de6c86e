"""The answer to a "why?" over the window: lines, their figures, and links to what can be edited."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QGridLayout, QScrollArea, QVBoxLayout, QWidget

from tonleiter.app.asking import Asking
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.app.widgets.overlay import Overlay
from tonleiter.app.widgets.panel import replace_content
from tonleiter.core.report.why.model import Step, Why
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.words import sentence

WIDE_PX, SAYS_PX, MARGINS_PX = 660, 420, 150


class WhyCard(Overlay):
    """Built anew when the answer comes; ``known`` are the pieces that a link can lead to."""

    def __init__(self, asking: Asking, look: Look, known: Sequence[str], window: QWidget) -> None:
        super().__init__(window)
        self._asking, self._look, self._known = asking, look, set(known)
        self.setAccessibleName("Why")
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.viewport().setObjectName("keyList")
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 16, 22, 14)
        column.setSpacing(8)
        column.addWidget(self._area)
        column.addWidget(
            label("What is underlined leads to where it is kept. Esc closes this.", "caption", True)
        )
        self.setFixedWidth(min(look.px(WIDE_PX), window.width() - 40))
        asking.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """The answer, or that it is being worked out."""
        if not self._asking.open:
            self.left.emit()
            return
        body = QWidget()
        body.setObjectName("keyList")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 8, 0)
        column.setSpacing(10)
        why = self._asking.why
        if why is None:
            said = self._asking.trouble or "Working it out…"
            column.addWidget(label(said, "title", wraps=True))
        else:
            self._fill(column, why)
        column.addStretch(1)
        replace_content(self._area, body)
        room = self._over.height() - self._look.px(MARGINS_PX)
        body.setFixedWidth(self.width() - 56)
        self._area.setFixedHeight(min(max(body.sizeHint().height(), 60) + 8, max(room, 160)))
        self.to_the_middle()

    def _fill(self, column: QVBoxLayout, why: Why) -> None:
        column.addWidget(label(why.asks, "title", wraps=True))
        if not why.steps:
            column.addWidget(label("There is nothing to be said of it here.", "sub"))
        column.addLayout(self._lines(why.steps))
        if why.hangs:
            column.addWidget(label("It hangs most on", "section"))
            column.addLayout(self._lines(why.hangs))
        if why.code:
            page = f"finding/{why.code}"
            more = button(
                "What it means, in the manual", "link", lambda: self._asking.read.emit(page)
            )
            column.addWidget(more, 0, Qt.AlignmentFlag.AlignLeft)

    def _lines(self, steps: Sequence[Step]) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(0, 1)
        metrics = QFontMetrics(self._look.font(14, 600))
        for k, step in enumerate(steps):
            says = sentence(step.says)
            if step.gear in self._known or step.gear == VOICE:
                wide = min(self._look.px(SAYS_PX), self.width() - 220)
                link = wrapped_button(says, "link", partial(self._lead, step), metrics, wide)
                grid.addWidget(link, k, 0, Qt.AlignmentFlag.AlignLeft)
            else:
                grid.addWidget(label(says, "", wraps=True), k, 0)
            value = label(step.value, "figure")
            value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(value, k, 1)
        return grid

    def _lead(self, step: Step) -> None:
        self._asking.led.emit(step.gear, step.field)
