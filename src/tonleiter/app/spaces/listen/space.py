"""The Listen space: two waves, both spectra, what changed, a blind trial, what it sounds like."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.listen.model import ListenModel
from tonleiter.app.spaces.listen.paper import KINDS, report_bytes
from tonleiter.app.spaces.listen.pictures import SpectrumOfBoth, WaveView
from tonleiter.app.spaces.listen.recorder import FULL_DBFS
from tonleiter.app.spaces.space import Action, Badge, Context, WatchedSpace, gravest
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.frames import card, sentence, share_px, stack
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import Panel
from tonleiter.app.widgets.text_field import TextField
from tonleiter.app.widgets.tray import Tray
from tonleiter.core.listen.blind import Side
from tonleiter.core.listen.measures import Told
from tonleiter.core.listen.words import heard
from tonleiter.core.report.promised import said
from tonleiter.core.safety.cautions import CAUTIONS
from tonleiter.core.station.disk import write_file
from tonleiter.core.station.recording import TAKEN_WORDS
from tonleiter.core.units.levels import signed
from tonleiter.core.words import sentence as as_sentence

SHARE, LEAST_PX, MOST_PX, TRAY_SHARE = 0.38, 280, 500, 0.17
CARD_PX = (12, 6, 12, 6)
SIDES: tuple[Side, ...] = ("A", "B")
FILE, FAR, NEAR, NONE, RECORD = "file", "far", "near", "", "record"
KEPT, UNKEPT = "kept:", "unkept:"
MOST_LISTED = 40
SOUNDS = (".wav", ".flac", ".ogg")


class ListenSpace(WatchedSpace):
    """Recordings are read when they are put there; nothing is recorded or kept by itself."""

    model: ListenModel

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = self._look = context.look
        self.model = ListenModel(context.document, context.jobs, context.verdicts)
        self.model.setParent(self)
        self.model.refused.connect(self.refused)
        self.setAcceptDrops(True)
        self.choices = {side: Choice(look, f"Recording {side}", 260) for side in SIDES}
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.waves = {"A": WaveView(look, "other"), "B": WaveView(look, "signal")}
        self._names: dict[Side, QLabel] = {s: label("", "step", wraps=True) for s in SIDES}
        self._facts: dict[Side, QLabel] = {s: label("", "caption") for s in SIDES}
        self.spectrum = SpectrumOfBoth(look)
        self.panel = Panel("inspector")
        self.tray = Tray(self.model, look)
        self._level: QLabel | None = None
        self._built_for: object = None
        self._arrange()
        self.model.changed.connect(self.refresh)
        self.model.recorder.level.connect(self._show_level)
        look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = sentence((("I compare", self.choices["A"]), ("with", self.choices["B"])))
        self._alike = label("", "sub")
        row = header.layout()
        assert isinstance(row, QHBoxLayout)
        row.insertWidget(row.count() - 1, self._alike)
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
        top.addWidget(label("shaded: average speech", "caption"))
        inside.addLayout(top)
        inside.addWidget(self.spectrum, 1)
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
        self.waves[side].pressed.connect(lambda at, s=side: self.model.play(s, at))
        return frame

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """Figures take a share."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        most = self._look.px(MOST_PX)
        self.panel.setFixedWidth(share_px(self.width(), SHARE, LEAST_PX, most))
        self.tray.limit(round(TRAY_SHARE * self.height()))

    # --- choosing --------------------------------------------------------------------------------

    def _chosen(self, side: Side) -> None:
        what = self.choices[side].currentData()
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

    def ask_file(self, side: Side) -> None:
        """Ask for a recording."""
        name, _ = QFileDialog.getOpenFileName(
            self, f"Recording {side}", "", "Sound (*.wav *.flac *.ogg)"
        )
        if name:
            self.model.take(side, Path(name))

    def ask_report(self) -> None:
        """Ask where a report goes; its ending says of which kind it is."""
        given = [(s, t) for s in SIDES if (t := self.model.slots.at(s)) is not None]
        name, _ = QFileDialog.getSaveFileName(self, "Save a report", "recordings.pdf", KINDS)
        if name and given:
            made = self.model.comparison
            self.model.attempt(
                lambda: write_file(Path(name), report_bytes(Path(name), given, made))
            )

    @guarded
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files of sound."""
        if self._dropped(event):
            event.acceptProposedAction()

    @guarded
    def dropEvent(self, event: QDropEvent) -> None:
        """One or two of them."""
        if paths := self._dropped(event):
            self.model.drop(paths[:2])
            event.acceptProposedAction()

    @staticmethod
    def _dropped(event: QDropEvent) -> list[Path]:
        urls = event.mimeData().urls()
        paths = [Path(u.toLocalFile()) for u in urls if u.isLocalFile()]
        return [p for p in paths if p.suffix.lower() in SOUNDS]

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Everything."""
        self._fit()
        model = self.model
        files, gone = model.unkept()
        for side in SIDES:
            taken, busy = model.slots.at(side), model.slots.busy(side)
            items = [
                ("a file…", FILE),
                ("recorded now, from this computer", RECORD),
                ("the open chain, far away", FAR),
                ("the open chain, dummy load", NEAR),
                *(
                    (f"{r.name}, {r.day}{' (its file is gone)' * (r.name in gone)}", KEPT + r.id)
                    for r in model.records.recordings[-MOST_LISTED:]
                ),
                *((f"not kept: {Path(f).stem}", UNKEPT + f) for f in files[-MOST_LISTED:]),
            ]
            name = "it is being read…" if busy else taken.name if taken else "nothing yet"
            self.choices[side].show_items([(name, NONE), *items], NONE)
            self._names[side].setText(f"{side}  {name}")
            facts = ""
            if taken is not None:
                s = taken.measures.survey
                facts = f"{s.seconds:.1f} s · {s.rate_hz} Hz"
                kept = taken.kept if model.is_kept(side) else None
                if kept is not None and (lacks := kept.missing()):
                    facts += f" · nobody said {lacks[0]}"
                if s.remarks:
                    facts += " · with remarks"
                    self._facts[side].setToolTip("; ".join(s.remarks))
            self._facts[side].setText(facts)
            self.waves[side].show_taken(taken, name)
        a, b = (model.slots.at(s) for s in SIDES)
        made = model.comparison
        self.spectrum.show_both(a.measures if a else None, b.measures if b else None, made)
        self._say()
        self._show_panel()
        self.tray.refresh()
        self.badge_changed.emit()

    def _say(self) -> None:
        model, made = self.model, self.model.comparison
        a, b = (model.slots.at(s) for s in SIDES)
        self._alike.setText("")
        if made is not None:
            self._says.setText(made.headline())
            same = made.aligned.same_words
            self._alike.setText("same words" if same else "other words")
            self._proves.setText(
                "The same words: they are played at the same place, levels aligned."
                if same
                else "Other words: only what holds over all of it is compared, and speech differs"
                " by some decibels from sentence to sentence."
            )
            return
        only = b or a
        if only is not None:
            found = heard(only.measures)
            words = ", ".join(h.says for h in found)
            why = only.measures.silent or only.measures.level.why
            self._says.setText(f"It sounds {words}." if words else f"Nothing can be told: {why}.")
            self._proves.setText(
                "Put another one beside it to compare: before and after, or two microphones."
            )
            return
        busy = any(model.slots.busy(s) for s in SIDES)
        self._says.setText(
            "The recording is being gone through…"
            if busy
            else "Drop one or two recordings here: of your signal, not of your microphone."
        )
        self._proves.setText(
            "From the radio's monitor, a second receiver beside the dummy load, a far one, or a"
            " friend; WAV, FLAC or OGG. Or listen to the open chain, simulated."
        )

    def _show_panel(self) -> None:
        model, made = self.model, self.model.comparison
        key = (
            id(made), id(model.slots.at("A")), id(model.slots.at("B")), model.plays,
            model.is_kept("A"), model.is_kept("B"), model.promised("A"), model.promised("B"),
            model.recorder.does, model.recorder.side, model.recorder.device,
            model.trials.given if model.trials else None, model.trials is None, model.aligned,
            self._look.scale, self._look.palette.name, self.panel.width(),
        )  # fmt: skip
        if key == self._built_for:
            return
        self._built_for = key
        column = self.panel.begin(spacing=6)
        self._level = None
        if model.recorder.does != "nothing":
            self._recording(column)
        column.addWidget(label("What changed" if made is not None else "What it measures", "title"))
        column.addLayout(self._table())
        self._as_promised(column)
        self._playing(column)
        self._blind(column)
        self._keeping(column)
        self.panel.finish(column)

    def _table(self) -> QGridLayout:
        model, made = self.model, self.model.comparison
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(3)
        for k, side in enumerate(SIDES):
            grid.addWidget(label(side, "section"), 0, 1 + k, Qt.AlignmentFlag.AlignRight)
        rows: list[tuple[str, str, Told | None, Told | None, bool]] = []
        if made is not None:
            rows = [(c.title, c.unit, c.one, c.other, c.clear) for c in made.changes]
        else:
            only = model.slots.at("B") or model.slots.at("A")
            first = model.slots.at("B") is None
            if only is not None:
                m = only.measures
                singles = (("Speech level", "dBFS", m.level), ("Peak", "dBFS", m.peak),
                        ("Speech over noise", "dB", m.over_noise), ("Bass", "dB", m.low),
                        ("Treble", "dB", m.high), ("Crest", "dB", m.crest),
                        ("Lower edge, −6 dB", "Hz", m.edge(6, upper=False)),
                        ("Upper edge, −6 dB", "Hz", m.edge(6, upper=True)))  # fmt: skip
                rows = [(t, u, x if first else None, None if first else x, False)
                        for t, u, x in singles]  # fmt: skip
        for r, (title, unit, one, other, clear) in enumerate(rows, 1):
            grid.addWidget(
                label(f"{title}, {unit}", "step" if clear else "plain", wraps=True), r, 0
            )
            for k, told in enumerate((one, other)):
                shown = label(_figure(told, unit), "figure")
                if told is not None:
                    shown.setToolTip(told.why or f"± {told.sure:.2g} {unit}")
                grid.addWidget(shown, r, 1 + k, Qt.AlignmentFlag.AlignRight)
        grid.setColumnStretch(0, 1)
        return grid

    def _recording(self, column: QVBoxLayout) -> None:
        """What comes in, and the two keys of a recorder."""
        recorder = self.model.recorder
        records = recorder.does == "records"
        title = f"{'Recording' if records else 'Ready to record'} into {recorder.side}"
        column.addWidget(label(title, "title", wraps=True))
        if records:
            column.addWidget(label(recorder.device.name, "sub", wraps=True))
        else:
            inputs = Choice(self._look, "Record from", 300)
            names = [(d.name, d.id) for d in recorder.inputs()]
            inputs.show_items(names, recorder.device.id)
            inputs.chosen.connect(lambda _: recorder.listen_to(str(inputs.currentData())))
            column.addWidget(inputs)
        self._level = label("nothing yet", "figure", wraps=True)
        column.addWidget(self._level)
        flow = Flow(gap_px=8)
        if records:
            flow.addWidget(button(f"Stop, put it into {recorder.side}", "primary", recorder.finish))
        else:
            flow.addWidget(button("Record", "primary", recorder.begin))
        flow.addWidget(button("Leave it", "plain", recorder.leave))
        column.addLayout(flow)
        column.addWidget(
            label("Peaks from −20 to −6 dBFS; ten minutes at most.", "caption", wraps=True)
        )

    def _show_level(self, rms_dbfs: float, peak_dbfs: float) -> None:
        if self._level is None:
            return
        recorder = self.model.recorder
        long = f"{recorder.seconds:.0f} s, " if recorder.does == "records" else ""
        said = f"{long}{signed(rms_dbfs)} dBFS, peaks {signed(peak_dbfs)}"
        if recorder.full:
            said += ": it has been at FULL SCALE, turn it down and begin again"
        elif peak_dbfs > FULL_DBFS:
            said += ": FULL SCALE, turn it down"
        self._level.setText(said)
        self._level.setProperty("role", "wrong" if "FULL" in said else "figure")
        self._level.style().polish(self._level)

    def _playing(self, column: QVBoxLayout) -> None:
        model = self.model
        if all(model.slots.at(s) is None for s in SIDES):
            return
        column.addWidget(label("Listen", "section"))
        flow = Flow(gap_px=8)
        for side in SIDES:
            if model.slots.at(side) is not None:
                role = "primary" if model.plays == side else "plain"
                flow.addWidget(button(f"▶ {side}", role, partial(model.play, side)))
        if all(model.slots.at(s) is not None for s in SIDES):
            flow.addWidget(button("The other one, here", "plain", model.other))
            flow.addWidget(button("Change places", "plain", model.swap))
        flow.addWidget(button("Stop", "plain", self._stop))
        flow.addWidget(button("Save a report…", "plain", self.ask_report))
        column.addLayout(flow)
        tick = QCheckBox("levels aligned")
        tick.setAccessibleName("levels aligned")
        tick.setChecked(model.aligned)
        tick.clicked.connect(self._align)
        column.addWidget(tick)
        column.addWidget(label(f"⚠ {CAUTIONS['hearing']}", "caution", wraps=True))

    def _as_promised(self, column: QVBoxLayout) -> None:
        """What the open chain promises, beside what the recording shows."""
        model = self.model
        for side in reversed(SIDES):
            if made := model.promised(side):
                column.addWidget(label(f"{side}, as the chain predicted?", "section", wraps=True))
                column.addWidget(label(said(made), "sub", wraps=True))

    def _keeping(self, column: QVBoxLayout) -> None:
        """Keep one with the station, with what it is of."""
        model = self.model
        there = [s for s in SIDES if model.slots.at(s) is not None and not model.is_kept(s)]
        if not there:
            return
        column.addWidget(label("Keep with the station", "section"))
        how = Choice(self._look, "How it was recorded", 220)
        items = [("how it was recorded…", ""), *((w, k) for k, w in TAKEN_WORDS.items())]
        how.show_items(items, "")
        slate = TextField("", "Slate: what was set", model.document.drafts, ("listen", "slate"))
        slate.setPlaceholderText("what was set, as a slate: after drilling, gain 64")
        slate.setMaxLength(80)
        column.addWidget(how)
        column.addWidget(slate)
        flow = Flow(gap_px=8)
        for side in there:
            flow.addWidget(button(f"Keep {side}", "plain", self._keeper(side, how, slate)))
            if model.lies_unkept(side) is not None:
                away = button(f"Throw {side} away", "plain", partial(model.throw_away, side))
                flow.addWidget(away)
        column.addLayout(flow)
        what = "Of the open chain as it stands, its voice, distance, power; undone like an edit."
        column.addWidget(label(what, "caption", wraps=True))

    def _keeper(self, side: Side, how: Choice, slate: TextField) -> Callable[[], None]:
        return lambda: self.model.keep(side, how.currentData() or None, slate.text())

    def _align(self, on: bool) -> None:
        self.model.aligned = on
        self.refresh()

    def _stop(self) -> None:
        self.model.silence()
        self.refresh()

    def _blind(self, column: QVBoxLayout) -> None:
        model = self.model
        if any(model.slots.at(s) is None for s in SIDES):
            return
        column.addWidget(label("Blind, nobody told which is which", "section", wraps=True))
        trials = model.trials
        flow = Flow(gap_px=8)
        if trials is None:
            flow.addWidget(button("Begin a trial", "plain", model.begin_trial))
        else:
            flow.addWidget(button("▶ X", "primary", model.play_x))
            for side in SIDES:
                flow.addWidget(button(f"X is {side}", "plain", partial(model.answer, side)))
            flow.addWidget(button("Begin anew", "plain", model.begin_trial))
        column.addLayout(flow)
        if trials is not None:
            given = " ".join(trials.given) or "no answer yet"
            column.addWidget(label(given, "figure", wraps=True))
            column.addWidget(label(f"{as_sentence(trials.said())}.", "sub", wraps=True))

    # --- what the window asks --------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The keyboard goes to the first choice."""
        self.model.arrive()
        self.choices["A"].setFocus(Qt.FocusReason.ShortcutFocusReason)

    def badge(self) -> Badge | None:
        """What of the recordings is to be minded."""
        return gravest(self.model.found())

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while it is shown."""
        return (
            Action("Play A", "A", partial(self.model.play, "A")),
            Action("Play B", "B", partial(self.model.play, "B")),
            Action("The other one, at the same word", "Space", self.model.other),
            Action("Play X of a blind trial", "X", self.model.play_x),
            Action("X is A", "Shift+A", partial(self.model.answer, "A")),
            Action("X is B", "Shift+B", partial(self.model.answer, "B")),
        )


def _figure(told: Told | None, unit: str) -> str:
    if told is None:
        return ""
    if told.value is None:
        return "?"
    if unit == "Hz":
        return f"{told.value:.0f}"
    return signed(told.value, 2 if unit == "%" else 1)
