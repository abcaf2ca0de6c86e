"""The Gear space: the shelf, what is chosen on it, and the bench that finds figures."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.gear.adding import Adding
from tonleiter.app.spaces.gear.bench import BenchPanel
from tonleiter.app.spaces.gear.box import BoxPage
from tonleiter.app.spaces.gear.grounds import GroundsPage
from tonleiter.app.spaces.gear.learning import LearningPage
from tonleiter.app.spaces.gear.model import (
    ADD,
    BOX,
    DRAWER,
    GROUNDS,
    LEARN,
    PEOPLE,
    ROOM,
    GearModel,
)
from tonleiter.app.spaces.gear.piece import PieceEditor
from tonleiter.app.spaces.gear.shelf import Shelf
from tonleiter.app.spaces.gear.surroundings import DrawerPage, PeoplePage, RoomPage
from tonleiter.app.spaces.space import Action, Context, Space
from tonleiter.app.widgets.frames import stack
from tonleiter.app.widgets.labels import label
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.station.shelf import sentence

SIDE_PX, MOST_OF_WIDTH = 288, 0.27
LATER = {ADD: Adding, PEOPLE: PeoplePage, ROOM: RoomPage, DRAWER: DrawerPage}


def _scrolled(page: QWidget) -> QScrollArea:
    """A page that may be taller than the window."""
    area = QScrollArea()
    area.setObjectName("center")
    area.setWidgetResizable(True)
    area.setWidget(page)
    return area


def _within(area: QWidget | None) -> QWidget | None:
    """The page in such an area; the piece scrolls by itself."""
    return area.widget() if isinstance(area, QScrollArea) else area


class GearSpace(Space):
    """Drop a piece's file anywhere on it to add it."""

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = context.look
        self._look = look
        self.model = GearModel(context.document)
        self.model.setParent(self)  # it ends with its space: a signal keeps what it tells alive
        self.model.refused.connect(self.refused)
        self.shelf = Shelf(self.model, look)
        self.editor = PieceEditor(self.model, look, context.reckoning, context.jobs)
        self.editor.read.connect(context.asking.read)
        self.box = BoxPage(self.model, look)
        self.grounds = GroundsPage(self.model, look, context)
        self.learning = LearningPage(self.model, look, context)
        self.learning.learning.refused.connect(self.refused)
        self.learning.learning.prove_wanted.connect(lambda: self.wanted.emit("prove", ""))
        self.bench = BenchPanel(self.model, look)
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self._pages = QStackedWidget()
        self._page_of: dict[str, QWidget] = {
            GROUNDS: _scrolled(self.grounds),
            LEARN: _scrolled(self.learning),
            BOX: _scrolled(self.box),
        }
        for page in (self.editor, *self._page_of.values()):
            self._pages.addWidget(page)
        self._arrange()
        self.model.changed.connect(self.refresh)
        self.model.selection_changed.connect(self._turn)
        look.changed.connect(self._wear)
        self.refresh()
        self._turn()

    def page(self, chosen: str) -> QWidget:
        """The page of what is chosen."""
        return _within(self._area(chosen)) or self.editor

    def _area(self, chosen: str) -> QWidget:
        """Where it scrolls; a page of many widgets is made when somebody looks there."""
        chosen = BOX if chosen.startswith(BOX) else chosen
        if chosen in LATER and chosen not in self._page_of:
            self._page_of[chosen] = _scrolled(LATER[chosen](self.model, self._look))
            self._pages.addWidget(self._page_of[chosen])
        return self._page_of.get(chosen, self.editor)

    def _arrange(self) -> None:
        head = QFrame()
        head.setObjectName("header")
        words = QVBoxLayout(head)
        words.setContentsMargins(20, 10, 16, 10)
        words.setSpacing(2)
        words.addWidget(self._says)
        words.addWidget(self._proves)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.shelf)
        middle.addWidget(self._pages, 1)
        middle.addWidget(self.bench)
        stack(self, head, middle)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Shelf and bench take their part, never more than leaves the piece half the room."""
        super().resizeEvent(event)
        self._divide()

    def _wear(self) -> None:
        self._divide()
        self.editor.refresh()

    def _divide(self) -> None:
        side = min(self._look.px(SIDE_PX), int(self.width() * MOST_OF_WIDTH))
        self.shelf.setFixedWidth(side)
        self.bench.setFixedWidth(side)
        if (layout := self.layout()) is not None:
            # at once: until the widths stand nobody knows whether a piece has two columns
            layout.activate()

    def refresh(self) -> None:
        """Say what there is."""
        says, proves = sentence(self.model.station)
        self._says.setText(says)
        self._proves.setText(proves)

    def _turn(self) -> None:
        """Show the page of what is chosen; the bench stands beside a piece only."""
        chosen = self.model.selected
        page, was = self.page(chosen), _within(self._pages.currentWidget())
        self._pages.setCurrentWidget(self._area(chosen))
        if isinstance(was, Adding) and page is not was and self.isVisible():
            # the answer that was pressed is gone: the keyboard must not go with it
            self.shelf.tree.setFocus(Qt.FocusReason.OtherFocusReason)
        self.bench.setVisible(page is self.editor)
        if chosen == GROUNDS:
            self.grounds.arrive()
        if isinstance(page, Adding) and self.isVisible():
            page.answers[0].setFocus(Qt.FocusReason.OtherFocusReason)

    def arrive(self, word: str = "") -> None:
        """The keyboard goes to the shelf, or to the questions when a guest is asked for."""
        self.shelf.tree.setFocus(Qt.FocusReason.ShortcutFocusReason)
        if word in ("guest", "add"):
            self.model.start_adding(guest=word == "guest")
        elif word == "grounds":
            self.model.select(GROUNDS)
        elif word == "readings":
            self.model.select(LEARN)
        elif word.startswith("figure "):
            self._arrive_at(*word.split()[1:3])
        if self.model.selected == GROUNDS:
            self.grounds.arrive()

    def _arrive_at(self, piece: str, field: str = "") -> None:
        """At a figure of a piece; the voice is the people's."""
        self.model.select(PEOPLE if piece == VOICE else piece)
        if piece == VOICE or not field:
            return
        try:
            self.editor.form.entry(field).setFocus(Qt.FocusReason.ShortcutFocusReason)
        except (KeyError, AssertionError):
            return  # a figure that plays no part as the piece is now

    def rest(self) -> None:
        """The station is left: nothing is worked out any more."""
        super().rest()
        self.learning.learning.rest()
        self.grounds.solving.rest()

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while the shelf is shown."""
        return (
            Action("Add a piece", "A", lambda: self.model.start_adding(False)),
            Action("Leads and grounds", "G", lambda: self.model.select(GROUNDS)),
            Action("What readings teach", "T", lambda: self.model.select(LEARN)),
        )

    # --- a friend's piece ------------------------------------------------------------------------

    def take_files(self, files: Sequence[Path]) -> None:
        """Add each piece, box or circuit that was dropped."""
        for file in files:
            self.model.import_file(file)
