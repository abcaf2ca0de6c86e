"""The start page: two answers that lead to the first station, doors, the stations opened last."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QHideEvent, QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.starting.evening import EveningList
from tonleiter.app.starting.model import Listed, StartModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import clear
from tonleiter.core.gear.beginnings import GOES, SPEAKS, beginning
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.station.begin import begun
from tonleiter.core.station.model import Station

MARGIN_PX = 44
# below this width, at normal text, the button stands under the answers
NARROW_PX = 980
# longer lists are for the file dialog
MOST_ROWS = 6
GRAVE_WORDS = {"stop": "to mend", "mind": "to mind", "fine": "fine", "open": ""}


class StationRow(QPushButton):
    """A button with labels in it: as tall as they are at the width that there is."""

    def __init__(self) -> None:
        super().__init__()
        # a button is at least as wide as it would like to be
        how = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        how.setHeightForWidth(True)
        self.setSizePolicy(how)

    @guarded
    def hasHeightForWidth(self) -> bool:
        """Its words wrap."""
        return True

    @guarded
    def heightForWidth(self, width: int) -> int:
        """Of what stands in it."""
        inside = self.layout()
        return inside.heightForWidth(width) if inside is not None else 0

    @guarded
    def sizeHint(self) -> QSize:
        """Of what stands in it."""
        inside = self.layout()
        return inside.sizeHint() if inside is not None else super().sizeHint()

    @guarded
    def minimumSizeHint(self) -> QSize:
        """Its words wrap; a button's own hint knows of none."""
        inside = self.layout()
        return inside.minimumSize() if inside is not None else QSize()


