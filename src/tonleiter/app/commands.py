"""All that the window does besides showing spaces: a row for each, with its words and keys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication

from tonleiter.app.spaces.registry import SPACES

if TYPE_CHECKING:
    from tonleiter.app.window import MainWindow


@dataclass(frozen=True)
class Command:
    """Something the window does.

    ``words`` are on its button and on the page of keys; ``on_rail``: it has a button; ``always``:
    it can be done while no station is open.
    """

    name: str
    words: str
    keys: str
    do: Callable[[], object]
    on_rail: bool = False
    always: bool = False


def commands_of(window: MainWindow) -> tuple[Command, ...]:
    """All that a window does, in the order of the page of keys."""

    def copy() -> None:
        window.copy_from(QApplication.focusWidget())

    # what files needs is read when a command is done first: a window stands before that
    return (
        *(Command(e.name, e.title, e.key, partial(window.walk_to, e.name)) for e in SPACES),
        Command("undo", "Undo", "Ctrl+Z", window.undo, on_rail=True),
        Command("redo", "Redo", "Ctrl+Y Ctrl+Shift+Z", window.redo, on_rail=True),
        Command("start", "Start", "0 Ctrl+Home", window.walk_to_start, True, True),
        Command("new", "New, with an empty shelf", "Ctrl+N", lambda: window.filing.begin_empty(),
                always=True),
        Command("open", "Open", "Ctrl+O", lambda: window.filing.ask_open(), True, True),
        Command("look", "Look at a station", "Ctrl+Shift+O", lambda: window.filing.ask_look(),
                always=True),
        Command("save", "Save", "Ctrl+S", lambda: window.filing.save_behind(), on_rail=True),
        Command("save-as", "Save in another folder", "Ctrl+Shift+S",
                lambda: window.filing.ask_save_as()),
        Command("give", "A copy to give away", "Ctrl+Shift+G", lambda: window.filing.ask_give()),
        Command("larger", "Larger text", "Ctrl++ Ctrl+=", partial(window.step_scale, 1),
                always=True),
        Command("smaller", "Smaller text", "Ctrl+-", partial(window.step_scale, -1), always=True),
        Command("usual", "Usual text size", "Ctrl+0", window.usual_scale, always=True),
        Command("theme", "Night", "Ctrl+T", window.toggle_theme, True, True),
        Command("copy", "Copy the table or picture that has the keyboard", "Ctrl+Shift+C", copy,
                always=True),
        Command("close", "Close the window", "Ctrl+Q", window.close, always=True),
        Command("help", "Manual", "F1", window.over.toggle_manual, True, True),
        Command("hints", "Hints of a first visit again", "Shift+F1", window.over.hints_again),
    )  # fmt: skip
