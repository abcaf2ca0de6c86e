"""A button in a header: whether levels are reckoned with what readings taught, or as typed."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from tonleiter.app.reckoning import Reckoning

TIP = (
    "What readings taught of the figures counts here (Gear, What readings teach);"
    " press to reckon with what was typed, and back"
)


class ReckonedSwitch(QPushButton):
    """There only where something was learned."""

    def __init__(self, reckoning: Reckoning) -> None:
        super().__init__()
        self._reckoning = reckoning
        self.setProperty("role", "plain")
        self.setCheckable(True)
        self.setToolTip(TIP)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(self._turn)
        reckoning.changed.connect(self.follow)
        reckoning.document.changed.connect(self.follow)
        self.follow()

    def follow(self) -> None:
        """Show how it is reckoned now."""
        learned = self._reckoning.records.reckoned == "learned"
        self.setVisible(self._reckoning.learned is not None)
        self.setChecked(learned)
        self.setText("as learned" if learned else "as typed")
        self.setAccessibleName(f"Reckoned {self.text()}")

    def _turn(self) -> None:
        as_ = "typed" if self._reckoning.records.reckoned == "learned" else "learned"
        self._reckoning.attempt(
            lambda: self._reckoning.note(f"reckon as {as_}", lambda r: r.but(reckoned=as_))
        )
        self.follow()
