"""Opening, saving and leaving stations: asked where something would be lost, said in one line."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QStandardPaths, QTimer
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from tonleiter.app.document import Document
from tonleiter.app.notice import Notice
from tonleiter.app.recents import keep_recent
from tonleiter.app.widgets.field import take_over_all
from tonleiter.core.log.give_away import give_away, unpacked
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.begin import begun
from tonleiter.core.station.files import (
    SUFFIX,
    read_station,
)
from tonleiter.core.station.model import Station
from tonleiter.core.station.unplaced import put_unplaced

# a copy to give away: a zip file like any other, told apart by the desktop
COPY = ".station.zip"
# a save that takes longer than this is spoken of while it lasts
SAYS_AFTER_MS = 500


def documents() -> Path:
    """The user's folder for documents, where there is one."""
    where = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation)
    found = Path(where) if where else Path.home()
    return found if found.is_dir() else Path.home()


class Filing(QObject):
    """What a window does with files; ``swap`` puts another document in the place of its own."""

    def __init__(
        self,
        window: QWidget,
        notice: Notice,
        document: Callable[[], Document | None],
        swap: Callable[[Document, bool], None],
    ) -> None:
        super().__init__(window)
        self._window, self._notice = window, notice
        self._document, self._put = document, swap
        self._takes_long = QTimer(self)
        self._takes_long.setSingleShot(True)
        self._takes_long.setInterval(SAYS_AFTER_MS)
        self._takes_long.timeout.connect(self._say_it_takes_long)

    @property
    def document(self) -> Document:
        """The open document; there is one where something is saved."""
        document = self._document()
        assert document is not None
        return document

    def save(self) -> bool:
        """Save where the station lies; says so, or why not."""
        return self._save_to(None)

    def save_behind(self) -> None:
        """Save where the station lies while the hand goes on; told once it is done."""
        take_over_all(self._window)
        document = self.document
        if not document.placed:
            self.ask_save_as()
            return
        self._takes_long.start()
        try:
            document.save_behind(partial(self._came_of_it, document))
        except RefusedError as error:
            self._came_of_it(document, error)

    def _say_it_takes_long(self) -> None:
        document = self._document()
        if document is not None and document.is_saving:
            self._notice.say("Saving …")

    def _came_of_it(self, document: Document, came: tuple[Path, ...] | RefusedError) -> None:
        if isinstance(came, RefusedError):
            self._notice.say(str(came), bad=True)
        else:
            self._tell(document, came)

    def _save_to(self, folder: Path | None) -> bool:
        take_over_all(self._window)
        document = self.document
        if folder is None and not document.placed:
            return self.ask_save_as()
        try:
            kept = document.save(folder)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        self._tell(document, kept)
        return True

    def _tell(self, document: Document, kept: tuple[Path, ...]) -> None:
        """It is saved: where, and what is not in it."""
        keep_recent(document.folder, document.station.title)
        pending = document.drafts.words
        if pending:
            self._notice.say(f"Saved, but for what is still typed in {pending}", bad=True)
        elif left := document.left_behind:
            names = ", ".join(left[:3])
            said = f"Saved, but recordings could not be copied there: {names}"
            self._notice.say(said, bad=True)
        elif kept:
            self._notice.say(
                f"Saved in {document.folder}. What lay there from somebody else is kept as"
                f" {' and '.join(one.name for one in kept)}."
            )
        else:
            self._notice.say(f"Saved in {document.folder}", fades=True)

    def ask_save_as(self) -> bool:
        """Ask for another folder and save there; whether that was done."""
        placed = self.document.placed
        usual = self.document.folder if placed else documents() / f"at-home{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(
            self._window,
            "Save in another folder" if placed else "Where shall this station lie?",
            str(usual),
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        return bool(name) and self.save_as(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

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

    def begin(self, station: Station) -> bool:
        """A new station, which has no place until it is saved."""
        if not self.may_leave():
            return False
        try:
            folder = put_unplaced(station)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        return self._swap(folder, new=True)

    def begin_empty(self) -> bool:
        """A new one with nothing on its shelf."""
        return self.begin(begun())

    def ask_open(self) -> None:
        """Ask for a station folder and open it."""
        document = self._document()
        where = document.folder.parent if document and document.placed else documents()
        name = QFileDialog.getExistingDirectory(self._window, "Open a station folder", str(where))
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

    def open_copy(self, file: Path) -> bool:
        """A copy that somebody gave away is looked at; saved elsewhere it becomes one's own."""
        try:
            folder = unpacked(file)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        return self.open(folder, looks_only=True)

    def ask_give(self) -> None:
        """Ask whether people stay out of it, and where the copy goes."""
        box = QMessageBox(self._window)
        box.setWindowTitle("A copy to give away")
        box.setText("One file that others open to look at. Shall people be in it?")
        box.setInformativeText(
            "Without people: whoever speaks becomes “operator 1”, notes are empty, and log, photos,"
            " recordings, cards and readings stay here. What pieces and chains are called stays."
        )
        without = box.addButton("Without people", QMessageBox.ButtonRole.AcceptRole)
        whole = box.addButton("With everything", QMessageBox.ButtonRole.AcceptRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.setDefaultButton(without)
        box.exec()
        if box.clickedButton() not in (without, whole):
            return
        name, _ = QFileDialog.getSaveFileName(
            self._window,
            "A copy to give away",
            str(documents() / f"{self.document.station.title}{COPY}"),
            f"*{COPY}",
        )
        if name:
            ending = "" if name.endswith(".zip") else COPY
            self.give(Path(name + ending), box.clickedButton() is without)

    def give(self, file: Path, without_people: bool) -> bool:
        """Write the copy; a refusal is told."""
        take_over_all(self._window)
        document = self.document
        try:
            give_away(document.station, document.records, document.folder, file, without_people)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        who = ", without people" if without_people else ""
        self._notice.say(f"{file}: a copy to give away{who}; who opens it looks at it only")
        return True

    def _swap(self, path: Path, new: bool = False, looks_only: bool = False) -> bool:
        """The document of another station in the place of this one, which may be left."""
        try:
            document = Document.open(path, looks_only)
        except RefusedError as error:
            self._notice.say(str(error), bad=True)
            return False
        self._notice.hide()
        self._put(document, new)
        if not document.looks_only and document.placed:
            keep_recent(document.folder, document.station.title)
        return True

    def may_leave(self) -> bool:
        """Whether unsaved edits may be left behind: asked, and saved if wanted."""
        if self._document() is None:
            return True
        take_over_all(self._window)
        self.document.finish_writing()
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
        return bool(answer == buttons.Discard) and self._discarded()

    def _discarded(self) -> bool:
        """A station without a place goes with its edits; one with a log or recordings is kept."""
        document = self.document
        if not document.placed and not document.give_up():
            self._notice.say(
                "Its log or recordings are kept: it stands on the start page as not saved."
            )
        return True

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
