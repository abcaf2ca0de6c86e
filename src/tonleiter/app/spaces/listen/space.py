"""The Listen space: waves, spectra, what changed, a blind trial, what it sounds like."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.listen.beside import Beside
from tonleiter.app.spaces.listen.model import ListenModel
from tonleiter.app.spaces.listen.over_time import OverTime, Pictured
from tonleiter.app.spaces.listen.paper import KINDS, Given, report_bytes, report_document
from tonleiter.app.spaces.listen.pictures import Spectra
from tonleiter.app.spaces.listen.side_panel import SIDES, ListenPanel
from tonleiter.app.spaces.listen.slots import PLACES, Place
from tonleiter.app.spaces.space import Action, Badge, Context, WatchedSpace, gravest
from tonleiter.app.widgets.canvas.read_off import HINT
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.frames import card, sentence, share_px, stack
from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.printing import ask_print
from tonleiter.app.widgets.tray import Tray
from tonleiter.app.widgets.vector import a4
from tonleiter.core.listen.blind import Side
from tonleiter.core.listen.compare import Comparison
from tonleiter.core.station.disk import write_file
from tonleiter.core.words import sentence as as_sentence
from tonleiter.core.words import within

SHARE, LEAST_PX, MOST_PX, TRAY_SHARE = 0.38, 280, 500, 0.17
CARD_PX = (12, 6, 12, 6)
FILE, FAR, NEAR, NONE, RECORD = "file", "far", "near", "", "record"
KEPT, UNKEPT = "kept:", "unkept:"
MOST_LISTED, PLAYHEAD_MS = 40, 80
PICTURES: tuple[tuple[str, Pictured], ...] = (
    ("waves", "wave"),
    ("levels", "level"),
    ("spectra", "spectrum"),
)


class ListenSpace(WatchedSpace):
    """Recordings are read when they are put there; nothing is recorded or kept by itself."""

    model: ListenModel

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = self._look = context.look
        self.model = ListenModel(context.document, context.jobs, context.verdicts)
        self.model.setParent(self)
        self.model.refused.connect(self.refused)
        self.choices = {side: Choice(look, f"Recording {side}", 260) for side in SIDES}
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.waves = {"A": OverTime(look, "other"), "B": OverTime(look, "signal")}
        self._names: dict[Side, QLabel] = {s: label("", "step", wraps=True) for s in SIDES}
        self._facts: dict[Side, QLabel] = {s: label("", "caption") for s in SIDES}
        self.spectrum = Spectra(look)
        self.beside = Beside(self.model, look)
        self.beside.one_more.chosen.connect(self._one_more)
        self.pictured = Choice(look, "Picture over time", 150)
        self.pictured.show_items([*PICTURES], "wave")
        self.pictured.chosen.connect(lambda _: self._picture(self.pictured.currentData()))
        self._clock = QTimer(self)
        self._clock.setInterval(PLAYHEAD_MS)
        self._clock.timeout.connect(self._show_playing)
        self.panel = ListenPanel(self.model, look, self.ask_report, self.ask_print)
        self.tray = Tray(self.model, look, context.asking.ask)
        self._arrange()
        self.model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = sentence((("I compare", self.choices["A"]), ("with", self.choices["B"])))
        self._alike = label("", "sub")
        row = header.layout()
        assert isinstance(row, QHBoxLayout)
        row.insertWidget(row.count() - 1, self._alike)
        row.insertWidget(row.count() - 1, label("seen as", "plain"))
        row.insertWidget(row.count() - 1, self.pictured)
        for side in SIDES:
            self.choices[side].chosen.connect(lambda _, s=side: self._chosen(s))
        center = QWidget()
        center.setObjectName("center")
        column = QVBoxLayout(center)
        column.setContentsMargins(20, 10, 14, 8)
        column.setSpacing(8)
        column.addWidget(self._says)
        column.addWidget(self._proves)
        for side in SIDES:
            column.addWidget(self._card(side), 2)
        frame, inside = card(CARD_PX, 2)
        top = QHBoxLayout()
        top.addWidget(label("Long-term spectrum, levels aligned", "step", wraps=True), 1)
        top.addWidget(self.beside.one_more)
        top.addWidget(label("shaded: average speech", "caption"))
        inside.addLayout(top)
        inside.addWidget(self.spectrum, 1)
        inside.addWidget(self.beside)
        column.addWidget(frame, 4)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(center)
        middle.addWidget(area, 1)
        middle.addWidget(self.panel)
        stack(self, header, middle, self.tray)

    def _card(self, side: Side) -> QFrame:
        frame, inside = card(CARD_PX, 2)
        top = QHBoxLayout()
        top.addWidget(self._names[side], 1)
        top.addWidget(self._facts[side])
        inside.addLayout(top)
        inside.addWidget(self.waves[side], 1)
        self.waves[side].pressed.connect(lambda at, s=side: self.model.player.play(s, at))
        return frame

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Figures take a share."""
        super().resizeEvent(event)
        self._fit()

    def _picture(self, pictured: Pictured) -> None:
        for wave in self.waves.values():
            wave.show_as(pictured)

    def _show_playing(self) -> None:
        """Where it plays; of a blind trial nothing is shown."""
        model, player = self.model, self.model.player
        for side in SIDES:
            self.waves[side].show_at(player.at_s() if player.plays == side else None)
            if model.slots.busy(side):
                self._names[side].setText(f"{side}  {self._reads(side)}")
        playing = player.plays in SIDES and player.at_s() is not None
        if not playing and not any(model.slots.busy(s) for s in SIDES):
            self._clock.stop()

    def _reads(self, side: Place) -> str:
        share = self.model.slots.share(side)
        return f"it is being read, {100 * share:.0f} %" if share else "it is being read…"

    def _fit(self) -> None:
        most = self._look.px(MOST_PX)
        self.panel.setFixedWidth(share_px(self.width(), SHARE, LEAST_PX, most))
        self.tray.limit(round(TRAY_SHARE * self.height()))

    # --- choosing --------------------------------------------------------------------------------

    def _chosen(self, side: Side) -> None:
        self._take(side, self.choices[side].currentData())

    def _one_more(self) -> None:
        what, free = self.beside.one_more.currentData(), self.model.next_free()
        if free is not None:
            self._take(free, what)

    def _take(self, side: Place, what: object) -> None:
        if what == FILE:
            self.ask_file(side)
        elif what in (FAR, NEAR):
            self.model.take_simulated(side, far=what == FAR)
        elif what == RECORD:
            self.model.record(side)
        elif str(what).startswith(KEPT):
            self.model.take_kept(side, str(what).removeprefix(KEPT))
        elif str(what).startswith(UNKEPT):
            self.model.take_unkept(side, str(what).removeprefix(UNKEPT))
        self.refresh()

    def ask_file(self, side: Place) -> None:
        """Ask for a recording."""
        name, _ = QFileDialog.getOpenFileName(
            self, f"Recording {side}", "", "Sound (*.wav *.flac *.ogg)"
        )
        if name:
            self.model.take(side, Path(name))

    def _reported(self) -> tuple[Given, dict[Place, Comparison]]:
        """What a report tells: those that are there, and those held against the first."""
        given = [(s, t) for s in PLACES if (t := self.model.slots.at(s)) is not None]
        return given, {s: c for s, _ in given if (c := self.model.against_a(s)) is not None}

    def ask_print(self) -> None:
        """Show the report as it will lie on the paper; from there it is printed."""
        given, made = self._reported()
        if given:
            document = report_document(given, made)
            self.model.attempt(lambda: ask_print("Recordings", a4(), document.print_, self))

    def ask_report(self) -> None:
        """Ask where a report goes; its ending says of which kind it is."""
        given, made = self._reported()
        name, _ = QFileDialog.getSaveFileName(self, "Save a report", "recordings.pdf", KINDS)
        if name and given:
            self.model.attempt(
                lambda: write_file(Path(name), report_bytes(Path(name), given, made))
            )

    def take_files(self, files: Sequence[Path]) -> None:
        """One or more recordings."""
        self.model.drop(files)

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Everything."""
        self._fit()
        model = self.model
        items = self._sources()
        for side in SIDES:
            taken, busy = model.slots.at(side), model.slots.busy(side)
            name = self._reads(side) if busy else taken.name if taken else "nothing yet"
            self.choices[side].show_items([(name, NONE), *items], NONE)
            self._names[side].setText(f"{side}  {name}")
            facts = ""
            if taken is not None:
                s = taken.measures.survey
                facts = f"{s.seconds:.1f} s · {s.rate_hz} Hz"
                kept = taken.kept if model.kept.is_kept(side) else None
                if kept is not None and (lacks := kept.missing()):
                    facts += f" · nobody said {lacks[0]}"
                if s.remarks:
                    facts += " · with remarks"
                    self._facts[side].setToolTip("; ".join(s.remarks))
            self._facts[side].setText(facts)
            self.waves[side].show_taken(taken, name)
        self.beside.show_now([("one more beside them…", NONE), *items])
        there = {p: t.measures for p in PLACES if (t := model.slots.at(p)) is not None}
        self.spectrum.show_all(there, model.comparison)
        if model.player.plays in SIDES or any(model.slots.busy(s) for s in SIDES):
            self._clock.start()
        self._say()
        self.panel.show_now()
        self.tray.refresh()
        # nothing to say: the recordings have the room
        self.tray.setVisible(bool(self.tray.cards))
        self.badge_changed.emit()

    def _sources(self) -> list[tuple[str, str]]:
        """Where one can come from."""
        files, gone = self.model.kept.unkept()
        return [
            ("a file…", FILE),
            ("recorded now, from this computer", RECORD),
            ("the open chain, far away", FAR),
            ("the open chain, dummy load", NEAR),
            *(
                (f"{r.name}, {r.day}{' (its file is gone)' * (r.name in gone)}", KEPT + r.id)
                for r in self.model.records.recordings[-MOST_LISTED:]
            ),
            *((f"not kept: {Path(f).stem}", UNKEPT + f) for f in files[-MOST_LISTED:]),
        ]

    def _say(self) -> None:
        model, made = self.model, self.model.comparison
        a, b = (model.slots.at(s) for s in SIDES)
        self._alike.setText("")
        if made is not None:
            self._says.setText(made.headline())
            same = made.aligned.same_words
            self._alike.setText("same words" if same else "other words")
            said = (
                "The same words: they are played at the same place, levels aligned."
                if same
                else "Other words: only what holds over all of it is compared, and speech differs"
                " by some decibels from sentence to sentence."
            )
            if off := model.unfair():
                said += f" Is it fair? {as_sentence(off[0])}."
            self._proves.setText(said)
            return
        only = b or a
        if only is not None:
            self._says.setText(only.sounds())
            self._proves.setText(
                "Put another one beside it to compare: before and after, or two microphones."
            )
            return
        busy = any(model.slots.busy(s) for s in SIDES)
        self._says.setText(
            "The recording is being gone through…"
            if busy
            else "Drop recordings here, one or more: of your signal, not of your microphone."
        )
        self._proves.setText(
            "From the radio's monitor, a second receiver beside the dummy load, a far one, or a"
            " friend; WAV, FLAC or OGG. Or listen to the open chain, simulated."
        )

    # --- what the window asks --------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The keyboard goes to the first choice."""
        self.model.arrive()
        self.choices["A"].setFocus(Qt.FocusReason.ShortcutFocusReason)

    def badge(self) -> Badge | None:
        """What of the recordings is to be minded."""
        return gravest(self.model.found())

    def hints(self) -> tuple[tuple[str, str], ...]:
        """What the pictures over time understand."""
        return (
            ("Wheel", "zoom a picture over time"),
            ("Shift+Wheel", "move on in it"),
            (HINT[0], f"In the spectra: {within(HINT[1])}"),
        )

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while it is shown."""
        return (
            *(Action(f"Play {p}", p, partial(self.model.player.play, p)) for p in PLACES),
            Action("The next one, at the same word", "Space", self.model.player.other),
            Action("Play X of a blind trial", "X", self.model.blind.play_x),
            Action("Print the report", "Ctrl+P", self.ask_print),
            Action("X is A", "Shift+A", partial(self.model.blind.answer, "A")),
            Action("X is B", "Shift+B", partial(self.model.blind.answer, "B")),
        )
