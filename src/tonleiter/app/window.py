"""The main window: the rail of spaces and files, notices, shortcuts, closing without loss."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMessageBox,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.document import Document
from tonleiter.app.rail import Rail
from tonleiter.app.spaces.gear.space import GearSpace
from tonleiter.app.spaces.ladder.space import LadderSpace
from tonleiter.app.spaces.match.space import MatchSpace
from tonleiter.app.theme.look import Look
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import (
    STATION_FILE,
    SUFFIX,
    new_station,
    save_station,
)

SPACES = (("gear", "1", "Gear"), ("match", "2", "Match"), ("ladder", "3", "Ladder"))

Action = tuple[str, str, str, Callable[[], object]]


class MainWindow(QMainWindow):
    """One window, one document. ``space`` is the Ladder; the others are made when first wanted."""

    def __init__(self, document: Document, look: Look) -> None:
        super().__init__()
        self._look = look
        self.document = document
        self.notice = _Notice()
        self.space = LadderSpace(document, look)
        self.gear: GearSpace | None = None
        self.match: MatchSpace | None = None
        self._stack = QStackedWidget()
        self._rail = Rail(look)
        self._buttons = self._rail.buttons
        self._help: QWidget | None = None
        self._arrange()
        self._attach()
        self.resize(1280, 800)
        self.setMinimumSize(900, 600)

    # --- building --------------------------------------------------------------------------------

    def _arrange(self) -> None:
        for name, digit, title in SPACES:
            self._rail.add_space(name, digit, title, partial(self.go_to, name))
        self._buttons["ladder"].setChecked(True)
        self._rail.add_stretch()
        for name, text, keys, action in self._actions():
            if name in ("undo", "redo", "new", "open", "save", "theme", "help"):
                self._rail.add_action(name, text, action)
            for key in keys.split():
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.activated.connect(lambda action=action: action())
            if name in self._buttons:
                self._buttons[name].setToolTip(keys)
        self._stack.addWidget(self.space)
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

    def _actions(self) -> list[Action]:
        """Name, words on the rail or in the help, keys, what to do."""
        return [
            *((name, title, digit, partial(self.go_to, name)) for name, digit, title in SPACES),
            ("undo", "Undo", "Ctrl+Z", self.undo),
            ("redo", "Redo", "Ctrl+Y Ctrl+Shift+Z", self.redo),
            ("new", "New", "Ctrl+N", self.ask_new),
            ("open", "Open", "Ctrl+O", self.ask_open),
            ("save", "Save", "Ctrl+S", self.save),
            ("save-as", "Save in another folder", "Ctrl+Shift+S", self.ask_save_as),
            ("response", "Frequency response", "R", self._toggle_response),
            ("unit", "Next unit for levels", "U", lambda: self.space.cycle_unit()),
            ("findings", "Go to the remedies", "F", lambda: self.space.focus_findings()),
            ("larger", "Larger text", "Ctrl++ Ctrl+=", lambda: self._step_scale(1)),
            ("smaller", "Smaller text", "Ctrl+-", lambda: self._step_scale(-1)),
            ("theme", "Night", "Ctrl+T", self.toggle_theme),
            ("help", "Keys", "F1", self.toggle_help),
        ]

    def _attach(self) -> None:
        self.document.saved_changed.connect(self._show_state)
        self.space.model.refused.connect(lambda why: self.notice.say(why, bad=True))
        self.space.header.refused.connect(self._field_refused)
        self.space.model.changed.connect(self._show_badges)
        self._show_state()
        self._show_theme()
        self._show_badges()

    def _field_refused(self, why: str) -> None:
        if why:
            self.notice.say(why, bad=True)
        else:
            self.notice.hide()

    # --- spaces ----------------------------------------------------------------------------------

    def go_to(self, name: str) -> None:
        """Show a space, made now if it is wanted for the first time."""
        self._buttons[name].setChecked(True)
        self._stack.setCurrentWidget(self._space(name))
        if name == "ladder":
            self.space.view.setFocus(Qt.FocusReason.ShortcutFocusReason)
        elif name == "gear" and self.gear is not None:
            self.gear.arrive()
        elif self.match is not None:
            self.match.arrive()

    def _space(self, name: str) -> QWidget:
        if name == "gear":
            if self.gear is None:
                self.gear = GearSpace(self.document, self._look)
                self.gear.model.refused.connect(lambda why: self.notice.say(why, bad=True))
                self._stack.addWidget(self.gear)
            return self.gear
        if name == "match":
            if self.match is None:
                self.match = MatchSpace(self.document, self._look)
                self.match.model.refused.connect(lambda why: self.notice.say(why, bad=True))
                self.match.ladder_wanted.connect(partial(self.go_to, "ladder"))
                self.match.guest_wanted.connect(self._add_guest)
                self._stack.addWidget(self.match)
            return self.match
        return self.space

    def _add_guest(self) -> None:
        self.go_to("gear")
        assert self.gear is not None
        self.gear.model.start_adding(guest=True)

    def _show_badges(self) -> None:
        """The gravest findings of the open chain, counted on the Ladder's button."""
        assessment = self.space.model.assessment
        findings = assessment.findings if assessment else ()
        for severity in ("stop", "mind"):
            count = sum(f.severity == severity for f in findings)
            if count:
                self._rail.badge("ladder", count, severity)
                return
        self._rail.badge("ladder", 0, "mind")

    # --- state -----------------------------------------------------------------------------------

    def _show_state(self) -> None:
        station, history = self.document.station, self.document.history
        mark = "" if self.document.is_saved else " — not saved"
        self.setWindowTitle(f"{station.title}{mark} · Tonleiter")
        self._buttons["undo"].setEnabled(bool(history.past))
        self._buttons["redo"].setEnabled(bool(history.future))
        self._buttons["save"].setEnabled(not self.document.is_saved)

    def _show_theme(self) -> None:
        self._buttons["theme"].setText("Night" if self._look.palette.name == "light" else "Day")

    def _toggle_response(self) -> None:
        self.space.show_response(not self.space.response_button.isChecked())

    def _step_scale(self, direction: int) -> None:
        self._look.step_scale(direction)
        QSettings().setValue("scale", self._look.scale)

    def toggle_theme(self) -> None:
        """Day or night; remembered."""
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

    def toggle_help(self) -> None:
        """Show or hide the list of keys."""
        if self._help is not None:
            self._help.deleteLater()
            self._help = None
            return
        lines = [f"{keys.replace(' ', ' or '):<24}{words}" for _, words, keys, _ in self._actions()]
        lines += [
            f"{'← →':<24}Choose a stage on the ladder",
            f"{'↑ ↓ or wheel':<24}Move its value one place",
            f"{'Enter':<24}Type its value; Esc gives the old one back",
            f"{'Insert':<24}Put a piece from the shelf behind the stage",
            f"{'Alt+← Alt+→':<24}Move the stage along the chain",
            f"{'Delete':<24}Leave the stage out",
            f"{'A':<24}Add a piece, in Gear",
            f"{'P':<24}Plan the chosen pair, in Match",
            f"{'Tab':<24}Go through everything",
        ]
        self._help = _KeyList("\n".join(lines), self)
        self._help.show()

    # --- files -----------------------------------------------------------------------------------

    def save(self) -> bool:
        """Save where the station lies; says so, or why not."""
        return self._save_to(None)

    def _save_to(self, folder: Path | None) -> bool:
        try:
            kept = self.document.save(folder)
        except FileError as error:
            self.notice.say(str(error), bad=True)
            return False
        if kept is not None:
            self.notice.say(
                f"Saved. The file had been changed by somebody else; theirs is kept as {kept.name}."
            )
        else:
            self.notice.say(f"Saved in {self.document.folder}", fades=True)
        return True

    def ask_save_as(self) -> None:
        """Ask for another folder and save there."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Save in another folder", str(self.document.folder)
        )
        if name:
            self._save_to(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

    def ask_new(self) -> None:
        """Ask where a new station shall lie and open it."""
        beside = self.document.folder.parent / f"my{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self, "A new station", str(beside))
        if name:
            self.new(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

    def new(self, folder: Path) -> bool:
        """Begin a station in a folder that holds none yet; the shelf is the place to start."""
        if (folder / STATION_FILE).exists():
            self.notice.say(f"{folder}: a station lies there already; open it instead", bad=True)
            return False
        try:
            save_station(new_station(folder), folder)
        except FileError as error:
            self.notice.say(str(error), bad=True)
            return False
        if not self.open(folder):
            return False
        self.go_to("gear")
        return True

    def ask_open(self) -> None:
        """Ask for a station folder and open it."""
        name = QFileDialog.getExistingDirectory(
            self, "Open a station folder", str(self.document.folder.parent)
        )
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> bool:
        """Open another station in this window; on trouble the present one stays."""
        try:
            document = Document.open(path)
        except FileError as error:
            self.notice.say(str(error), bad=True)
            return False
        if not self._may_leave():
            return False
        self._rest()
        for old in (self.space, self.gear, self.match):
            if old is not None:
                self._stack.removeWidget(old)
                old.deleteLater()
        self.document, self.gear, self.match = document, None, None
        self.space = LadderSpace(document, self._look)
        self._stack.addWidget(self.space)
        self._attach()
        self.go_to("ladder")
        self.notice.hide()
        return True

    def _may_leave(self) -> bool:
        """Whether unsaved edits may be left behind: asked, and saved if wanted."""
        if self.document.is_saved:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Not saved",
            "This station has edits that are not saved. Save them?",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )
        if answer == buttons.Save:
            return self.save()
        return bool(answer == buttons.Discard)

    def _rest(self) -> None:
        """Nobody waits for what is being solved any more."""
        self.space.model.rest()
        if self.match is not None:
            self.match.model.rest()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Close only when nothing is lost by it."""
        if self._may_leave():
            self._rest()
            event.accept()
        else:
            event.ignore()


