"""The Wire space: header, score, the inspector of a net, what was found, the sheet for the iron."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.space import Action, Badge, Context, WatchedSpace, gravest
from tonleiter.app.spaces.wire.inspector import Inspector
from tonleiter.app.spaces.wire.model import WireModel
from tonleiter.app.spaces.wire.score import ScoreView
from tonleiter.app.spaces.wire.sheet_window import SheetWindow
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.frames import sentence, stack
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.tray import Tray
from tonleiter.core.gear.labels import label_of_way
from tonleiter.core.judge.wiring.schools import SHORT, follow, possible, school_now
from tonleiter.core.report.wiring import parts_csv
from tonleiter.core.station.disk import write_file
from tonleiter.core.station.pinout import End
from tonleiter.core.station.pinout_files import read_pinout, write_pinout
from tonleiter.core.station.shells import Face
from tonleiter.core.station.transmit import ways_for
from tonleiter.core.wiring.model import Build
from tonleiter.core.words import count_of, the

SIDE_PX, MOST_SIDE, LEAST_SIDE_PX, TRAY_SHARE = 276, 0.3, 228, 0.27
BESIDE_PX, ROOMY_PX = 620, 590


class WireSpace(WatchedSpace):
    """Solved when it is looked at."""

    model: WireModel

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self._look = context.look
        self.model = WireModel(context.document, context.jobs, context.verdicts)
        self.model.setParent(self)  # it ends with its space: a signal keeps what it tells alive
        self.model.refused.connect(self.refused)
        self.model.grounds_wanted.connect(lambda: self.wanted.emit("gear", "grounds"))
        self.model.pinout_wanted.connect(self.ask_pinout)
        self.chains = Choice(self._look, "Chain", 210)
        self.parts_of = Choice(self._look, "Part of the chain", 250)
        self.school = Choice(self._look, "How it is coupled", 150)
        self.transmit = Choice(self._look, "How it transmits", 170)
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.score = ScoreView(self.model, self._look)
        self.side = Inspector(self.model, self._look)
        self.tray = Tray(self.model, self._look, context.asking.ask)
        self.face_buttons = self.score.face_buttons
        self.sheet: SheetWindow | None = None
        self._arrange()
        self.model.changed.connect(self.refresh)
        # what meets in its plugs is known a moment later
        self.model.schools_changed.connect(self._say_more)
        self.model.changed.connect(self.badge_changed)
        self._look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = sentence(
            (
                ("I wire", self.chains),
                ("from", self.parts_of),
                ("coupled", self.school),
                ("transmit by", self.transmit),
            )
        )
        self.chains.chosen.connect(self._open_chain)
        self.parts_of.chosen.connect(lambda k: self.model.show_span(k))
        self.school.chosen.connect(self._couple)
        self.transmit.chosen.connect(self._transmit_by)
        words_column = QVBoxLayout()
        words_column.setSpacing(2)
        words_column.addWidget(self._says)
        words_column.addWidget(self._proves)
        self._buttons = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._buttons.setSpacing(6)
        for title, do in (("Sheet  S", self.open_sheet), ("Parts…", self.ask_parts)):
            self._buttons.addWidget(button(title, "plain", do), 0, Qt.AlignmentFlag.AlignTop)
        top = QHBoxLayout()
        top.addLayout(words_column, 1)
        top.addLayout(self._buttons)
        center = QFrame()
        center.setObjectName("center")
        column = QVBoxLayout(center)
        column.setContentsMargins(20, 10, 14, 8)
        column.addLayout(top)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.score)
        column.addWidget(area, 1)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(center, 1)
        middle.addWidget(self.side)
        stack(self, header, middle, self.tray)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Tray, inspector and the second sentence give way before the score does."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        wide, high, look = self.width(), self.height(), self._look
        self.tray.limit(round(TRAY_SHARE * high))
        side = max(look.px(LEAST_SIDE_PX), min(look.px(SIDE_PX), round(MOST_SIDE * wide)))
        self.side.setFixedWidth(min(side, max(round(0.36 * wide), 200)))
        beside = wide - self.side.width() >= look.px(BESIDE_PX)
        self._buttons.setDirection(
            QBoxLayout.Direction.LeftToRight if beside else QBoxLayout.Direction.TopToBottom
        )
        self._proves.setVisible(high >= look.px(ROOMY_PX))

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the build as it is now."""
        station, build, found = self.model.station, self.model.build, self.model.verdict
        current = station.chain().id if station.chains else ""
        self.chains.show_items([(c.name, c.id) for c in station.chains], current)
        self._fit()
        span = self.model.span
        for choice in (self.parts_of, self.school, self.transmit):
            choice.setEnabled(span is not None)
        if build is None or span is None or found is None:
            self._says.setText(self.model.trouble or "Nothing is wired here.")
            self._proves.setText("")
            return
        items = [(f"{s.left.name} to {s.right.name}", str(k)) for k, s in enumerate(build.spans)]
        self.parts_of.show_items(items, str(self.model.place))
        schools = possible(found, self.model.place)
        now = school_now(found, self.model.place)
        self.school.show_items([(SHORT[s], s) for s in schools], now)
        stages = found.assessment.solution.compiled.stages
        ways = ways_for(stages[0].gear, stages[-1].gear)
        way = build.keying.way if build.keying is not None else ""
        listed = [(label_of_way(w), w) for w in dict.fromkeys((*ways, *((way,) if way else ())))]
        self.transmit.show_items(listed or [("nothing: it only listens", "")], way)
        self._says.setText(self.headline())
        self._say_more()

    def headline(self) -> str:
        """How much there is to solder, and whether something must be mended first."""
        build = self.model.build
        assert build is not None
        found = self.model.found()
        wrong, minds = (sum(f.severity == k for f in found) for k in ("stop", "mind"))
        tail = (
            f"{count_of(wrong, 'thing')} to mend first"
            if wrong
            else f"{count_of(minds, 'thing')} to mind"
            if minds
            else "nothing to mend first"
        )
        joints, wires = build.joints_in(self.model.place), len(build.wires_in(self.model.place))
        return f"{count_of(joints, 'joint')} to solder, {count_of(wires, 'wire')}; {tail}."

    def _say_more(self) -> None:
        if self.model.build is not None:
            self._proves.setText(self._second_line(self.model.build))

    def _second_line(self, build: Build) -> str:
        found = self.model.found()
        grave = next((f for f in found if f.severity != "fine"), None)
        if grave is not None:
            return f"{grave.says}."
        taken = {at for t in self.model.together for at in t.contacts}
        free = [x.contact for x in build.leftovers if x.contact not in taken]
        said = [
            f"{', '.join(at.label for at in free if at.thing == end.id)} of {the(end.name)}"
            for end in build.ends
            if any(at.thing == end.id for at in free)
        ]
        if said:
            return f"Contacts without a wire: {'; '.join(said)}."
        return "Press a wire to see its net; press a contact to say what it carries."

    def badge(self) -> Badge | None:
        """The gravest findings of the build, once it was looked at."""
        return gravest(self.model.found()) if self.model.is_of_now else None

    # --- hands -----------------------------------------------------------------------------------

    def _open_chain(self) -> None:
        chain = self.chains.currentData()
        self.model.at = -1
        self.model.open_chain(chain)

    def _couple(self) -> None:
        found, wanted = self.model.verdict, self.school.currentData()
        if found is None or wanted == school_now(found, self.model.place):
            return
        place = self.model.place
        if not self.model.attempt(
            lambda: self.model.edit(f"coupled: {SHORT[wanted]}", follow(found, place, wanted))
        ):
            self.refresh()

    def _transmit_by(self) -> None:
        way = self.transmit.currentData()
        if not way or not self.model.attempt(
            lambda: self.model.set_wiring("transmit", transmit=way)
        ):
            self.refresh()

    def open_sheet(self) -> None:
        """The sheet to take to the iron, to be looked at, saved and printed."""
        if self.model.verdict is None or self.model.span is None:
            self.sheet = None
            self.refused.emit("there is no build to make a sheet of yet")
            return
        self.sheet = SheetWindow(self.model.verdict, self.model.station, self._look, self)
        self.sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.sheet.show()

    def print_sheet(self) -> None:
        """The sheet as it will lie on the paper."""
        self.open_sheet()
        if self.sheet is not None:
            self.sheet.ask_print()

    def ask_parts(self) -> None:
        """Ask where the parts list goes."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the parts list", "parts.csv", "Tables (*.csv)"
        )
        if name:
            self.model.attempt(lambda: self.save_parts(Path(name)))

    def save_parts(self, file: Path) -> None:
        """Write the parts list. Raises FileError."""
        build = self.model.build
        if build is not None:
            write_file(file, parts_csv(build.parts, self.model.station.drawer).encode())

    def ask_pinout(self, end: End, way: str) -> None:
        """Ask for the file of a pinout, to be read or written."""
        kinds = "Pinouts (*.json)"
        if way == "in":
            name, _ = QFileDialog.getOpenFileName(self, "Read a pinout", "", kinds)
        else:
            usual = f"{end.connector.name}.pinout.json"
            name, _ = QFileDialog.getSaveFileName(self, "Write the pinout", usual, kinds)
        if name:
            self.model.attempt(partial(self.pinout, end, way, Path(name)))

    def pinout(self, end: End, way: str, file: Path) -> None:
        """Read a pinout into a connector, or write it. Raises FileError."""
        if way == "out":
            write_pinout(end.connector, file)
            return
        read = read_pinout(file)
        self.model.set_connector(
            end, shell=read.shell, contacts=read.contacts, basis=read.basis, read_on=read.read_on
        )

    # --- what the window asks --------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The build is solved; the keyboard goes to the score. ``word`` is a part to light up."""
        self.model.arrive()
        build = self.model.build
        net = (
            next(
                (n.name for n in build.nets if any(c.thing == word for c in n.contacts)),
                "",
            )
            if word and build
            else ""
        )
        if net and self.model.lit != net:
            self.model.light(net)
        self.score.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while the score is shown."""
        return (
            Action("The sheet for the iron", "S", self.open_sheet),
            Action("Print the sheet", "Ctrl+P", self.print_sheet),
            Action("Turn the right plug over", "T", lambda: self._turn("right")),
            Action("Turn the left plug over", "Shift+T", lambda: self._turn("left")),
            Action("Go to the remedies", "F", self.focus_findings),
        )

    def focus_findings(self) -> None:
        """Put the keyboard on the first remedy."""
        found = self.tray.first_remedy()
        if found is not None:
            found.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _turn(self, side: str) -> None:
        other: Face = "solder-side" if self.model.faces[side] == "front" else "front"
        self.model.turn(side, other)

    def hints(self) -> tuple[tuple[str, str], ...]:
        """Keys of the score itself."""
        return (
            ("↑ ↓", "Light the nets up, one after the other"),
            ("← →", "Go from contact to contact"),
            ("Drag a wire's end", "Solder it to another contact"),
            ("Esc", "Put the light out"),
        )
