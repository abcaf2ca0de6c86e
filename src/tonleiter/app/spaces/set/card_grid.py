"""Cards beside each other where there is room, else one below the other."""

from __future__ import annotations

from PySide6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.frames import card
from tonleiter.app.widgets.labels import label

CARD_PX = (14, 8, 14, 8)


class CardGrid(QWidget):
    """``shares``: how two columns divide the width; ``rows_grow``: whether rows take what is left.

    ``cards`` are given once, in the order in which they are read.
    """

    def __init__(
        self,
        look: Look,
        two_from_px: int,
        shares: tuple[int, int] = (1, 1),
        rows_grow: bool = False,
    ) -> None:
        super().__init__()
        self._look, self._two_from_px = look, two_from_px
        self._shares, self._rows_grow = shares, rows_grow
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(10)
        self._cards: list[QFrame] = []
        self._columns = 0

    def titled(self, title: str, spacing: int) -> QVBoxLayout:
        """One more card under its title: the column in it."""
        frame, column = card(CARD_PX, spacing)
        column.addWidget(label(title, "step", wraps=True))
        self._cards.append(frame)
        return column

    def fit(self, wide_px: int) -> None:
        """Two cards beside each other, or one below the other."""
        columns = 1 if wide_px < self._look.px(self._two_from_px) else 2
        if columns == self._columns:
            return
        self._columns = columns
        for k, frame in enumerate(self._cards):
            self._grid.addWidget(frame, k // columns, k % columns)
        for k in range(2):
            self._grid.setColumnStretch(k, self._shares[k] if columns == 2 else 1 - k)
        if self._rows_grow:
            for k in range(len(self._cards)):
                self._grid.setRowStretch(k, 1 if k < len(self._cards) // columns else 0)
