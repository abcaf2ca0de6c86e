"""The Prove space: the path, a step with its readings, and what would explain them."""

from __future__ import annotations

import math
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.prove.belief import BeliefPanel
from tonleiter.app.spaces.prove.drawing import BenchDrawing
from tonleiter.app.spaces.prove.gauge import Gauge
from tonleiter.app.spaces.prove.model import ProveModel
from tonleiter.app.spaces.prove.read_off import as_read
from tonleiter.app.spaces.space import Action, Badge, Context, WatchedSpace, gravest
from tonleiter.app.widgets.check import WrappedCheck
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.frames import sentence, share_px, stack
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.app.widgets.panel import Panel, clear
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.bench.reading import Reading
from tonleiter.core.bench.tone import tones_say, tones_wav
from tonleiter.core.prove.how import generator_says
from tonleiter.core.prove.path import PATH, Look
from tonleiter.core.prove.say import next_says, remedy
from tonleiter.core.report.why.reading import why_reading
from tonleiter.core.station.disk import write_file

PATH_PX, SIDE_SHARE, LEAST_SIDE_PX, MOST_SIDE_PX = 132, 0.34, 220, 440
NARROW_PX = 400
FIELD_PX = 104
_UNTIL_THEN = "It may be looked at and rung out without power; nothing is fed until then."


