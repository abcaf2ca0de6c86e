"""Below the guide: where they listen, and buttons to hear it now and as it was."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout

from tonleiter.app.spaces.set.heard import Heard
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.core.words import sentence

SAME_DB = 0.5


class Hearing(QObject):
    """``save_wanted`` asks for a file of what is heard now, ``save_pair_wanted`` of both."""

    save_wanted = Signal()
    save_pair_wanted = Signal()

    def __init__(self, heard: Heard, look: Look) -> None:
        super().__init__()
        self._heard, self._look = heard, look

    def key(self) -> object:
        """What it is built for."""
        heard = self._heard
        return (heard.far, heard.before, heard.held, heard.aligned, heard.differs(), heard.known())

    def show(self, column: QVBoxLayout, narrow: bool, width_px: int) -> None:
        """Put it into the guide's column."""
        heard = self._heard
        where = Choice(self._look, "Where they listen", 260)
        where.show_items(
            [("heard beside the dummy load", ""), ("heard far away", "far")],
            "far" if heard.far else "",
        )
        where.chosen.connect(lambda _: heard.listen(bool(where.currentData())))
        column.addWidget(where, 0, Qt.AlignmentFlag.AlignLeft)
        if heard.output() is not None:
            self._play(column, narrow)
        else:
            self._files(column, width_px)
        if heard.before is not None:
            self._compared(column)

    def _play(self, column: QVBoxLayout, narrow: bool) -> None:
        heard = self._heard
        said = "Headphones down first: what comes is as loud as your computer."
        column.addWidget(label(said, "caption", wraps=True))
        row = QVBoxLayout() if narrow else QHBoxLayout()
        row.addWidget(button("Hear it", "plain", heard.play))
        before = button("In turn with before", "plain", heard.in_turn)
        before.setEnabled(heard.before is not None)
        row.addWidget(before)
        row.addWidget(self._hold())
        column.addLayout(row)

    def _files(self, column: QVBoxLayout, width_px: int) -> None:
        metrics = QFontMetrics(self._look.font(14, 600))
        texts = [("Save what they hear (WAV)…", self.save_wanted.emit)]
        if self._heard.before is not None:
            texts.append(("Save before and now (WAV)…", self.save_pair_wanted.emit))
        for text, do in texts:
            made = wrapped_button(text, "plain", do, metrics, width_px - 60)
            made.setToolTip(
                "No sound output is there; with the extra tonleiter[audio] it is played."
            )
            column.addWidget(made)
        column.addWidget(self._hold(), 0, Qt.AlignmentFlag.AlignLeft)

    def _hold(self) -> QPushButton:
        said = "Let it go" if self._heard.held else "Hold this to compare"
        return button(said, "plain", self._heard.hold)

    def _compared(self, column: QVBoxLayout) -> None:
        """What before and now differ in, and whether their levels are made alike."""
        heard = self._heard
        what = heard.differs() or "nothing yet"
        says = f"{'Held' if heard.held else 'Before'} and now differ in {what}."
        column.addWidget(label(sentence(says), "caption", wraps=True))
        if (pair := heard.known()) is not None:
            by = pair.before_louder_db
            how = "as loud as" if abs(by) < SAME_DB else f"{_db(by)} than"
            column.addWidget(label(f"It arrived {how} what arrives now.", "caption", wraps=True))
        if not heard.have_a_level_in_common:
            return
        box = QCheckBox("levels made alike")
        box.setChecked(heard.aligned)
        box.toggled.connect(heard.align)
        column.addWidget(box, 0, Qt.AlignmentFlag.AlignLeft)


def _db(by: float) -> str:
    return f"{abs(by):.1f} dB {'louder' if by > 0 else 'quieter'}"
