"""The way to a space: made, dressed, shown, caught up, painted; and whose keys are heard on it.

Somebody at the rail takes it in turns of the loop, so that no step makes the window deaf for long.
"""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QApplication, QStackedWidget, QWidget
from shiboken6 import isValid

from tonleiter.app import turns
from tonleiter.app.in_turns import InTurns

if TYPE_CHECKING:
    from tonleiter.app.spaces.space import Space
    from tonleiter.app.window import MainWindow


class Way(QObject):
    """Leads from what is seen in a window's stack to what shall be seen there."""

    def __init__(self, window: MainWindow, stack: QStackedWidget) -> None:
        super().__init__(window)
        self._window, self._stack = window, stack
        self._turns = InTurns(self)
        self._keys: list[QShortcut] = []

    @property
    def busy(self) -> bool:
        """Whether somebody is on the way, or what he came to is still to be painted."""
        return self._turns.busy

    def leave(self) -> None:
        """Where it led to is wanted no more; no space's keys are heard."""
        self._turns.drop()
        self._let_go_keys()

    @turns.at_work()
    def jump(self, name: str, word: str = "") -> None:
        """Show a space now, with a word for it if somebody sent one; painted in the next turn."""
        self._keep_in_sight()
        self._turns.take(self.paint)
        self._let_go_keys()
        self._stand_at(name)
        self._arrive_at(name, word)

    @turns.at_work()
    def walk(self, name: str, word: str = "") -> None:
        """The same in turns. What is seen meanwhile is what was seen before."""
        self._leave_shown()
        self._turns.take(
            partial(self._window.session.space, name),
            lambda: self._window.session.space(name).context.look.catch_up(),
            partial(self._stand_at, name, late=True),
            partial(self._arrive_at, name, word),
            self.paint,
        )

    @turns.at_work()
    def jump_to_start(self) -> None:
        """Show the start page now."""
        self._keep_in_sight()
        self._turns.take(self.paint)
        self._stand_at_start()
        self._arrive_at_start()

    def walk_to_start(self) -> None:
        """The same in turns."""
        self._leave_shown()
        self._turns.take(self._stand_at_start, self._arrive_at_start, self.paint)

    def take_key(self, event: QKeyEvent) -> bool:
        """A key that comes on the way waits until one is there: it is meant for that."""
        if self._turns.busy:
            self._turns.add(partial(self._pass_on, event.clone()))
            return True
        return False

    def _pass_on(self, event: QKeyEvent) -> None:
        pressed = QKeySequence(event.keyCombination())
        for shortcut in self._keys:
            if shortcut.key() == pressed:
                shortcut.activated.emit()
                return
        held = QApplication.focusWidget()
        if held is not None and held is not self._window:
            QApplication.sendEvent(held, event)

    # --- its steps -------------------------------------------------------------------------------

    def _leave_shown(self) -> None:
        """It stays in sight until another one is painted, and hears no keys."""
        self._keep_in_sight()
        held = QApplication.focusWidget()
        if held is not None and self._stack.isAncestorOf(held):
            held.clearFocus()
        self._let_go_keys()

    def _stand_at(self, name: str, late: bool = False) -> None:
        space = self._window.session.space(name)
        space.late = late
        self._window.over.follow(name)
        self._stack.setCurrentWidget(space)
        self._take_keys(space)

    def _arrive_at(self, name: str, word: str) -> None:
        space = self._window.session.space(name)
        if space.late:
            space.late = False
            space.catch_up()
        space.arrive(word)
        self._window.over.show_hint(name, space)

    def _stand_at_start(self) -> None:
        page: QWidget = self._window.lobby.page
        self._window.over.follow("start")
        if self._stack.indexOf(page) < 0:
            self._stack.addWidget(page)
        self._window.show_no_space()
        self._stack.setCurrentWidget(page)
        self._let_go_keys()

    def _arrive_at_start(self) -> None:
        self._window.lobby.arrive()

    def _keep_in_sight(self) -> None:
        # of a window that was not seen yet nothing could be kept: its first picture would be black
        if self._stack.isVisible():
            self._stack.setUpdatesEnabled(False)

    def paint(self) -> None:
        """What stands in the stack is seen, whole or not."""
        self._stack.setUpdatesEnabled(True)

    # --- keys ------------------------------------------------------------------------------------

    def _take_keys(self, space: Space) -> None:
        for action in space.key_actions():
            for key in action.keys.split():
                shortcut = QShortcut(QKeySequence(key), space)
                shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
                shortcut.activated.connect(action.do)
                self._keys.append(shortcut)

    def _let_go_keys(self) -> None:
        """Keys of a space that is not seen any more."""
        for old in self._keys:
            # with its space one of them may have gone already
            if isValid(old):
                old.setEnabled(False)
                old.deleteLater()
        self._keys = []