class ProveSpace(WatchedSpace):
    """The bench is set up when it is looked at."""

    model: ProveModel

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self._look = context.look
        self.model = ProveModel(context.document, context.jobs, context.verdicts)
        self.model.setParent(self)  # it ends with its space: a signal keeps what it tells alive
        self.model.refused.connect(self.refused)
        self.chains = Choice(self._look, "Chain", 230)
        self.parts_of = Choice(self._look, "Part of the chain", 300)
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.path = QVBoxLayout()
        self.drawing = BenchDrawing(self.model, self._look)
        self.step_panel = Panel("center", (0, 4, 6, 8))
        self.side = BeliefPanel(self.model, self._look)
        self.side.wanted.connect(self.go_to_reading)
        self.side.part_wanted.connect(lambda part: self.wanted.emit("wire", part))
        self.fields: dict[str, TextField] = {}
        self.whys: dict[str, QPushButton] = {}
        self.ticks: dict[str, WrappedCheck] = {}
        self._arrange()
        self.model.changed.connect(self.refresh)
        self.model.ranked.connect(self.badge_changed)
        self.model.changed.connect(self.badge_changed)
        self.model.scoped.connect(self.side.show_belief)
        self._look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = sentence(
            (("I prove", self.chains), ("from", self.parts_of), ("on the bench", None))
        )
        self.chains.chosen.connect(self._open_chain)
        self.parts_of.chosen.connect(lambda k: self.model.show_part(k))
        center = QFrame()
        center.setObjectName("center")
        column = QVBoxLayout(center)
        column.setContentsMargins(20, 10, 8, 8)
        column.setSpacing(4)
        column.addWidget(self._says)
        column.addWidget(self._proves)
        both = QHBoxLayout()
        both.setSpacing(12)
        self._rail = QWidget()
        self._rail.setLayout(self.path)
        self.path.setContentsMargins(0, 6, 0, 0)
        self.path.setSpacing(4)
        rail = QScrollArea()
        rail.setWidgetResizable(True)
        rail.setWidget(self._rail)
        rail.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._path_area = rail
        both.addWidget(rail)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.drawing)
        right.addWidget(self.step_panel, 1)
        both.addLayout(right, 1)
        column.addLayout(both, 1)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(center, 1)
        middle.addWidget(self.side)
        stack(self, header, middle)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """The side gives way first."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        look = self._look
        most = look.px(MOST_SIDE_PX)
        self.side.setFixedWidth(share_px(self.width(), SIDE_SHARE, LEAST_SIDE_PX, most))
        self._path_area.setFixedWidth(look.px(PATH_PX))

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the path, the step and what explains its readings."""
        model = self.model
        station, found = model.station, model.found
        current = station.chain().id if station.chains else ""
        self.chains.show_items([(c.name, c.id) for c in station.chains], current)
        spans = found.build.spans if found else ()
        items = [(f"{s.left.name} to {s.right.name}", str(k)) for k, s in enumerate(spans)]
        self.parts_of.show_items(items, str(model.place))
        self.parts_of.setEnabled(bool(items))
        self._fit()
        self._say()
        self._show_path()
        self._show_step()
        self.side.show_belief()

    def _say(self) -> None:
        says, proves = self._sentences()
        if stops := self.model.stops():
            # what must not be plugged in is not powered either; what was read is still judged
            proves = says if self.model.readings() else _UNTIL_THEN
            says = f"Mend first: {stops[0].says}."
        self._says.setText(says)
        self._proves.setText(proves)

    def _sentences(self) -> tuple[str, str]:
        """What the readings come to, and what to read next."""
        model = self.model
        if model.proof is None:
            return model.trouble or "Nothing is on the bench.", ""
        if not model.ready:
            return "The bench is being set up: every fault is simulated once.", ""
        ranking, readings = model.ranking, model.readings()
        if model.older():
            proves = "The build was changed since these readings: they are not counted."
            return "Nothing is read of the build as it is now.", proves
        if ranking is None:
            return "What was read is being weighed…", ""
        says = model.proof.headline(ranking, readings)
        said = [remedy(ranking)]
        if ranking.next is not None and readings:
            said.append(next_says(ranking.next, model.proof.how(ranking.next)))
        return says, " ".join(s for s in said if s)

    def _show_path(self) -> None:
        clear(self.path)
        model = self.model
        proved = model.proved()
        left_out = proved.left_out if proved else ()
        off = model.disagreeing()
        if proved is not None:
            self.path.addWidget(label(f"kept, {proved.day}", "caption", wraps=True))
        if model.older():
            still = partial(model.attempt, model.still_hold)
            self.path.addWidget(button("They still hold", "link", still))
        for number, step in enumerate(PATH, 1):
            done, of = model.done(step.id)
            mark = "–" if step.id in left_out else "✓" if of and done == of else str(number)
            bad = any(r.id in off for r in model.of_step(step.id))
            count = "left out" if step.id in left_out else f"{done} of {of}" if of else ""
            words = f"{'!' if bad else mark}  {step.title}\n{count or ' '}"
            made = button(words, "answer", partial(model.show_step, step.id))
            made.setAccessibleName(f"Step {number}, {step.title}, {count}")
            made.setCheckable(True)
            made.setChecked(step.id == model.step)
            self.path.addWidget(made)
        self.path.addStretch(1)

    def _show_step(self) -> None:
        model = self.model
        step = model.path_step()
        column = self.step_panel.begin(spacing=5)
        self.fields, self.ticks, self.whys = {}, {}, {}
        column.addWidget(label(f"{step.title}", "title"))
        column.addWidget(label(step.says, "sub", wraps=True))
        for warned in (*model.hazards(step.id), step.caution):
            if warned:
                column.addWidget(label(f"⚠ {warned}", "caution", wraps=True))
        if model.proof is not None:
            for check in model.checks(step.id):
                self._check(column, check)
            readings = model.of_step(step.id)
            if readings:
                self._readings(column, readings)
                if step.id == "tone":
                    self._tones(column)
            elif step.id == "dc":
                column.addWidget(
                    label("No volts stand in this part: there is nothing to read.", "caption")
                )
            self._leave_out(column)
        self.step_panel.finish(column)

    def _tones(self, column: QVBoxLayout) -> None:
        """Tones for those who have a computer's output in place of a generator."""
        model = self.model
        assert model.proof is not None
        column.addWidget(label(generator_says(model.proof.unit), "sub", wraps=True))
        at = model.proof.places["tone in"]
        if (whistle := model.proof.whistle_v()) is not None:
            column.addWidget(
                label(
                    f"A whistle across the microphone gives some {as_read(whistle, 'V')} at its"
                    " contacts, between 1 and 2 kHz: a rough sine on the scope, a first look.",
                    "sub",
                    wraps=True,
                )
            )
        column.addWidget(
            label(
                "From a computer's output: play the tones, and turn it up until “in” shows"
                f" {as_read(model.proof.predicted.nominal[at], 'V')}."
                if model.ready
                else "",
                "sub",
                wraps=True,
            )
        )
        metrics = QFontMetrics(self._look.font(14, 600))
        column.addWidget(
            wrapped_button(
                f"Save the tones (WAV: {tones_say()})…",
                "link",
                self.ask_tones,
                metrics,
                self._step_px() - 40,
            )
        )

    def ask_tones(self) -> None:
        """Ask where the tones go."""
        name, _ = QFileDialog.getSaveFileName(self, "Save the tones", "tones.wav", "Sound (*.wav)")
        if name:
            self.model.attempt(lambda: write_file(Path(name), tones_wav()))

    def _check(self, column: QVBoxLayout, check: Look) -> None:
        step = self.model.step
        box = WrappedCheck(check.says, on=self.model.is_seen(step, check))
        box.toggled.connect(lambda on: self.model.attempt(lambda: self.model.tick(step, check, on)))
        column.addWidget(box)

    def _readings(self, column: QVBoxLayout, readings: tuple[Reading, ...]) -> None:
        model, look = self.model, self._look
        column.addWidget(label("reading, its brackets, what was read", "caption", wraps=True))
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(3)
        # where the words would stand one under the other, the figures go below them
        narrow = self._step_px() < look.px(NARROW_PX)
        grid.setColumnStretch(0, 0 if narrow else 3)
        grid.setColumnStretch(2, 2)
        wanted = model.ranking.next.id if model.ranking and model.ranking.next else ""
        row = 0
        for reading in model.shown_of(readings):
            if reading.of:
                row = self._of_many(grid, row, reading, reading.id == wanted)
            else:
                row = self._reading(grid, row, reading, narrow, reading.id == wanted)
        column.addLayout(grid)
        metrics = QFontMetrics(look.font(14, 600))
        column.addWidget(
            wrapped_button(
                "Read this step off the simulated bench",
                "plain",
                partial(self._attempt_read, readings),
                metrics,
                self._step_px() - 40,
            ),
            0,
            Qt.AlignmentFlag.AlignLeft,
        )

    def _of_many(self, grid: QGridLayout, row: int, reading: Reading, wanted: bool) -> int:
        """One tick for all that must not beep; they unfold where one of them does."""
        model = self.model
        silent = model.readings().get(reading.id) == math.inf
        box = WrappedCheck(reading.says, "section" if wanted else "sub", silent)
        self.ticks[reading.id] = box
        box.toggled.connect(
            lambda on: model.attempt(lambda: model.take(reading, "open" if on else ""))
        )
        grid.addWidget(box, row, 0, 1, 4)
        open_ = model.unfolds(reading)
        words = "Fold them together" if open_ else f"One of them beeps: show all {len(reading.of)}"
        made = button(words, "link", partial(model.unfold, not open_))
        grid.addWidget(made, row + 1, 0, 1, 4, Qt.AlignmentFlag.AlignLeft)
        return row + 2

    def _reading(
        self, grid: QGridLayout, row: int, reading: Reading, narrow: bool, wanted: bool
    ) -> int:
        """Words, what is expected, its brackets, the field; the row below it."""
        model, look, proof = self.model, self._look, self.model.proof
        assert proof is not None
        says = label(reading.says, "section" if wanted else "sub", wraps=True)
        if narrow:
            grid.addWidget(says, row, 0, 1, 4)
            row += 1
        else:
            grid.addWidget(says, row, 0)
        if model.ready:
            k = proof.places[reading.id]
            nominal = as_read(float(proof.predicted.nominal[k]), reading.unit)
            ask = partial(self._ask_why, reading)
            if not narrow:
                asked = button(nominal, "link", ask, "How it comes about, and what it hangs on")
                asked.setAccessibleName(f"Why {nominal}: {reading.says}")
                self.whys[reading.id] = asked
                grid.addWidget(asked, row, 1, Qt.AlignmentFlag.AlignRight)
            low, high = float(proof.predicted.low[k]), float(proof.predicted.high[k])
            value = model.readings().get(reading.id)
            fits = reading.id not in model.disagreeing()
            ends = tuple(as_read(x, reading.unit, 2) for x in (low, high))
            # where there is no room its ends alone say what is expected
            at = (row, 0, 1, 3) if narrow else (row, 2, 1, 1)
            gauge = Gauge(look, (low, high), ends, value, fits)
            gauge.pressed.connect(ask)
            grid.addWidget(gauge, *at)
        field = TextField(
            model.typed().get(reading.id, ""),
            f"Reading {reading.says}",
            model.drafts,
            (f"prove:{model.place}", reading.id),
        )
        share = 0.4 if narrow else 0.24
        field.setFixedWidth(max(min(look.px(FIELD_PX), round(share * self._step_px())), 72))
        field.setPlaceholderText(reading.unit)
        field.accepted.connect(partial(self._take, field, reading))
        grid.addWidget(field, row, 3)
        self.fields[reading.id] = field
        if wanted and model.ready and (how := proof.how(reading)):
            row += 1
            grid.addWidget(label(how, "caption", wraps=True), row, 0, 1, 4)
        return row + 1

    def _ask_why(self, reading: Reading) -> None:
        proof = self.model.proof
        if proof is not None:
            self.context.asking.ask(lambda: why_reading(proof, reading))

    def _step_px(self) -> int:
        """What the path and the side leave to the step."""
        return self.width() - self.side.width() - self._path_area.width() - 60

    def _take(self, field: TextField, reading: Reading, text: str) -> None:
        why = field.offer(lambda: self.model.take(reading, text))
        self.refused.emit(why)

    def _attempt_read(self, readings: tuple[Reading, ...]) -> None:
        self.model.attempt(lambda: self.model.read_off(readings))

    def _leave_out(self, column: QVBoxLayout) -> None:
        step, proved = self.model.step, self.model.proved()
        out = step in (proved.left_out if proved else ())
        words = "Do this step after all" if out else "Leave this step out, and say so"
        column.addWidget(
            button(
                words,
                "link",
                lambda: self.model.attempt(lambda: self.model.leave_out(step, not out)),
            )
        )

    def go_to_reading(self, reading: Reading) -> None:
        """Show a reading's step with the keyboard on its field."""
        self.model.show_step(reading.step)
        if (tick := self.ticks.get(reading.id)) is not None:
            tick.setFocus(Qt.FocusReason.ShortcutFocusReason)
        if reading.id in self.fields:
            self.fields[reading.id].setFocus(Qt.FocusReason.ShortcutFocusReason)

    # --- what the window asks --------------------------------------------------------------------

    def _open_chain(self) -> None:
        chain = self.chains.currentData()
        self.model.at = -1
        self.model.open_chain(chain)

    def arrive(self, word: str = "") -> None:
        """The bench is set up."""
        self.model.arrive()
        self.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def badge(self) -> Badge | None:
        """How many readings disagree."""
        if not self.model.is_of_now:
            return None
        if stops := self.model.stops():
            return gravest(stops)
        off = len(self.model.disagreeing())
        return Badge(off, "mind") if off else None

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while the path is shown."""
        return (
            Action("Go to the reading that tells most", "N", self._go_next),
            Action("Next step of the path", "PgDown", lambda: self._move(1)),
            Action("Step before", "PgUp", lambda: self._move(-1)),
        )

    def _go_next(self) -> None:
        ranking = self.model.ranking
        if ranking is not None and ranking.next is not None:
            self.go_to_reading(ranking.next)

    def _move(self, by: int) -> None:
        ids = [s.id for s in PATH]
        at = ids.index(self.model.step) + by
        if 0 <= at < len(ids):
            self.model.show_step(ids[at])

    def hints(self) -> tuple[tuple[str, str], ...]:
        """What is typed here."""
        return (("0.84, 840m, open, beep", "A reading as people write it"),)