class StartPage(QWidget):
    """``begins`` with a new station, and the space to go to; ``opens`` a folder, and a space.

    ``demo_wanted``, ``practice_wanted`` and ``file_wanted`` are the doors.
    """

    begins = Signal(object, str)
    opens = Signal(str, str, str)
    demo_wanted = Signal()
    practice_wanted = Signal()
    file_wanted = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.setObjectName("space")
        self._look = look
        self.model = StartModel()
        self.model.setParent(self)
        self.model.changed.connect(self.refresh)
        self.speaks = Choice(look, "I speak into", 460)
        self.speaks.show_items([(b.words, b.token) for b in SPEAKS], SPEAKS[0].token)
        self.goes = Choice(look, "and it goes to", 460)
        self.goes.show_items([(b.words, b.token) for b in GOES], GOES[0].token)
        for box in (self.speaks, self.goes):
            box.setObjectName("first")
        self.go = button("Does it go?", "primary", self._begin)
        self.through = button(
            f"or look through {len(KINDS)} kinds", "link", lambda: self.begins.emit(begun(), "gear")
        )
        self.rows: list[QPushButton] = []
        self._listed: object = None
        self._rows = QVBoxLayout()
        self._rows.setSpacing(8)
        self._heading = label("Your stations", "title")
        self.evening = EveningList(self.model)
        self.evening.chosen.connect(self.opens)
        self._doors: dict[str, QPushButton] = {}
        self._practised = label("", "sub", wraps=True)
        self._arrange()
        look.changed.connect(self._resize)
        self._resize()
        self.refresh()

    def _arrange(self) -> None:
        inside = QWidget()
        inside.setObjectName("center")
        column = QVBoxLayout(inside)
        column.setContentsMargins(MARGIN_PX, 40, MARGIN_PX, 24)
        column.setSpacing(8)
        column.addWidget(label("What do you speak into, and where should it go?", "great", True))
        column.addWidget(
            label(
                "From two answers to what goes with what. Everything can be mended later, and"
                " nothing has a place on disk until you save it.",
                "sub",
                wraps=True,
            )
        )
        column.addSpacing(14)
        column.addLayout(self._two_answers())
        column.addSpacing(16)
        column.addLayout(self._three_doors())
        column.addSpacing(14)
        column.addWidget(self._heading)
        column.addLayout(self._rows)
        column.addSpacing(14)
        column.addWidget(self.evening)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inside)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(area)

    def _two_answers(self) -> QGridLayout:
        self._answers = grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(4)
        for k, (words, box) in enumerate(
            (("I speak into", self.speaks), ("and it goes to", self.goes))
        ):
            said = label(words, "sub")
            said.setBuddy(box)
            grid.addWidget(said, 0, k)
            grid.addWidget(box, 1, k)
            grid.setColumnStretch(k, 3)
        grid.setColumnStretch(4, 1)
        self._place(False)
        return grid

    def _place(self, narrow: bool) -> None:
        """The button beside the answers, or below them where there is little room."""
        row, column = (2, 0) if narrow else (1, 2)
        middle = Qt.AlignmentFlag.AlignVCenter
        left = Qt.AlignmentFlag.AlignLeft | middle
        self._answers.addWidget(self.go, row, column, left if narrow else middle)
        self._answers.addWidget(self.through, row, column + 1, middle)
        self._narrow = narrow

    def _three_doors(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(18)
        row.addWidget(
            self._door(
                "Look around",
                label(
                    "The demo: a school's club station in an old observatory. Most of it is right,"
                    " and one chain wants mending.",
                    "sub",
                    wraps=True,
                ),
                "Open a copy",
                self.demo_wanted.emit,
            ),
            1,
        )
        row.addWidget(
            self._door("Practise", self._practised, "Next riddle", self.practice_wanted.emit), 1
        )
        row.addWidget(
            self._door(
                "Bring one along",
                label(
                    "A friend's station or piece, cards of a circuit of your own, a recording:"
                    " drop it here.",
                    "sub",
                    wraps=True,
                ),
                "Open a file…",
                self.file_wanted.emit,
            ),
            1,
        )
        return row

    def _door(self, title: str, says: QLabel, words: str, do: Callable[[], object]) -> QFrame:
        card = QFrame()
        card.setObjectName("card")
        column = QVBoxLayout(card)
        column.setContentsMargins(18, 12, 18, 14)
        column.setSpacing(6)
        headed = label(title, "title", wraps=True)
        for words_of in (headed, says):
            # a label that wraps would like to be three words wide, and three doors stand in a row
            words_of.setMinimumWidth(self._look.px(90))
        column.addWidget(headed)
        says.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(says, 1)
        made = button(words, "plain", do)
        made.setAccessibleDescription(title)
        self._doors[title] = made
        column.addWidget(made, 0, Qt.AlignmentFlag.AlignLeft)
        return card

    def door(self, title: str) -> QPushButton:
        """The button of a door, by its title. Raises KeyError."""
        return self._doors[title]

    def _resize(self) -> None:
        self.go.setMinimumSize(QSize(self._look.px(150), self._look.px(41)))
        self._fit()

    def _fit(self) -> None:
        narrow = self.width() < self._look.px(NARROW_PX)
        if narrow != self._narrow:
            self._place(narrow)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """What stands side by side in a wide window stands one below the other in a narrow one."""
        super().resizeEvent(event)
        self._fit()

    # --- what it shows ---------------------------------------------------------------------------

    def show_practice(self, says: str) -> None:
        """What there is to practise, and how it went last time."""
        self._practised.setText(says)

    def refresh(self) -> None:
        """The stations and the evening, as far as they are known."""
        listed = self.model.stations[:MOST_ROWS]
        self.evening.refresh()
        shown = (listed, date.today(), self._look.scale)
        if shown == self._listed:
            return
        self._listed = shown
        focused = next((k for k, r in enumerate(self.rows) if r.hasFocus()), None)
        clear(self._rows)
        self.rows = []
        for one in listed:
            self._rows.addWidget(self._row(one))
        self._heading.setVisible(bool(listed))
        if focused is not None and focused < len(self.rows):
            self.rows[focused].setFocus()

    def _row(self, one: Listed) -> QWidget:
        title = one.recent.title or "Not saved yet"
        title = title if one.placed else f"{title} (not saved)" if one.recent.title else title
        stands, grave = one.standing, "open"
        if one.gone:
            says = f"It is not there any more: {one.folder}"
        elif stands is None:
            says = "…"
        else:
            says, grave = stands.says, stands.grave
        row = StationRow()
        row.setProperty("role", "station")
        row.setProperty("grave", grave)
        row.setCursor(Qt.CursorShape.PointingHandCursor)
        word = GRAVE_WORDS[grave]
        row.setAccessibleName(f"{title}: {says} {word}".strip())
        row.setToolTip(str(one.folder))
        when = one.recent.when(date.today())
        inside = QHBoxLayout(row)
        inside.setContentsMargins(20, 8, 18, 8)
        inside.setSpacing(16)
        name = label(title, "step", wraps=True)
        name.setFixedWidth(self._look.px(180))
        said = label(says, "", wraps=True)
        inside.addWidget(name)
        inside.addWidget(said, 1)
        if word:
            inside.addWidget(label(word, f"grave-{grave}"))
        inside.addWidget(label(when, "caption"))
        for seen in row.findChildren(QLabel):
            seen.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        if one.gone:
            row.clicked.connect(partial(self.model.forget, one.recent.folder))
            row.setToolTip("Press to take it from the list")
        else:
            row.clicked.connect(partial(self.opens.emit, one.recent.folder, "", ""))
        self.rows.append(row)
        return row

    def _begin(self) -> None:
        speaks = beginning(SPEAKS, str(self.speaks.currentData()))
        goes = beginning(GOES, str(self.goes.currentData()))
        made: Station = begun(speaks, goes)
        self.begins.emit(made, "match")

    def folder_of(self, row: int) -> Path:
        """Where the station of a row lies."""
        return self.model.stations[row].folder

    def arrive(self) -> None:
        """Stations are read anew; the keyboard goes to the first answer."""
        self.model.look()
        self.speaks.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def end(self) -> None:
        """Nobody waits any more."""
        self.model.end()

    @guarded
    def hideEvent(self, event: QHideEvent) -> None:
        """Nobody reads it."""
        super().hideEvent(event)
        self.model.rest()