class _Notice(QFrame):
    """A line at the top of the window: a refusal that stays, or a word that fades."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self._label = QLabel()
        self._label.setWordWrap(True)
        self._label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        close = QPushButton("Close")
        close.setProperty("role", "link")
        close.clicked.connect(self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 4, 16, 4)
        row.addWidget(self._label, 1)
        row.addWidget(close)
        self._timer = 0
        self.hide()

    @property
    def text(self) -> str:
        """What it says, empty when hidden."""
        return "" if self.isHidden() else self._label.text()

    def say(self, text: str, bad: bool = False, fades: bool = False) -> None:
        """Show a line."""
        self._label.setText(text)
        self.setProperty("kind", "bad" if bad else "good")
        self.style().unpolish(self)
        self.style().polish(self)
        if self._timer:
            self.killTimer(self._timer)
        self._timer = self.startTimer(4000) if fades else 0
        self.show()

    def timerEvent(self, event: object) -> None:
        """Fade."""
        self.killTimer(self._timer)
        self._timer = 0
        self.hide()


class _KeyList(QFrame):
    """All keys, over the middle of the window."""

    def __init__(self, text: str, window: MainWindow) -> None:
        super().__init__(window)
        self.setObjectName("card")
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 18, 24, 18)
        title = QLabel("Keys")
        title.setProperty("role", "title")
        body = QLabel(text)
        body.setProperty("role", "figure")
        hint = QLabel("F1 closes this list.")
        hint.setProperty("role", "caption")
        for widget in (title, body, hint):
            column.addWidget(widget)
        self.adjustSize()
        self.move((window.width() - self.width()) // 2, (window.height() - self.height()) // 2)
