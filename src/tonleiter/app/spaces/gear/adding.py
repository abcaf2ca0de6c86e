"""Adding a piece: a few questions in plain words, the library, or a friend's file."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
)

from tonleiter.app.spaces.gear.model import GearModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import clear
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.library import parts_library
from tonleiter.core.gear.questions import FIRST, Begin, BoxBegin, Question
from tonleiter.core.station.devices import Device
from tonleiter.core.station.edits import fresh_id

ID = Qt.ItemDataRole.UserRole


class Adding(QFrame):
    """Questions on the left, the library on the right."""

    def __init__(self, model: GearModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._path: list[Question] = [FIRST]
        self.answers: list[QPushButton] = []
        self.ticks: list[QCheckBox] = []
        self._box: BoxBegin | None = None
        self.setObjectName("center")
        self._title = label("", "headline", wraps=True)
        self._question = label("", "title", wraps=True)
        self._answers = QVBoxLayout()
        self._answers.setSpacing(8)
        self._back = button("Back", "link", self.back)
        self.library = QListWidget()
        self.library.setAccessibleName("Library")
        self.library.itemActivated.connect(self._take_entry)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find in the library")
        self.search.setAccessibleName("Find in the library")
        self.search.textChanged.connect(self._filter)
        self._entries = parts_library()
        order = ("microphone", "input", "between")
        for entry in sorted(self._entries.values(), key=lambda e: order.index(e.role)):
            item = QListWidgetItem(entry.name)
            item.setData(ID, entry.id)
            item.setToolTip(f"{entry.noun}: {entry.what}")
            self.library.addItem(item)
        self._arrange()
        model.selection_changed.connect(self._start)
        self._start()

    def _arrange(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(12)
        left.addWidget(label("By a few questions", "section"))
        left.addWidget(self._question)
        left.addLayout(self._answers)
        left.addWidget(self._back, 0, Qt.AlignmentFlag.AlignLeft)
        left.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(label("Or from the library", "section"))
        right.addWidget(self.search)
        right.addWidget(self.library, 1)
        row = QHBoxLayout()
        row.addWidget(button("Put it on the shelf", "plain", self.take_chosen))
        row.addStretch(1)
        tip = "A piece that a friend exported; dropping it here does the same"
        row.addWidget(button("Import a file…", "link", self.ask_import, tip))
        right.addLayout(row)
        both = QHBoxLayout()
        both.setSpacing(28)
        both.addLayout(left, 1)
        both.addLayout(right, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(24, 16, 20, 16)
        whole.setSpacing(14)
        whole.addWidget(self._title)
        whole.addLayout(both, 1)

    def _start(self) -> None:
        self._path, self._box = [FIRST], None
        self._title.setText(
            "A guest: what do you think of buying?"
            if self._model.as_guest
            else "What goes on the shelf?"
        )
        self._show()

    def _show(self) -> None:
        question = self._path[-1]
        self._question.setText(question.text)
        clear(self._answers)
        self.answers = []
        for words, further in question.answers:
            made = button(words, "answer", partial(self._go, further))
            self._answers.addWidget(made)
            self.answers.append(made)
        self._back.setVisible(len(self._path) > 1)

    def _go(self, further: Question | Begin | BoxBegin) -> None:
        if isinstance(further, Question):
            self._path.append(further)
            self._show()
            if self.answers:
                self.answers[0].setFocus(Qt.FocusReason.OtherFocusReason)
            return
        if isinstance(further, BoxBegin):
            self._ask_sockets(further)
            return
        taken = set(self._model.station.gear_by_id)
        piece = further.piece(fresh_id(taken, further.name))
        self._model.attempt(lambda: self._model.add(piece))

    def _ask_sockets(self, box: BoxBegin) -> None:
        """What can be plugged into it? What is ticked becomes a socket of the box."""
        if not box.sockets:
            self._put_box(box, [])
            return
        self._box = box
        self._question.setText("What can be plugged into it?")
        clear(self._answers)
        self.answers = []
        self.ticks = []
        for socket in box.sockets:
            tick = QCheckBox(socket.words)
            tick.setChecked(socket.usual)
            self.ticks.append(tick)
            self._answers.addWidget(tick)
        made = button("Put it on the shelf", "answer", self.take_box)
        self._answers.addWidget(made)
        self.answers = [made]
        self._back.setVisible(True)
        self.ticks[0].setFocus(Qt.FocusReason.OtherFocusReason)

    def take_box(self) -> None:
        """Make the box of what was ticked."""
        box = self._box
        if box is not None:
            self._put_box(box, [tick.isChecked() for tick in self.ticks])

    def _put_box(self, box: BoxBegin, wanted: list[bool]) -> None:
        sockets: list[Gear] = []
        connectors: list[dict[str, object]] = []
        for socket, is_wanted in zip(box.sockets, wanted, strict=True):
            if not is_wanted:
                continue
            begin = socket.begin
            name = f"{box.name} {begin.name}"
            new = fresh_id({s.id for s in sockets}, name)
            sockets.append(begin.piece(new, name))
            connectors.append(
                {"id": new, "name": begin.name, "shell": socket.shell, "ports": (new,)}
            )
        device = Device.model_validate(
            {
                "id": fresh_id(set(), box.name),
                "name": box.name,
                "kind": box.kind,
                "supply": box.supply,
                "connectors": connectors,
                "ports": [s.id for s in sockets],
            }
        )
        self._model.attempt(lambda: self._model.add_box(device, tuple(sockets)))

    def back(self) -> None:
        """One question back."""
        if self._box is not None:
            self._box = None
            self._show()
        elif len(self._path) > 1:
            self._path.pop()
            self._show()

    def _filter(self, text: str) -> None:
        wanted = text.strip().lower()
        for k in range(self.library.count()):
            item = self.library.item(k)
            item.setHidden(wanted not in f"{item.text()} {item.toolTip()}".lower())

    def _take_entry(self, item: QListWidgetItem) -> None:
        self._model.attempt(lambda: self._model.add(self._entries[item.data(ID)]))

    def take_chosen(self) -> None:
        """Put the chosen library entry on the shelf."""
        item = self.library.currentItem()
        if item is not None:
            self._take_entry(item)

    def ask_import(self) -> None:
        """Ask for a file with a piece."""
        name, _ = QFileDialog.getOpenFileName(self, "Import a piece", "", "Pieces (*.json)")
        if name:
            self._model.import_file(Path(name))
