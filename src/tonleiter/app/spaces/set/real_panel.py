"""The computer that this runs on: its devices, a tone out, a level in, the loop measured."""

from __future__ import annotations

import math
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from tonleiter.app.spaces.set.at_desk import AtDesk
from tonleiter.app.spaces.set.card_grid import CardGrid
from tonleiter.app.spaces.set.fader import Column, LevelColumn
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import put_away
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.desk.probe import LOUDEST_DBFS, SOFTEST_DBFS, Measured
from tonleiter.core.desk.real import Named
from tonleiter.core.guide.step import AIR
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.computer import Way
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import HERTZ, QuantityError, parse_quantity

_WAYS: tuple[tuple[Way, str], ...] = (("out", "Loudspeakers"), ("in", "Microphones"))
LEAST_HZ, MOST_HZ = 50.0, 8_000.0
# from here on what comes in is called full
FULL_DBFS = -0.2
ONE_COLUMN_PX = 620


class ToneError(RefusedError):
    """A level or a frequency that no tone is played with."""


class RealPanel(CardGrid):
    """Four cards, as on the simulated desk."""

    def __init__(self, desk: AtDesk, look: Look) -> None:
        super().__init__(look, ONE_COLUMN_PX)
        self._desk = desk
        self._level_dbfs, self._hertz = -20.0, 1500.0
        self._devices = QVBoxLayout()
        self._list = QWidget()
        self._devices.addWidget(self._list)
        self.outs = Choice(look, "Tone goes out by", 200)
        self.ins = Choice(look, "Level comes in by", 200)
        self._level = LevelColumn(look)
        self._level.setMaximumWidth(look.px(110))
        self._says_level = label("nobody listens", "figure", wraps=True)
        self._says_tone = label("", "caption", wraps=True)
        self._says_loop = label("", "sub", wraps=True)
        self._chosen: set[str] = set()
        for choice in (self.outs, self.ins):
            choice.chosen.connect(lambda _, c=choice: self._chosen.add(str(c.currentData())))
        self._playing = self._hears = False
        self.play = button("Play the tone", "primary", self._toggle_tone)
        self.hear = button("Look at the level", "plain", self._toggle_level)
        self.measure = button("Measure the loop", "primary", self._measure)
        cards = (
            ("Your computer's devices, now", self._devices),
            ("A tone out", self._tone_out()),
            ("The loop, measured", self._loop()),
            ("A level in", self._level_in()),
        )
        for title, inside in cards:
            column = self.titled(title, 6)
            column.addLayout(inside)
            column.addStretch(1)
        self._built_for: object = None

    def _tone_out(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(self.outs)
        row = QGridLayout()
        self.level = TextField("−20", "Level of the tone, dBFS")
        self.hertz = TextField("1500", "Frequency of the tone")
        self.level.accepted.connect(partial(self._take, self.level, self._take_level))
        self.hertz.accepted.connect(partial(self._take, self.hertz, self._take_hertz))
        for k, (words, field, unit) in enumerate(
            (("level", self.level, "dBFS"), ("tone", self.hertz, "Hz"))
        ):
            row.addWidget(label(words, "sub"), k, 0)
            row.addWidget(field, k, 1)
            row.addWidget(label(unit, "caption"), k, 2)
        column.addLayout(row)
        column.addWidget(self.play, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self._says_tone)
        column.addWidget(label(f"⚠ {AIR}", "caution", wraps=True))
        return column

    def _level_in(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(self.ins)
        row = QHBoxLayout()
        row.addWidget(self._level)
        words = QVBoxLayout()
        words.addWidget(self._says_level)
        words.addWidget(self.hear, 0, Qt.AlignmentFlag.AlignLeft)
        words.addStretch(1)
        row.addLayout(words, 1)
        column.addLayout(row)
        return column

    def _loop(self) -> QVBoxLayout:
        column = QVBoxLayout()
        said = "A sweep and a tone go out above and are looked for in what comes in beside it."
        column.addWidget(label(said, "caption", wraps=True))
        column.addWidget(self.measure, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self._says_loop)
        return column

    # --- devices ---------------------------------------------------------------------------------

    def show_system(self) -> None:
        """What the system lists now, and what happened to it."""
        desk, listed = self._desk, self._desk.listed
        trouble = desk.system.trouble
        key = (listed, desk.names, desk.events, trouble, self._look.scale)
        if key == self._built_for:
            return
        self._built_for = key
        self._offer(self.outs, "out")
        self._offer(self.ins, "in")
        replaced, self._list = self._list, QWidget()
        self._devices.replaceWidget(replaced, self._list)
        put_away(replaced)
        inside = QVBoxLayout(self._list)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(3)
        if trouble:
            inside.addWidget(label(f"{trouble[:1].upper()}{trouble[1:]}.", "sub", wraps=True))
        for way, title in _WAYS:
            inside.addWidget(label(title, "section"))
            for device in listed.listed(way):
                inside.addLayout(self._row(way, device))
        for said in desk.events:
            wrong = "Your radio" in said
            inside.addWidget(label(said, "wrong" if wrong else "caption", wraps=True))
        for made in (self.play, self.hear, self.measure):
            made.setEnabled(not trouble)

    def _offer(self, choice: Choice, way: Way) -> None:
        """Devices to choose from; the radio once it is known, unless another one was chosen."""
        listed = self._desk.listed
        mine = listed.called(way, self._desk.names.get(way, ""))
        names = [(d.name, d.id) for d in listed.listed(way)] or [("no device", "")]
        ids, kept = [i for _, i in names], choice.currentData()
        known = mine.id if mine is not None else ids[0]
        choice.show_items(names, kept if kept in ids and kept in self._chosen else known)

    def _row(self, way: Way, device: Named) -> QHBoxLayout:
        desk = self._desk
        mine = desk.names.get(way) == device.name
        held = desk.listed.default(way) == device
        new = (way, device) in desk.new
        row = QHBoxLayout()
        row.addWidget(label(device.name, "mine" if mine else "plain", wraps=True), 1)
        if new and not mine:
            row.addWidget(label("new", "caption"))
        if held:
            row.addWidget(label("default", "wrong" if mine else "caption"))
        if mine:
            row.addWidget(label("the radio", "caption"))
        else:
            said = button("It is the radio", "tag", partial(desk.is_radio, way, device.name))
            said.setAccessibleName(f"{device.name} is the radio, {way}")
            row.addWidget(said)
        return row

    # --- tone, level, loop -----------------------------------------------------------------------

    def _take(self, field: TextField, take: object, text: str) -> None:
        assert callable(take)
        self._says_tone.setText(field.offer(lambda: take(text)))

    def _take_level(self, text: str) -> None:
        plain = text.replace("−", "-").replace(",", ".").lower().removesuffix("dbfs").strip()
        try:
            value = float(plain)
        except ValueError:
            value = math.nan
        if not SOFTEST_DBFS <= value <= LOUDEST_DBFS:
            low, high = signed(SOFTEST_DBFS, 0), signed(LOUDEST_DBFS, 0)
            raise ToneError(f"a level from {low} to {high} dBFS is wanted")
        self._level_dbfs = value

    def _take_hertz(self, text: str) -> None:
        try:
            value = parse_quantity(text, HERTZ)
        except QuantityError:
            value = math.nan
        if not LEAST_HZ <= value <= MOST_HZ:
            raise ToneError(f"a tone from {LEAST_HZ:.0f} to {MOST_HZ:.0f} Hz is wanted")
        self._hertz = value

    def _toggle_tone(self) -> None:
        system = self._desk.system
        if self._playing:
            self.silence()
            return
        if self._refused():
            return
        why = system.tone(str(self.outs.currentData() or ""), self._level_dbfs, self._hertz)
        self._playing = not why
        self.play.setText("Stop" if self._playing else "Play the tone")
        self._says_tone.setText(
            why or f"{self._hertz:.0f} Hz at {signed(self._level_dbfs, 0)} dBFS, a minute at most"
        )

    def _refused(self) -> bool:
        """Whether a field holds what no tone is played with; it is said, and nothing plays."""
        why = self.level.take_over() or self.hertz.take_over()
        if why:
            self._says_tone.setText(why)
        return bool(why)

    def _toggle_level(self) -> None:
        system = self._desk.system
        if self._hears:
            self.silence()
            return
        why = system.listen(str(self.ins.currentData() or ""), self.show_level)
        self._hears = not why
        self.hear.setText("Stop" if self._hears else "Look at the level")
        self._says_level.setText(why)

    def show_level(self, rms_dbfs: float, peak_dbfs: float) -> None:
        """What comes in just now."""
        full = peak_dbfs > FULL_DBFS
        said = f"{signed(rms_dbfs)} dBFS"
        self._level.show_column(Column("in", said, rms_dbfs, (-25.0, -15.0), wrong=full))
        peaks = f"peaks {signed(peak_dbfs)}"
        self._says_level.setText(f"{said}, {peaks}{': FULL SCALE, turn it down' if full else ''}")

    def _measure(self) -> None:
        system = self._desk.system
        self.silence()
        if self._refused():
            return
        out, into = str(self.outs.currentData() or ""), str(self.ins.currentData() or "")
        why = system.loop(out, into, self._level_dbfs, self.show_measured)
        self._says_loop.setText(why or "it is being measured…")
        self.measure.setEnabled(bool(why))

    def show_measured(self, made: Measured | str) -> None:
        """What came back, or why nothing did."""
        self.measure.setEnabled(True)
        if isinstance(made, str):
            self._says_loop.setText(f"{made[:1].upper()}{made[1:]}.")
            return
        cut = " It reached full scale: turn something down and measure again."
        self._says_loop.setText(
            f"Gain {signed(made.gain_db, plus=True)} dB, back at {signed(made.level_dbfs)} dBFS;"
            f" noise {signed(made.noise_dbfs, 0)} dBFS; {1000 * made.delay_s:.0f} ms from program"
            f" to program.{cut if made.at_full_scale else ''}"
        )

    def silence(self) -> None:
        """Nothing plays, nobody listens."""
        self._desk.silence()
        self._playing = self._hears = False
        self.play.setText("Play the tone")
        self.hear.setText("Look at the level")
