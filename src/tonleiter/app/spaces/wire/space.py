"""The Wire space: header, score, the inspector of a net, what was found."""

from __future__ import annotations

from functools import partial
from typing import get_args

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QCursor, QHideEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.space import Action, Context, Space
from tonleiter.app.spaces.wire.model import WireModel
from tonleiter.app.spaces.wire.score import Score
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import Panel, replace_content
from tonleiter.core.gear.labels import label_of
from tonleiter.core.station import edits
from tonleiter.core.station.devices import Role
from tonleiter.core.station.shells import SHELLS, Face
from tonleiter.core.units.levels import format_dbu
from tonleiter.core.wiring.pinout import End

SIDE_PX, MOST_SIDE, TRAY_PX = 276, 0.28, 150
_FACES: tuple[tuple[Face, str], ...] = (("front", "the front"), ("solder-side", "solder side"))
_MARKS = {"stop": "■ STOP", "mind": "▲ MIND", "fine": "● FINE"}


class WireSpace(Space):
    """Solved when it is looked at."""

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self._look = context.look
        self.model = WireModel(context.document)
        self.model.refused.connect(self.refused)
        self.chains = Choice(self._look, "Chain", 280)
        self.parts_of = Choice(self._look, "Part of the chain", 320)
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.score = Score(self.model, self._look)
        self.side = Panel("inspector")
        self.tray = QScrollArea()
        self.face_buttons: dict[tuple[str, Face], QPushButton] = {}
        self.menu: QMenu | None = None
        self._arrange()
        self.model.changed.connect(self.refresh)
        self.model.lit_changed.connect(self._show_net)
        self.score.asked.connect(self.ask_role)
        self._look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = QFrame()
        header.setObjectName("header")
        row = QHBoxLayout(header)
        row.setContentsMargins(20, 8, 16, 8)
        for words, box in (("I wire", self.chains), ("from", self.parts_of)):
            row.addWidget(label(words, "plain"))
            row.addWidget(box)
        row.addStretch(1)
        self.chains.activated.connect(self._open_chain)
        self.parts_of.activated.connect(lambda k: self.model.show_span(k))
        center = QFrame()
        center.setObjectName("center")
        column = QVBoxLayout(center)
        column.setContentsMargins(20, 10, 14, 8)
        column.addWidget(self._says)
        column.addWidget(self._proves)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.score)
        column.addWidget(area, 1)
        column.addLayout(self._faces())
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(center, 1)
        middle.addWidget(self.side)
        self.tray.setObjectName("tray")
        self.tray.setWidgetResizable(True)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(header)
        whole.addLayout(middle, 1)
        whole.addWidget(self.tray)

    def _faces(self) -> QHBoxLayout:
        row = QHBoxLayout()
        for side in ("left", "right"):
            for face, words in _FACES:
                made = button(words, "plain", partial(self.model.turn, side, face))
                made.setAccessibleName(f"{words}, {side} plug")
                made.setCheckable(True)
                self.face_buttons[side, face] = made
                row.addWidget(made)
            if side == "left":
                row.addStretch(1)
        return row

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the build as it is now."""
        station, build = self.model.station, self.model.build
        current = station.chain().id if station.chains else ""
        self.chains.show_items([(c.name, c.id) for c in station.chains], current)
        self._size()
        self._show_findings()
        self._show_net()
        span = self.model.span
        if build is None or span is None:
            self._says.setText(self.model.trouble or "Nothing is wired here.")
            self._proves.setText("")
            return
        items = [(f"{s.left.name} to {s.right.name}", str(k)) for k, s in enumerate(build.spans)]
        self.parts_of.show_items(items, str(self.model.at % len(build.spans)))
        count = len(build.conductors)
        wrong = sum(f.severity == "stop" for f in self.model.findings)
        tail = "nothing to mend first" if not wrong else f"{wrong} to mend first"
        self._says.setText(f"{build.joints} joints to solder, {count} conductors; {tail}.")
        free = [x.contact.rpartition(".")[2] for x in build.leftovers]
        self._proves.setText(
            f"Contacts of the {build.ends[-1].name} that nothing uses: {', '.join(free)}."
            if free else "Press a conductor to see its net; press a free contact to say what it"
            " carries."
        )  # fmt: skip
        for (side, face), made in self.face_buttons.items():
            end = span.left if side == "left" else span.right
            made.setChecked(self.model.faces[side] == face)
            # a jack shows the same from both sides
            made.setVisible(not SHELLS[end.connector.shell].coaxial)

    def _size(self) -> None:
        self.side.setFixedWidth(
            max(min(self._look.px(SIDE_PX), int(self.width() * MOST_SIDE)), 200)
        )
        self.tray.setFixedHeight(min(self._look.px(TRAY_PX), max(self.height() // 4, 90)))

    def _show_net(self) -> None:
        """The net that is lit: its joints, its DC, its speech; then what stays free."""
        column = self.side.begin(spacing=6)
        net, build = self.model.net(), self.model.build
        if net is not None:
            column.addWidget(label(net.name, "title", wraps=True))
            column.addWidget(label(f"{len(net.contacts)} joints, lit on the score", "caption"))
            for contact in net.contacts:
                column.addWidget(label(contact, "figure", wraps=True))
            column.addWidget(label(f"DC  {net.dc_v:.2f} V".replace("-", "−"), "figure"))
            if net.speech_dbu is not None:
                column.addWidget(label(f"Speech  {format_dbu(net.speech_dbu)}", "figure"))
        elif build is not None:
            column.addWidget(label("Press a conductor", "title"))
            column.addWidget(
                label("Its whole net lights up: every joint of it, the DC and the speech on it.",
                      "sub", wraps=True)
            )  # fmt: skip
        if build is not None and build.leftovers:
            column.addWidget(label("Contacts not used", "section"))
            for left in build.leftovers:
                what = label_of(left.role)
                words = f"{left.contact.rpartition('.')[2]}, {what}: {left.do}"
                column.addWidget(label(words, "sub", wraps=True))
        if build is not None and build.parts:
            column.addWidget(label("Parts", "section"))
            for part in build.parts:
                column.addWidget(label(part.words(), "sub", wraps=True))
        self.side.finish(column)

    def _show_findings(self) -> None:
        body = QWidget()
        body.setObjectName("trayBody")
        row = QHBoxLayout(body)
        row.setContentsMargins(16, 8, 16, 8)
        row.setSpacing(12)
        for finding in self.model.findings:
            card = QFrame()
            card.setObjectName("card")
            column = QVBoxLayout(card)
            column.setContentsMargins(14, 8, 14, 8)
            column.setSpacing(2)
            column.addWidget(label(f"{_MARKS[finding.severity]} · {finding.place}", "section"))
            column.addWidget(label(finding.says, "title", wraps=True))
            column.addWidget(label(finding.proof, "caption", wraps=True))
            if finding.fix is not None:
                mend = partial(self.model.attempt, partial(self.model.mend, finding))
                column.addWidget(button(finding.remedy, "link", mend))
            elif finding.remedy:
                column.addWidget(label(finding.remedy, "caution", wraps=True))
            column.addStretch(1)
            row.addWidget(card, 1)
        if not self.model.findings:
            row.addWidget(label("Nothing was found wrong in this wiring.", "sub"))
        row.addStretch(0)
        replace_content(self.tray, body)

    # --- hands -----------------------------------------------------------------------------------

    def _open_chain(self) -> None:
        chain = self.chains.currentData()
        self.model.at = -1
        self.model.attempt(lambda: self.model.edit("chain", lambda s: edits.open_chain(s, chain)))

    def ask_role(self, end: End, contact: str) -> None:
        """What does this contact carry? Chosen from a list."""
        menu = QMenu(self)
        menu.setAccessibleName(f"What contact {contact} carries")
        now = next(c.role for c in end.connector.contacts if c.label == contact)
        for role in get_args(Role):
            action = menu.addAction(label_of(role))
            action.setCheckable(True)
            action.setChecked(role == now)
            action.triggered.connect(partial(self._set_role, end, contact, role))
        self.menu = menu
        at = QCursor.pos()
        menu.popup(at if not at.isNull() else self.mapToGlobal(QPoint(200, 200)))

    def _set_role(self, end: End, contact: str, role: Role, _: bool = False) -> None:
        self.model.attempt(lambda: self.model.set_role(end, contact, role))

    # --- what the window asks --------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The build is solved; the keyboard goes to the score."""
        self.model.arrive()
        self.score.setFocus(Qt.FocusReason.ShortcutFocusReason)

    @guarded
    def hideEvent(self, event: QHideEvent) -> None:
        """Out of sight nothing is solved."""
        super().hideEvent(event)
        self.model.leave()

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while the score is shown."""
        return (
            Action("Turn the right plug over", "T", lambda: self._turn("right")),
            Action("Turn the left plug over", "Shift+T", lambda: self._turn("left")),
        )

    def _turn(self, side: str) -> None:
        other: Face = "solder-side" if self.model.faces[side] == "front" else "front"
        self.model.turn(side, other)

    def hints(self) -> tuple[tuple[str, str], ...]:
        """Keys of the score itself."""
        return (("↑ ↓", "Light the nets up, one after the other"),)
