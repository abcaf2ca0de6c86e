"""A line at the top of the window: a refusal that stays, a word that fades, a question."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimerEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton

from tonleiter.app.safety.events import guarded
from tonleiter.app.widgets.labels import button
from tonleiter.app.widgets.panel import put_away
from tonleiter.core.words import one_line

FADES_AFTER_MS = 4000
Answers = tuple[tuple[str, Callable[[], object]], ...]


class Notice(QFrame):
    """One line at a time; answers are buttons beside it."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self._label = QLabel()
        self._label.setWordWrap(True)
        self._label.setTextFormat(Qt.TextFormat.PlainText)
        self._label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._close = QPushButton("Close")
        self._close.setProperty("role", "link")
        self._close.clicked.connect(self.hide)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(20, 4, 16, 4)
        self._row.setSpacing(10)
        self._row.addWidget(self._label, 1)
        self._row.addWidget(self._close)
        self.answers: list[QPushButton] = []
        self._timer = 0
        self._asks = False
        self.hide()

    @property
    def text(self) -> str:
        """What it says, empty when hidden."""
        return "" if self.isHidden() else self._label.text()

    @property
    def is_refusal(self) -> bool:
        """Whether what it says is a refusal, and no question."""
        return self.property("kind") == "bad" and not self._asks

    def say(self, text: str, bad: bool = False, fades: bool = False) -> None:
        """Show a line. A question that waits for its answer is not covered by what only fades."""
        if fades and self._asks and not self.isHidden():
            return
        self._show(text, "bad" if bad else "good", (), fades)

    def ask(self, text: str, answers: Answers) -> None:
        """Show a line with answers to press; it stays until one is pressed or it is closed."""
        self._show(text, "good", answers, fades=False)

    def _show(self, text: str, kind: str, answers: Answers, fades: bool) -> None:
        for old in self.answers:
            put_away(old)
        self._asks = bool(answers)
        self._label.setText(one_line(text))
        self.answers = [button(words, "plain", self._answering(do)) for words, do in answers]
        for place, made in enumerate(self.answers, start=1):
            self._row.insertWidget(place, made)
        self.setProperty("kind", kind)
        self.style().unpolish(self)
        self.style().polish(self)
        if self._timer:
            self.killTimer(self._timer)
        self._timer = self.startTimer(FADES_AFTER_MS) if fades else 0
        self.show()

    def _answering(self, do: Callable[[], object]) -> Callable[[], object]:
        def answer() -> None:
            self._asks = False
            self.hide()
            do()

        return answer

    @guarded
    def timerEvent(self, event: QTimerEvent) -> None:
        """Fade."""
        self.killTimer(self._timer)
        self._timer = 0
        self.hide()
