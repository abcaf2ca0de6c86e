"""The main window: the rail of spaces and files, notices, shortcuts, closing without loss."""

from __future__ import annotations

from collections.abc import Callable
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
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.document import Document
from tonleiter.app.spaces.ladder.space import LadderSpace
from tonleiter.app.theme.look import Look
from tonleiter.core.station.files import SUFFIX, StationFileError

Action = tuple[str, str, str, Callable[[], object]]


class MainWindow(QMainWindow):
    """One window, one document."""

    def __init__(self, document: Document, look: Look) -> None:
        super().__init__()
        self._look = look
        self.document = document
        self.notice = _Notice()
        self.space = LadderSpace(document, look)
        self._stack = QVBoxLayout()
        self._rail = QFrame()
        self._rail.setObjectName("rail")
        self._buttons: dict[str, QToolButton] = {}
        self._help: QWidget | None = None
        self._arrange()
        self._attach()
        self.resize(1280, 800)
        self.setMinimumSize(900, 600)

    # --- building --------------------------------------------------------------------------------

    def _arrange(self) -> None:
        rail = QVBoxLayout(self._rail)
        rail.setContentsMargins(0, 14, 0, 12)
        rail.setSpacing(2)
        for text, role in (("Ton", "brand"), ("leiter", "brand2")):
            label = QLabel(text)
            label.setProperty("role", role)
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            rail.addWidget(label)
        rail.addSpacing(14)
        ladder = QToolButton()
        ladder.setText("3\nLadder")
        ladder.setCheckable(True)
        ladder.setChecked(True)
        ladder.clicked.connect(lambda: self._go_to_ladder())
        self._add_to_rail(rail, "ladder", ladder)
        rail.addStretch(1)
        for name, text, _, action in self._actions():
            if name in ("undo", "redo", "open", "save", "theme", "help"):
                button = QToolButton()
                button.setText(text)
                button.clicked.connect(lambda _=False, action=action: action())
                self._add_to_rail(rail, name, button)
        for name, _, keys, action in self._actions():
            for key in keys.split():
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.activated.connect(lambda action=action: action())
            if name in self._buttons:
                self._buttons[name].setToolTip(keys)
        self._resize_rail()
        # a bound method, since Qt drops it with the window; the look lives longer than a window
        self._look.changed.connect(self._resize_rail)
        self._stack.setContentsMargins(0, 0, 0, 0)
        self._stack.setSpacing(0)
        self._stack.addWidget(self.notice)
        self._stack.addWidget(self.space, 1)
        whole = QWidget()
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._rail)
        row.addLayout(self._stack, 1)
        self.setCentralWidget(whole)

    def _resize_rail(self) -> None:
        self._rail.setFixedWidth(self._look.px(76))

    def _add_to_rail(self, rail: QVBoxLayout, name: str, button: QToolButton) -> None:
        button.setSizePolicy(button.sizePolicy().horizontalPolicy().Expanding,
                             button.sizePolicy().verticalPolicy())  # fmt: skip
        button.setAccessibleName(button.text().replace("\n", " "))
        rail.addWidget(button)
        self._buttons[name] = button

    def _actions(self) -> list[Action]:
        """Name, words on the rail or in the help, keys, what to do."""
        return [
            ("ladder", "Ladder", "3", self._go_to_ladder),
            ("undo", "Undo", "Ctrl+Z", self.undo),
            ("redo", "Redo", "Ctrl+Y Ctrl+Shift+Z", self.redo),
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
        self._show_state()
        self._show_theme()

    def _field_refused(self, why: str) -> None:
        if why:
            self.notice.say(why, bad=True)
        else:
            self.notice.hide()

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

    def _go_to_ladder(self) -> None:
        self._buttons["ladder"].setChecked(True)
        self.space.view.setFocus(Qt.FocusReason.ShortcutFocusReason)

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
            f"{'Delete':<24}Leave the stage out",
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
        except StationFileError as error:
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
        except StationFileError as error:
            self.notice.say(str(error), bad=True)
            return False
        if not self._may_leave():
            return False
        self._stack.removeWidget(self.space)
        self.space.deleteLater()
        self.document = document
        self.space = LadderSpace(document, self._look)
        self._stack.addWidget(self.space, 1)
        self._attach()
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

    def closeEvent(self, event: QCloseEvent) -> None:
        """Close only when nothing is lost by it."""
        if self._may_leave():
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
