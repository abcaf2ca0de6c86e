"""Opening, saving and leaving stations: asked where something would be lost, said in one line."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSettings
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from tonleiter.app.document import Document
from tonleiter.app.notice import Notice
from tonleiter.app.widgets.field import take_over_all
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.files import (
    STATION_FILE,
    SUFFIX,
    new_station,
    read_station,
    save_station,
)


class Filing(QObject):
    """What a window does with files; ``swap`` puts another document in the place of its own."""

    def __init__(
        self,
        window: QWidget,
        notice: Notice,
        document: Callable[[], Document],
        swap: Callable[[Document, bool], None],
    ) -> None:
        super().__init__(window)
        self._window, self._notice = window, notice
        self._document, self._put = document, swap

    @property
    def document(self) -> Document:
        """The open document."""
        return self._document()

    def save(self) -> bool:
        """Save where the station lies; says so, or why not."""
        return self._save_to(None)

    def _save_to(self, folder: Path | None) -> bool:
        take_over_all(self._window)
        try:
            kept = self.document.save(folder)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        QSettings().setValue("last", str(self.document.folder))
        pending = self.document.drafts.words
        if pending:
            self._notice.say(f"Saved, but for what is still typed in {pending}", bad=True)
        elif left := self.document.left_behind:
            names = ", ".join(left[:3])
            said = f"Saved, but recordings could not be copied there: {names}"
            self._notice.say(said, bad=True)
        elif kept:
            self._notice.say(
                f"Saved in {self.document.folder}. What lay there from somebody else is kept as"
                f" {' and '.join(one.name for one in kept)}."
            )
        else:
            self._notice.say(f"Saved in {self.document.folder}", fades=True)
        return True

    def ask_save_as(self) -> None:
        """Ask for another folder and save there."""
        name, _ = QFileDialog.getSaveFileName(
            self._window,
            "Save in another folder",
            str(self.document.folder),
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if name:
            self.save_as(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

    def save_as(self, folder: Path) -> bool:
        """Save in a folder; where another station lies there, only after asking."""
        if self.document.in_the_way(folder) and not self._may_replace(folder):
            return False
        return self._save_to(folder)

    def _may_replace(self, folder: Path) -> bool:
        try:
            what = f"“{read_station(folder).station.title}”"
        except RefusedError:
            what = "something that cannot be read"
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._window,
            "Another station lies there",
            f"In {folder} lies another station: {what}. Put this one in its place? The other file"
            " is kept beside it.",
            buttons.Yes | buttons.Cancel,
            buttons.Cancel,
        )
        return bool(answer == buttons.Yes)

    def ask_new(self) -> None:
        """Ask where a new station shall lie and open it."""
        beside = self.document.folder.parent / f"my{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self._window, "A new station", str(beside))
        if name:
            self.new(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

    def new(self, folder: Path) -> bool:
        """Begin a station in a folder that holds none yet; the shelf is the place to start."""
        if (folder / STATION_FILE).exists() or (folder / STATION_FILE).is_symlink():
            self._notice.say(f"{folder}: a station lies there already; open it instead", bad=True)
            return False
        if not self.may_leave():
            return False
        try:
            save_station(new_station(folder), folder)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        return self._swap(folder, new=True)

    def ask_open(self) -> None:
        """Ask for a station folder and open it."""
        name = QFileDialog.getExistingDirectory(
            self._window, "Open a station folder", str(self.document.folder.parent)
        )
        if name:
            self.open(Path(name))

    def ask_look(self) -> None:
        """Ask for a station that is only looked at: a friend's, or one on a stick."""
        name = QFileDialog.getExistingDirectory(
            self._window, "Look at a station, and leave it as it is", str(Path.home())
        )
        if name:
            self.open(Path(name), looks_only=True)

    def open(self, path: Path, looks_only: bool = False) -> bool:
        """Open another station in this window; on trouble the present one stays."""
        try:
            read_station(path)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        # what may be left is saved first: the station to open may be this one
        return self.may_leave() and self._swap(path, looks_only=looks_only)

    def _swap(self, path: Path, new: bool = False, looks_only: bool = False) -> bool:
        """The document of another station in the place of this one, which may be left."""
        try:
            document = Document.open(path, looks_only)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        self._notice.hide()
        self._put(document, new)
        if not document.looks_only:
            QSettings().setValue("last", str(document.folder))
        return True

    def may_leave(self) -> bool:
        """Whether unsaved edits may be left behind: asked, and saved if wanted."""
        take_over_all(self._window)
        pending = self.document.drafts.words
        if pending and not self._may_leave_typed(pending):
            return False
        if self.document.is_saved:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._window,
            "Not saved",
            "This station has edits that are not saved. Save them?",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )
        if answer == buttons.Save:
            return self._save_to(None)
        return bool(answer == buttons.Discard)

    def _may_leave_typed(self, pending: str) -> bool:
        """Whether what was typed and refused may be left behind."""
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._window,
            "Not taken over",
            f"What is typed in {pending}. Leave it behind?",
            buttons.Discard | buttons.Cancel,
            buttons.Cancel,
        )
        if answer != buttons.Discard:
            self._notice.say(f"Still typed in {pending}", bad=True)
            return False
        self.document.drafts.forget_all()
        return True
