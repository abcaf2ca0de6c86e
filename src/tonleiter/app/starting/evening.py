"""What could be done this evening at the station opened last."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from tonleiter.app.starting.model import StartModel
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.app.widgets.panel import clear
from tonleiter.core.log.next_task import NextTask


class EveningList(QWidget):
    """A few lines with their minutes; ``chosen`` tells folder, space and chain."""

    chosen = Signal(str, str, str)

    def __init__(self, model: StartModel) -> None:
        super().__init__()
        self._model = model
        self._heading = label("", "title")
        self.hour = button("1 hour", "plain", self._set, "Only what fits into an hour")
        self.iron = button("with iron", "plain", self._set, "Soldering among it")
        for toggle in (self.hour, self.iron):
            toggle.setCheckable(True)
        self.hour.setChecked(model.hour)
        self.iron.setChecked(model.iron)
        self.lines: list[QPushButton] = []
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(20)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(2, 1)
        head = QHBoxLayout()
        head.setSpacing(10)
        head.addWidget(self._heading)
        head.addSpacing(20)
        head.addWidget(self.hour)
        head.addWidget(self.iron)
        head.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(head)
        column.addLayout(self._grid)

    def _set(self) -> None:
        self._model.set_evening(self.hour.isChecked(), self.iron.isChecked())

    def refresh(self) -> None:
        """As it is known now."""
        tasks = self._model.evening()
        folder, title = self._model.of
        self.setVisible(folder is not None and (bool(tasks) or not self._model.busy))
        without = "" if self._model.iron else ", without soldering"
        self._heading.setText(f"This evening{without}")
        self._heading.setToolTip(f"At the station opened last: {title}")
        clear(self._grid)
        self.lines = []
        for k, task in enumerate(tasks):
            self._line(k, task, str(folder))
        if not tasks:
            self._grid.addWidget(label(f"Nothing is open at “{title}” for that.", "sub"), 0, 0)

    def _line(self, k: int, task: NextTask, folder: str) -> None:
        half = max(self.width() * 5 // 10, 260)
        line = wrapped_button(
            task.title,
            "link",
            partial(self._choose, task, folder),
            self._heading.fontMetrics(),
            half,
        )
        self.lines.append(line)
        self._grid.addWidget(line, k, 0, Qt.AlignmentFlag.AlignLeft)
        minutes = label(f"{task.minutes} min", "figure")
        self._grid.addWidget(minutes, k, 1, Qt.AlignmentFlag.AlignRight)
        self._grid.addWidget(label(task.why, "sub", wraps=True), k, 2)

    def _choose(self, task: NextTask, folder: str) -> None:
        self.chosen.emit(folder, task.where, task.chain or "")
