"""The main window: the rail of spaces and files, notices, keys, closing without loss.

It knows the protocol of a space and no space by name.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QSettings, QSize, Qt, QTimer
from PySide6.QtGui import (
    QCloseEvent,
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QKeySequence,
    QResizeEvent,
    QShortcut,
)
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app import turns
from tonleiter.app.commands import commands_of
from tonleiter.app.notice import Notice
from tonleiter.app.over import Over
from tonleiter.app.rail import Rail
from tonleiter.app.safety.events import guarded
from tonleiter.app.safety.trouble import trouble
from tonleiter.app.spaces.registry import FIRST, SPACES
from tonleiter.app.theme.look import Look
from tonleiter.app.way import Way
from tonleiter.app.widgets.labels import label
from tonleiter.core.once import cached_property

if TYPE_CHECKING:
    # what computes is imported when the window stands: see ``open_with``
    from tonleiter.app.document import Document
    from tonleiter.app.filing import Filing
    from tonleiter.app.one_window import Door
    from tonleiter.app.session import Session
    from tonleiter.app.spaces.space import Space
    from tonleiter.app.starting.lobby import Lobby

WIDE, HIGH = 1280, 800
# when a space is made whose badge is seen from everywhere; between two that were left and go
SOON_MS, GOES_MS = 60, 20


class MainWindow(QMainWindow):
    """One window, one session.

    Without a document it stands there empty, with its rail, until ``open_with`` is called.
    """

    def __init__(self, document: Document | None, look: Look) -> None:
        super().__init__()
        self._look = self.look = look
        self._session: Session | None = None
        self._lobby: Lobby | None = None
        self.notice = Notice()
        self._stack = QStackedWidget()
        # nothing that comes is seen before somebody goes there
        self._stack.addWidget(QWidget())
        self._rail = Rail(look)
        self.buttons = self._rail.buttons
        self._last_shown = FIRST
        self.over = Over(self)
        self._way = Way(self, self._stack)
        self._arrange()
        for chrome in (self._rail, self.notice):
            look.dress(chrome)
        trouble().said.connect(self._say_trouble)
        self.setAcceptDrops(True)
        self.setMinimumSize(900, 600)
        self.resize(self.fitting(WIDE, HIGH))
        if document is not None:
            self.open_with(document)
            return
        self.setWindowTitle("Tonleiter")
        self._show_theme()
        self._waiting = label("Opening the station…", "headline")
        look.dress(self._waiting)
        self._waiting.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._stack.addWidget(self._waiting)
        for name in self.buttons:
            self.buttons[name].setEnabled(False)

    def open_with(self, document: Document) -> None:
        """The first session of a window."""
        from tonleiter.app.session import Session

        for name in self.buttons:
            self.buttons[name].setEnabled(True)
        self._begin(Session(document, self._look))

    def show_start(self) -> None:
        """The page that one starts at; what is open stays open behind it."""
        self._way.jump_to_start()

    def walk_to_start(self) -> None:
        """The same as a hand does it, in turns of the loop."""
        self._way.walk_to_start()

    def show_no_space(self) -> None:
        """On the rail none is the one that is seen."""
        for entry in SPACES:
            button = self.buttons[entry.name]
            button.setAutoExclusive(False)
            button.setChecked(False)
            button.setAutoExclusive(True)
            button.setEnabled(self.is_open)
        for command in commands_of(self):
            if command.always and command.on_rail:
                self.buttons[command.name].setEnabled(True)

    @property
    def starts(self) -> bool:
        """Whether the start page is seen."""
        return self._lobby is not None and self._stack.currentWidget() is self._lobby.page

    @cached_property
    def lobby(self) -> Lobby:
        """The start page and what it leads to."""
        from tonleiter.app.starting.lobby import Lobby

        self._lobby = Lobby(self)
        return self._lobby

    @property
    def is_open(self) -> bool:
        """Whether a station is open."""
        return self._session is not None

    @property
    def session(self) -> Session:
        """The present session; there is one once the window was opened with a document."""
        assert self._session is not None
        return self._session

    @cached_property
    def filing(self) -> Filing:
        """Opening, saving, leaving."""
        from tonleiter.app.filing import Filing

        return Filing(self, self.notice, self._open_document, self._swap)

    def _open_document(self) -> Document | None:
        return self._session.document if self._session is not None else None

    @cached_property
    def door(self) -> Door:
        """Where others knock who would open the same station."""
        from tonleiter.app.one_window import Door

        return Door(self.to_front, self)

    def is_at(self, folder: Path) -> bool:
        """Whether the station of that folder is the one that is open."""
        document = self._open_document()
        return document is not None and document.folder.resolve() == folder.resolve()

    def open_chain(self, chain: str) -> None:
        """Make a chain the open one, where it is still there."""
        from tonleiter.core.station.edits import open_chain

        if any(c.id == chain for c in self.document.station.chains):
            self.document.edit("chain", lambda s: open_chain(s, chain))

    def look_at_chain(self, chain: str) -> None:
        """The chain that was open when the station was left, without an edit of it."""
        document = self.document
        there = any(c.id == chain for c in document.station.chains)
        if there and document.is_saved and chain != document.station.open_chain:
            document.look_at_chain(chain)

    def to_front(self) -> None:
        """Somebody started the program again with this station."""
        if self.isMinimized():
            self.showNormal()
        self.show()
        self.raise_()
        self.activateWindow()
        QApplication.alert(self)

    @property
    def document(self) -> Document:
        """The open document."""
        return self.session.document

    def space(self, name: str) -> Space:
        """A space of this session. Raises KeyError."""
        return self.session.space(name)

    # --- building --------------------------------------------------------------------------------

    def _arrange(self) -> None:
        for entry in SPACES:
            self._rail.add_space(
                entry.name, entry.key, entry.title, partial(self.walk_to, entry.name)
            )
        self._rail.add_stretch()
        for command in commands_of(self):
            if command.on_rail:
                self._rail.add_action(command.name, command.words, command.do)
            for key in command.keys.split():
                do = command.do if command.always else self._once_open(command.do)
                QShortcut(QKeySequence(key), self).activated.connect(do)
            if command.name in self.buttons:
                self.buttons[command.name].setToolTip(command.keys)
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.notice)
        column.addWidget(self._stack, 1)
        whole = QWidget()
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._rail)
        row.addLayout(column, 1)
        self.setCentralWidget(whole)

    def _once_open(self, do: Callable[[], object]) -> Callable[[], object]:
        """A key that does nothing while the station is being opened."""
        return lambda: do() if self._session is not None else None

    def fitting(self, wide: int, high: int) -> QSize:
        """The usual size, or what the screen leaves inside its panels and a title bar."""
        screen = self.screen()
        if screen is None:
            return QSize(wide, high)
        room = screen.availableGeometry()
        bar = self._look.px(34)
        return QSize(min(wide, room.width()), min(high, max(600, room.height() - bar)))

    # --- the session -----------------------------------------------------------------------------

    def _begin(self, session: Session, first: str = "", in_turns: bool = False) -> None:
        """Show a session's spaces, where its window was left; the one before was ended.

        In turns the first one comes as it does for a hand at the rail.
        """
        from tonleiter.app.greeting import Greeting
        from tonleiter.app.meanwhile import Meanwhile
        from tonleiter.app.remembered import left_at

        self._session = session
        session.made.connect(self._take_in)
        document = session.document
        document.saved_changed.connect(self._show_state)
        document.changed.connect(self._show_badges)
        self.over.listen_to(session)
        self._show_badges()
        self._show_state()
        self._show_theme()
        left = left_at(document.folder)
        if left is not None:
            self.look_at_chain(left.chain)
        first = first or (left.space if left is not None else "") or FIRST
        if in_turns:
            self.walk_to(first)
        else:
            self.go_to(first)
        # the first one is seen before others are made for their badges
        for entry in SPACES:
            if entry.soon and entry.name != first:
                session.at_ease(SOON_MS, partial(session.space, entry.name))
        Meanwhile(session, document, self.notice)
        Greeting(session, self.notice, partial(self.walk_to, "log"))

    def _take_in(self, name: str) -> None:
        """A space was made: into the stack, and listened to."""
        space = self.session.spaces[name]
        self._stack.addWidget(space)
        space.refused.connect(self._refused)
        space.wanted.connect(self.walk_to)
        space.badge_changed.connect(partial(self._show_badge, name))
        self._show_badge(name)

    @turns.at_work()
    def _swap(self, document: Document, new: bool) -> None:
        """Another session in the place of this one; a new one starts at the shelf."""
        from tonleiter.app.remembered import keep
        from tonleiter.app.session import Session

        if self._session is not None:
            keep(self)
            self._end_session()
        for button in self.buttons.values():
            button.setEnabled(True)
        # the window keeps its size: somebody works in it
        self._begin(Session(document, self._look), SPACES[0].name if new else "", True)

    def bring(self, files: Sequence[Path]) -> None:
        """Files that were dropped, or opened: each goes where it belongs."""
        from tonleiter.app.brought import sorted_out, take

        brought = sorted_out(files)
        # a piece or a recording by itself begins a station
        alone = bool(brought.for_space) and not brought.stations and not self.is_open
        if alone and not self.filing.begin_empty():
            return
        take(brought, self.filing.open, self.filing.open_copy, self._give, self._refused)

    def _give(self, name: str, files: Sequence[Path]) -> None:
        self.go_to(name)
        self.session.space(name).take_files(files)

    def _end_session(self) -> None:
        """What was left goes piece by piece: all at once it takes longer than a hand waits."""
        session = self.session
        session.end()
        self._way.leave()
        # in the place of one that goes while it is seen another one would be shown and dressed
        self._stack.setCurrentIndex(0)
        # they stay the stack's until they go. Taken out of it they are Python's, and are kept for
        # ever if anybody finds them among the window's children once they were told to go
        gone = tuple(session.spaces.values())
        for k, space in enumerate(gone):
            QTimer.singleShot(k * GOES_MS, space, space.deleteLater)
        QTimer.singleShot(len(gone) * GOES_MS, session, session.deleteLater)

    # --- spaces ----------------------------------------------------------------------------------

    @property
    def shown(self) -> str:
        """The name of the space that is seen."""
        seen = self._stack.currentWidget()
        return next((n for n, s in self.session.spaces.items() if s is seen), self._last_shown)

    def go_to(self, name: str, word: str = "") -> None:
        """Show a space, with a word for it if somebody sent one."""
        self._turn_to(name)
        self._way.jump(name, word)

    def walk_to(self, name: str, word: str = "") -> None:
        """The same as a hand does it, in turns of the loop: see ``is_arriving``."""
        self._turn_to(name)
        self._way.walk(name, word)

    def _turn_to(self, name: str) -> None:
        self._last_shown = name
        self.buttons[name].setChecked(True)

    @property
    def is_arriving(self) -> bool:
        """Whether a space is still to be shown, or to be painted."""
        return self._way.busy

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A key that nobody else has, and any key while a space is on its way."""
        if not self._way.take_key(event):
            super().keyPressEvent(event)

    def _show_badges(self) -> None:
        """Badges follow the station: what is known of another one warns of nothing."""
        for entry in SPACES:
            self._show_badge(entry.name)

    def _show_badge(self, name: str) -> None:
        space = self.session.spaces.get(name)
        badge = space.badge() if space is not None else None
        self._rail.badge(name, badge.count if badge else 0, badge.severity if badge else "mind")

    # --- state -----------------------------------------------------------------------------------

    def _show_state(self) -> None:
        station, history = self.document.station, self.document.history
        mark = "" if self.document.is_saved else " — not saved"
        if not self.document.placed:
            mark = " — no place yet"
        if self.document.looks_only:
            mark = " — only looked at"
        self.setWindowTitle(f"{station.title}{mark} · Tonleiter")
        self.buttons["undo"].setEnabled(bool(history.past))
        self.buttons["redo"].setEnabled(bool(history.future))
        self.buttons["save"].setEnabled(not (self.document.is_saved and self.document.placed))
        if not self.document.looks_only:
            self.door.stand_at(self.document.folder)

    def _show_theme(self) -> None:
        self.buttons["theme"].setText("Night" if self._look.palette.name == "light" else "Day")

    def step_scale(self, direction: int) -> None:
        """A step larger or smaller; remembered."""
        with self._look.by_hand():
            self._look.step_scale(direction)
        QSettings().setValue("scale", self._look.scale)

    def usual_scale(self) -> None:
        """Text as large as it was first; remembered."""
        with self._look.by_hand():
            self._look.set_scale(1.0)
        QSettings().setValue("scale", 1.0)

    def toggle_theme(self) -> None:
        """Day or night; remembered."""
        with self._look.by_hand():
            self._look.toggle_theme()
        self._show_theme()
        QSettings().setValue("theme", self._look.palette.name)

    def undo(self) -> None:
        """Undo one step and say what it was."""
        if label := self.document.undo():
            self.notice.say(f"Undone: {label}", fades=True)

    def redo(self) -> None:
        """Redo one step and say what it was."""
        if label := self.document.redo():
            self.notice.say(f"Done again: {label}", fades=True)

    # --- saying ----------------------------------------------------------------------------------

    def _refused(self, why: str) -> None:
        if why:
            self.notice.say(why, bad=True)
        elif self.notice.is_refusal:
            self.notice.hide()

    def _say_trouble(self, line: str) -> None:
        self.notice.say(line, bad=True)

    # --- leaving ---------------------------------------------------------------------------------

    @guarded
    def changeEvent(self, event: QEvent) -> None:
        """Coming back to the window: look whether somebody else wrote the file meanwhile."""
        super().changeEvent(event)
        came_back = event.type() == QEvent.Type.ActivationChange and self.isActiveWindow()
        if came_back and self._session is not None:
            self.document.look_outside()

    def copy_from(self, widget: QWidget | None) -> None:
        """Put the table or picture that a widget is, or stands in, on the clipboard."""
        from tonleiter.app.copying import copy_from

        copy_from(widget, self.notice)

    @guarded
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What nobody else has a menu for may be copied."""
        from tonleiter.app.copying import copyable, menu_of

        found = copyable(self.childAt(event.pos()))
        if found is not None:
            menu_of(found, self, self._look, self.copy_from).popup(event.globalPos())

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """The manual stays at the right; what was painted on the way is of another size."""
        super().resizeEvent(event)
        self._way.paint()
        self.over.fit()

    @guarded
    def closeEvent(self, event: QCloseEvent) -> None:
        """Close only when nothing is lost by it; on a slip of ours rather stay open."""
        if self._session is not None:
            event.ignore()
            if not self.filing.may_leave():
                return
            self._way.leave()
            self.session.end()
        if self._lobby is not None:
            self._lobby.page.end()
        self.over.leave_manual()
        if self.is_open:
            self.door.close()
        event.accept()

    @guarded
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files, whatever they are: what cannot be taken is told when they are dropped."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    @guarded
    def dropEvent(self, event: QDropEvent) -> None:
        """Each goes where it belongs."""
        urls = event.mimeData().urls()
        files = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        event.acceptProposedAction()
        # whoever dragged them waits for the end of this call, and a question may be asked in it
        QTimer.singleShot(0, self, partial(self.bring, files))
