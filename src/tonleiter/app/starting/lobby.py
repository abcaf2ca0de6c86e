"""The start page in a window: what its doors lead to."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QStandardPaths
from PySide6.QtWidgets import QFileDialog

from tonleiter.app.demo import demo_copy
from tonleiter.app.practice_file import usual_file
from tonleiter.app.starting.page import StartPage
from tonleiter.core.practice.results import Results, read_results
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.model import Station
from tonleiter.core.words import count_of

if TYPE_CHECKING:
    from tonleiter.app.window import MainWindow

KINDS_OF_FILES = (
    "What can be brought (*.zip *.json *.cir *.net *.sp *.wav *.flac *.ogg);;All files (*)"
)
HIDDEN = "A hidden fault in a chain, from a plug the wrong way round to a ground loop."


class Lobby(QObject):
    """Owns the page; the window shows it in its stack."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window = window
        self.page = StartPage(window.look)
        window.look.dress(self.page)
        self.page.begins.connect(self._begin)
        self.page.opens.connect(self._open)
        self.page.demo_wanted.connect(self._look_around)
        self.page.practice_wanted.connect(self._practise)
        self.page.file_wanted.connect(self._ask_file)

    def arrive(self) -> None:
        """It is shown."""
        self.page.show_practice(_practised())
        self.page.arrive()

    def _begin(self, station: Station, space: str) -> None:
        if self._window.filing.begin(station):
            self._window.go_to(space, "add" if space == "gear" else "")

    def _open(self, folder: str, space: str, chain: str) -> None:
        window = self._window
        if not self._is_open(Path(folder)):
            return
        if chain and chain != window.document.station.open_chain:
            window.open_chain(chain)
        window.go_to(space or window.shown)

    def _is_open(self, folder: Path) -> bool:
        """Whether the station is, or could be, opened; it is where it had been left."""
        return self._window.is_at(folder) or self._window.filing.open(folder)

    def _look_around(self) -> bool:
        try:
            folder = demo_copy()
        except RefusedError as error:
            self._window.notice.say(str(error), bad=True)
            return False
        if not self._is_open(folder):
            return False
        self._window.go_to(self._window.shown)
        return True

    def _practise(self) -> None:
        """A riddle is of no station; where none is open the demo stands behind it."""
        if self._window.is_open or self._look_around():
            self._window.go_to("practise")

    def _ask_file(self) -> None:
        home = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation)
        name, _ = QFileDialog.getOpenFileName(self._window, "Bring one along", home, KINDS_OF_FILES)
        if name:
            self._window.bring([Path(name)])


def _practised() -> str:
    """What was played last, and how it went."""
    try:
        results = read_results(usual_file())
    except (RefusedError, OSError):
        results = Results()
    if not results.played:
        return f"{HIDDEN} You hear what others hear, look, and find it. Nothing breaks."
    last = results.played[-1]
    how = "given up" if last.given_up else f"{last.score} points in {last.minutes:.0f} min"
    played = count_of(len(results.played), "riddle")
    return f"{HIDDEN} {played} played; last time: {last.kind.replace('-', ' ')}, {how}."
