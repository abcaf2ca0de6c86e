"""A row of links "Why this level? room? …": what can be asked of the figures above it."""

from __future__ import annotations

from collections.abc import Collection
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QWidget

from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label

WHYS = ("level", "room", "noise", "hum", "bass", "gain")


class WhyRow(QWidget):
    """``asked`` tells which; those that have no answer are not shown."""

    asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        row = Flow(gap_px=6)
        row.addWidget(label("Why this", "sub"))
        self.links: dict[str, QPushButton] = {}
        for what in WHYS:
            made = button(f"{what}?", "link", partial(self.asked.emit, what))
            made.setAccessibleName(f"Why this {what}?")
            self.links[what] = made
            row.addWidget(made)
        self.setLayout(row)

    def offer(self, there: Collection[str]) -> None:
        """Show these."""
        for what, made in self.links.items():
            made.setVisible(what in there)
        self.setVisible(bool(there))
