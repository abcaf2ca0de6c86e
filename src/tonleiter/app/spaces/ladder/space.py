"""The Ladder space: header sentence, headline, ladder, response on demand, inspector, tray."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
)

from tonleiter.app.reckoned_switch import ReckonedSwitch
from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.ladder.header import Header
from tonleiter.app.spaces.ladder.inspector import Inspector
from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.spaces.ladder.response import ResponseView
from tonleiter.app.spaces.ladder.view import LadderView
from tonleiter.app.spaces.no_chain import MAKES_ONE
from tonleiter.app.spaces.space import Action, Badge, Context, Space, gravest
from tonleiter.app.widgets.canvas.read_off import HINT
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.frames import stack
from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.tray import Tray
from tonleiter.core.report.headline import headline
from tonleiter.core.words import sentence, within

# of the window's height and width, at most; below so many pixels of text size the proof is a hint
TRAY_SHARE, INSPECTOR_SHARE = 0.27, 0.3
LEAST_INSPECTOR_PX = 228
ROOMY_PX = 590
# from this width on the buttons stand next to the headline, else below it
BESIDE_PX = 620


class LadderSpace(Space):
    """Puts the parts together; all of them watch one LadderModel."""

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = context.look
        self.model = LadderModel(
            context.document, context.jobs, context.verdicts, context.reckoning
        )
        self.model.setParent(self)  # it ends with its space: a signal keeps what it tells alive
        self._look = look
        self.header = Header(self.model, look)
        self.reckoned = ReckonedSwitch(context.reckoning)
        self.view = LadderView(self.model, look)
        self.inspector = Inspector(self.model, look)
        self.tray = Tray(self.model, look, context.asking.ask)
        self.response: ResponseView | None = None
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.response_button = QPushButton("Response  R")
        self.response_button.setCheckable(True)
        self.response_button.setProperty("role", "plain")
        self.response_button.setToolTip("Frequency response from the air to the radio")
        self.response_button.toggled.connect(self.show_response)
        self.unit_button = QPushButton("dBu  U")
        self.unit_button.setProperty("role", "plain")
        self.unit_button.setToolTip("Show levels in dBu, dBV, volts RMS or volts peak to peak")
        self.unit_button.clicked.connect(self.cycle_unit)
        self.drawing_button = QPushButton("Drawing  D")
        self.drawing_button.setProperty("role", "plain")
        self.drawing_button.setToolTip("The whole chain as one schematic, with its parts list")
        self.drawing_button.clicked.connect(self.inspector.open_chain_drawing)
        self.why_button = QPushButton("Why?  Y")
        self.why_button.setProperty("role", "plain")
        self.why_button.setToolTip("How the level at the radio comes about, step by step")
        self.why_button.clicked.connect(lambda: self.ask_why("level", at_radio=True))
        self.inspector.why_asked.connect(self.ask_why)
        self._arrange()
        look.changed.connect(self._fit)
        self.view.edit_requested.connect(self.inspector.focus_first)
        self.view.insert_requested.connect(self.inspector.open_insert)
        self.model.changed.connect(self.refresh)
        self.model.changed.connect(self.badge_changed)
        self.model.badge_changed.connect(self.badge_changed)
        self.model.refused.connect(self.refused)
        self.model.readings_wanted.connect(lambda: self.wanted.emit("gear", "readings"))
        self.model.grounds_wanted.connect(lambda: self.wanted.emit("gear", "grounds"))
        self.header.refused.connect(self.refused)
        self.refresh()

    def _arrange(self) -> None:
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addWidget(self._says)
        words.addWidget(self._proves)
        buttons = Flow(
            self.reckoned,
            self.why_button,
            self.unit_button,
            self.response_button,
            self.drawing_button,
            gap_px=6,
        )
        self._top = top = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        top.setContentsMargins(20, 10, 14, 2)
        top.setSpacing(8)
        top.addLayout(words, 1)
        top.addLayout(buttons)
        center = QFrame()
        center.setObjectName("center")
        self._center = QVBoxLayout(center)
        self._center.setContentsMargins(0, 0, 0, 0)
        self._center.setSpacing(0)
        self._center.addLayout(top)
        self._center.addWidget(self.view, 3)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(center, 1)
        middle.addWidget(self.inspector)
        stack(self, self.header, middle, self.tray)

    @guarded
    def showEvent(self, event: QShowEvent) -> None:
        """What was edited elsewhere is solved now."""
        super().showEvent(event)
        if not self.late:
            self.catch_up()

    def catch_up(self) -> None:
        """What was edited elsewhere is solved now."""
        self.model.look(seen=True)

    @guarded
    def hideEvent(self, event: QHideEvent) -> None:
        """Out of sight it is solved after what is looked at, for the badge."""
        super().hideEvent(event)
        self.model.look(seen=False)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Tray, inspector and the second sentence give way before the ladder does."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        wide, high = self.width(), self.height()
        self.tray.limit(round(TRAY_SHARE * high))
        self.inspector.limit(max(self._look.px(LEAST_INSPECTOR_PX), round(INSPECTOR_SHARE * wide)))
        # the sentence needs the width more than the buttons do
        beside = wide - self.inspector.width() >= self._look.px(BESIDE_PX)
        self._top.setDirection(
            QBoxLayout.Direction.LeftToRight if beside else QBoxLayout.Direction.TopToBottom
        )
        roomy = high >= self._look.px(ROOMY_PX)
        self._proves.setVisible(roomy)
        role = "headline" if roomy else "low-headline"
        if self._says.property("role") != role:
            self._says.setProperty("role", role)
            self._says.style().unpolish(self._says)
            self._says.style().polish(self._says)

    def refresh(self) -> None:
        """Say how the chain stands."""
        if self.model.assessment is None:
            self._says.setText(
                "There is no chain to show."
                if not self.model.trouble
                else "This chain cannot be computed."
            )
            self._proves.setText(self.model.trouble or f"{sentence(MAKES_ONE)}.")
            return
        line = headline(self.model.assessment, self.model.stops())
        self._says.setText(line.says)
        self._proves.setText(line.proves)
        # where there is no room for it, it is still there to be read
        self._says.setToolTip(line.proves)
        self._says.setAccessibleDescription(line.proves)

    @property
    def sentence(self) -> str:
        """The headline as shown."""
        return self._says.text()

    def show_response(self, wanted: bool) -> None:
        """Show or hide the frequency response below the ladder."""
        if wanted and self.response is None:
            self.response = ResponseView(self.model, self._look)
            self._center.addWidget(self.response, 2)
        if self.response is not None:
            self.response.setVisible(wanted)
            if wanted:
                self.response.refresh()
        self.response_button.setChecked(wanted)

    def ask_why(self, what: str, at_radio: bool = False) -> None:
        """Ask why the chosen stage, or the radio, has its level, room, noise, hum or gain."""
        answer = self.model.why_at_radio() if at_radio else self.model.why(what)
        if answer is not None:
            self.context.asking.ask(answer)

    def cycle_unit(self) -> None:
        """Next unit for levels."""
        self.unit_button.setText(f"{self.view.cycle_unit()}  U")

    def focus_findings(self) -> None:
        """Put the keyboard on the first remedy."""
        button = self.tray.first_remedy()
        if button is not None:
            button.setFocus(Qt.FocusReason.ShortcutFocusReason)

    # --- what the window asks ---------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The keyboard goes to the ladder."""
        self.view.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def rest(self) -> None:
        """Stop what runs behind the window."""
        self.model.rest()

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while the ladder is shown."""
        return (
            Action("Frequency response", "R", self._toggle_response),
            Action("Why this level at the radio", "Y", lambda: self.ask_why("level", True)),
            Action("Next unit for levels", "U", self.cycle_unit),
            Action("Go to the remedies", "F", self.focus_findings),
            Action("Draw the whole chain", "D", self.inspector.open_chain_drawing),
            Action("Print its drawing", "Ctrl+P", self.inspector.print_chain_drawing),
        )

    def hints(self) -> tuple[tuple[str, str], ...]:
        """Keys of the ladder itself."""
        return (
            ("← →", "Choose a stage"),
            ("↑ ↓ or wheel", "Move its value one place"),
            ("Enter", "Type its value; Esc gives the old one back"),
            ("Insert", "Put a piece from the shelf behind the stage"),
            ("Alt+← Alt+→", "Move the stage along the chain"),
            ("Delete", "Leave the stage out"),
            (HINT[0], f"In the response: {within(HINT[1])}"),
        )

    def badge(self) -> Badge | None:
        """The gravest findings of the open chain."""
        return gravest(self.model.found())

    def _toggle_response(self) -> None:
        self.show_response(not self.response_button.isChecked())
