"""The side of the Listen space: figures, the recorder, playing, a blind trial, keeping."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLabel, QVBoxLayout

from tonleiter.app.spaces.listen.model import ListenModel
from tonleiter.app.spaces.listen.recorder import FULL_DBFS
from tonleiter.app.spaces.listen.slots import PLACES, Place
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import Panel
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.guide.schools import TONE_WORDS
from tonleiter.core.listen.blind import Side
from tonleiter.core.listen.measures import Told
from tonleiter.core.report.promised import said
from tonleiter.core.safety.cautions import CAUTIONS
from tonleiter.core.station.recording import TAKEN_WORDS
from tonleiter.core.units.levels import signed
from tonleiter.core.words import sentence as as_sentence

ADVICE = "Settings are tried through the simulated radio, heard far away in noise, and measured."
SIDES: tuple[Side, ...] = ("A", "B")


class ListenPanel(Panel):
    """Built anew where something of it changed; a report is saved or printed by its buttons."""

    def __init__(
        self,
        model: ListenModel,
        look: Look,
        report: Callable[[], None],
        print_it: Callable[[], None],
    ) -> None:
        super().__init__("inspector")
        self.model, self._look = model, look
        self._report, self._print = report, print_it
        self._level: QLabel | None = None
        self._built_for: object = None
        model.recorder.level.connect(self._show_level)

    def show_now(self) -> None:
        """What there is to say and to do now; built anew only where something of it changed."""
        model, made = self.model, self.model.comparison
        key = (
            id(made), *(id(model.slots.at(p)) for p in PLACES), model.player.plays,
            *(model.kept.is_kept(p) for p in PLACES), *(model.promised(p) for p in PLACES),
            model.advised.so_far, model.advised.busy, model.advised.trouble,
            *(model.slots.busy(p) for p in PLACES), model.recorder.slate_s,
            model.recorder.does, model.recorder.side, model.recorder.device,
            model.blind.likes.votes if model.blind.likes else None, model.blind.likes is None,
            model.blind.trials.given if model.blind.trials else None, model.blind.trials is None,
            model.player.aligned, self._look.scale, self._look.palette.name, self.width(),
        )  # fmt: skip
        if key == self._built_for:
            return
        self._built_for = key
        column = self.begin(spacing=6)
        self._level = None
        if model.recorder.does != "nothing":
            self._recording(column)
        for side in SIDES:
            if model.slots.busy(side):
                stop = partial(model.clear, side)
                column.addWidget(button(f"Stop reading {side}", "plain", stop))
        column.addWidget(label("What changed" if made is not None else "What it measures", "title"))
        column.addLayout(self._table())
        self._as_promised(column)
        self._playing(column)
        self._blind(column)
        self._advice(column)
        self._keeping(column)
        self.finish(column)

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
            flow.addWidget(button("The slate is said", "plain", recorder.slate_said))
        else:
            flow.addWidget(button("Record", "primary", recorder.begin))
        flow.addWidget(button("Leave it", "plain", recorder.leave))
        column.addLayout(flow)
        if recorder.slate_s:
            words = f"The first {recorder.slate_s:.1f} s are the slate: heard, never measured."
        elif line := self.model.kept.slate_line():
            words = f"Say first what is set (“{line}”), press, then speak as on the air."
        else:
            words = "Say first what is set, press, then speak as on the air."
        column.addWidget(label(words, "sub", wraps=True))
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
                role = "primary" if model.player.plays == side else "plain"
                flow.addWidget(button(f"▶ {side}", role, partial(model.player.play, side)))
        if all(model.slots.at(s) is not None for s in SIDES):
            flow.addWidget(button("The other one, here", "plain", model.player.other))
            flow.addWidget(button("Change places", "plain", model.swap))
        for place in PLACES:
            taken = model.slots.at(place)
            if taken is not None and taken.slate is not None:
                ask = partial(model.player.play_slate, place)
                flow.addWidget(button(f"▶ slate of {place}", "plain", ask))
        flow.addWidget(button("Stop", "plain", self._stop))
        flow.addWidget(button("Save a report…", "plain", self._report))
        flow.addWidget(button("Print it…", "plain", self._print))
        column.addLayout(flow)
        tick = QCheckBox("levels aligned")
        tick.setAccessibleName("levels aligned")
        tick.setChecked(model.player.aligned)
        tick.clicked.connect(self._align)
        column.addWidget(tick)
        column.addWidget(label(f"⚠ {CAUTIONS['hearing']}", "caution", wraps=True))

    def _as_promised(self, column: QVBoxLayout) -> None:
        """What the open chain promises, beside what the recording shows."""
        model = self.model
        for side in reversed(PLACES):
            if made := model.promised(side):
                column.addWidget(label(f"{side}, as the chain predicted?", "section", wraps=True))
                column.addWidget(label(said(made), "sub", wraps=True))

    def _advice(self, column: QVBoxLayout) -> None:
        """Tone for the open chain, to one of two schools."""
        advised = self.model.advised
        column.addWidget(label("Tone advised for the open chain", "section", wraps=True))
        flow = Flow(gap_px=8)
        for school, words in TONE_WORDS.items():
            ask = button(f"For a {words} sound", "plain", partial(self.model.advise, school))
            ask.setEnabled(not advised.busy)
            flow.addWidget(ask)
        column.addLayout(flow)
        made = advised.so_far
        if advised.trouble:
            column.addWidget(label(f"{as_sentence(advised.trouble)}.", "wrong", wraps=True))
        if made is None:
            words = "it is being tried…" if advised.busy else ADVICE
            column.addWidget(label(words, "caption", wraps=True))
            return
        column.addWidget(label(made.says(), "step", wraps=True))
        column.addWidget(label(made.proves(), "caption", wraps=True))
        if made.distance is not None:
            column.addWidget(label(made.distance.says(), "step", wraps=True))
        if advised.busy or not (made.moves or advised.distance_mm()):
            return
        flow = Flow(gap_px=8)
        if made.moves:
            flow.addWidget(button("Hear both", "plain", self.model.hear_advised))
        flow.addWidget(button("Set it so", "plain", self.model.set_advised))
        column.addLayout(flow)

    def _keeping(self, column: QVBoxLayout) -> None:
        """Keep one with the station, with what it is of."""
        model = self.model
        there = [p for p in model.slots.filled() if not model.kept.is_kept(p)]
        if not there:
            self._forgetting(column)
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
            if model.kept.lies_unkept(side) is not None:
                away = button(f"Throw {side} away", "plain", partial(model.throw_away, side))
                flow.addWidget(away)
            if model.player.plays == side:
                ends = partial(model.slate_ends, side)
                flow.addWidget(button(f"Slate of {side} ends here", "plain", ends))
        column.addLayout(flow)
        self._forgetting(column)
        what = "Of the open chain as it stands, its voice, distance, power; undone like an edit."
        column.addWidget(label(what, "caption", wraps=True))

    def _forgetting(self, column: QVBoxLayout) -> None:
        """What is kept may be forgotten again."""
        model, flow = self.model, Flow(gap_px=8)
        kept = [p for p in model.slots.filled() if model.kept.is_kept(p)]
        for side in kept:
            forget = partial(model.kept.forget, side)
            flow.addWidget(
                button(f"Forget {side}", "plain", forget, "its file stays here, unkept; undo brings"
                       " back what it is of")
            )  # fmt: skip
        if kept:
            column.addLayout(flow)

    def _keeper(self, side: Place, how: Choice, slate: TextField) -> Callable[[], None]:
        return lambda: self.model.kept.keep(side, how.currentData() or None, slate.text())

    def _align(self, on: bool) -> None:
        self.model.player.aligned = on
        self.model.changed.emit()

    def _stop(self) -> None:
        self.model.player.silence()
        self.model.changed.emit()

    def _blind(self, column: QVBoxLayout) -> None:
        model = self.model
        if any(model.slots.at(s) is None for s in SIDES):
            return
        column.addWidget(label("Blind, nobody told which is which", "section", wraps=True))
        trials = model.blind.trials
        flow = Flow(gap_px=8)
        if trials is None:
            flow.addWidget(button("Begin a trial", "plain", model.blind.begin_trial))
        else:
            flow.addWidget(button("▶ X", "primary", model.blind.play_x))
            for side in SIDES:
                flow.addWidget(button(f"X is {side}", "plain", partial(model.blind.answer, side)))
            flow.addWidget(button("Begin anew", "plain", model.blind.begin_trial))
            if trials.given:
                keep = partial(model.blind.keep_result, "told")
                flow.addWidget(button("Keep the result", "plain", keep))
        column.addLayout(flow)
        if trials is not None:
            given = " ".join(trials.given) or "no answer yet"
            column.addWidget(label(given, "figure", wraps=True))
            column.addWidget(label(f"{as_sentence(trials.said())}.", "sub", wraps=True))
        self._liked(column)

    def _liked(self, column: QVBoxLayout) -> None:
        """Which is liked better, by several listeners."""
        model, likes = self.model, self.model.blind.likes
        flow = Flow(gap_px=8)
        if likes is None:
            flow.addWidget(button("Ask which is liked", "plain", model.blind.begin_likes))
            column.addLayout(flow)
            return
        who = TextField("", "Who listens", model.document.drafts, ("listen", "who"))
        who.setPlaceholderText("who listens")
        who.setMaxLength(40)
        column.addWidget(who)
        for second, name in ((False, "1st"), (True, "2nd")):
            flow.addWidget(button(f"▶ {name}", "primary", partial(model.blind.play_like, second)))
        for second, name in ((False, "1st"), (True, "2nd")):
            flow.addWidget(button(f"The {name} is better", "plain", self._liker(who, second)))
        if likes.votes:
            keep = partial(model.blind.keep_result, "liked")
            flow.addWidget(button("Keep the votes", "plain", keep))
        column.addLayout(flow)
        column.addWidget(label(f"{as_sentence(likes.said())}.", "sub", wraps=True))

    def _liker(self, who: TextField, second: bool) -> Callable[[], None]:
        return lambda: self.model.blind.like(who.text(), second)


def _figure(told: Told | None, unit: str) -> str:
    if told is None:
        return ""
    if told.value is None:
        return "?"
    if unit == "Hz":
        return f"{told.value:.0f}"
    return signed(told.value, 2 if unit == "%" else 1)
