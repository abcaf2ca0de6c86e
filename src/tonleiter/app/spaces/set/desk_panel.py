"""The computer's page: its devices, the way out, keying over time, the way in."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.spaces.set.at_desk import AtDesk
from tonleiter.app.spaces.set.card_grid import CardGrid
from tonleiter.app.spaces.set.dial import Dial
from tonleiter.app.spaces.set.fader import Column, Fader, LevelColumn
from tonleiter.app.spaces.set.keying_view import KeyingView
from tonleiter.app.spaces.set.model import SetModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import clear, put_away
from tonleiter.core.desk.devices import Desk, SoundDevice
from tonleiter.core.guide.controls import Control
from tonleiter.core.setup.loop.base import NOISE, STRONGEST
from tonleiter.core.setup.loop.scene import LoopScene
from tonleiter.core.station.computer import ALTERING_WORDS, SystemRole, Way
from tonleiter.core.station.settings import KnobId, PanelState
from tonleiter.core.units.levels import dbu_from_volts, signed, volts_from_dbu
from tonleiter.core.units.quantity import VOLT, format_quantity
from tonleiter.core.words import the

# columns of the list of devices: the system's role each way, that of calls, the data program
_COLUMNS = ("system", "calls", "data")
_ROLES: dict[tuple[str, Way], SystemRole] = {
    ("system", "out"): "system-out",
    ("calls", "out"): "calls-out",
    ("system", "in"): "system-in",
    ("calls", "in"): "calls-in",
}
_WAYS: tuple[tuple[Way, str], ...] = (("out", "Loudspeakers"), ("in", "Microphones"))
# knobs that are round: the others are columns
_ROUND = ("hang", "squelch")
ONE_COLUMN_PX = 620


class DeskPanel(CardGrid):
    """Four cards; two beside each other where there is room."""

    def __init__(self, model: SetModel, look: Look) -> None:
        super().__init__(look, ONE_COLUMN_PX, (11, 9), rows_grow=True)
        self._model = model
        self._desk: AtDesk = model.at_desk
        self._devices = QVBoxLayout()
        self._list = QWidget()
        self._devices.addWidget(self._list)
        self.out, self.into = _Faders(model, look), _Faders(model, look)
        self.keying = KeyingView(look)
        self._knobs, self._squelch = QHBoxLayout(), QHBoxLayout()
        timed = QHBoxLayout()
        timed.addWidget(self.keying, 1)
        timed.addLayout(self._knobs)
        back = QHBoxLayout()
        back.addWidget(self.into, 1)
        back.addLayout(self._squelch)
        self.dials: dict[KnobId, Dial] = {}
        self._says_out, self._says_in = (label("", "caption", wraps=True) for _ in range(2))
        cards = (
            ("What the computer hears with and speaks with", (self._devices,)),
            ("From full scale to the socket", (self.out, self._says_out)),
            ("Keying", (timed,)),
            ("What comes back", (back, self._says_in)),
        )
        for title, parts in cards:
            self._fill(title, parts)
        self._built_for: object = None
        self._knobs_for: object = None
        self.radios: dict[tuple[str, Way, str], QRadioButton] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self._groups: list[QButtonGroup] = []

    def _fill(self, title: str, parts: Iterable[QWidget | QLayout]) -> None:
        inside = self.titled(title, 4)
        for part in parts:
            if isinstance(part, QLayout):
                inside.addLayout(part, 1)
            elif isinstance(part, QLabel):
                inside.addWidget(part)
            else:
                inside.addWidget(part, 1)

    def show_scene(self, scene: LoopScene) -> None:
        """The desk as it stands, levels, keying."""
        self._show_devices(scene.desk)
        self._show_out(scene)
        self._show_in(scene)
        sent = scene.sent
        self.keying.show_keyed(
            sent.keyed, sent.answers_after_s, "" if sent.listens else sent.keyed_by
        )
        self._show_knobs(scene)

    def show_turned(self, panel: PanelState) -> None:
        """What the hand turns just now; levels follow with the next scene."""
        for shown in (
            *self.out.columns.values(),
            *self.into.columns.values(),
            *self.dials.values(),
        ):
            if isinstance(shown, Dial):
                value = panel.knobs.get(shown.control.id)
                if value is not None and value != shown.control.value:
                    shown.control = replace(shown.control, value=value)
                    shown.update()

    # --- devices ---------------------------------------------------------------------------------

    def _show_devices(self, desk: Desk) -> None:
        key = (desk, self._look.scale, self._look.palette.name)
        if key == self._built_for:
            return
        self._built_for = key
        focused = next((k for k, r in self.radios.items() if r.hasFocus()), None)
        # a new list in the place of the old one: what is inside it goes with it
        replaced, self._list = self._list, QWidget()
        self._devices.replaceWidget(replaced, self._list)
        put_away(replaced)
        inside = QVBoxLayout(self._list)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(4)
        self.radios, self.ticks, self._groups = {}, {}, []
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        for k, name in enumerate(_COLUMNS):
            grid.addWidget(label(name, "caption"), 0, 1 + k, Qt.AlignmentFlag.AlignHCenter)
        row = 0
        for way, title in _WAYS:
            grid.addWidget(label(title, "section"), row, 0)
            row += 1
            groups = {name: QButtonGroup(self._list) for name in _COLUMNS}
            self._groups += groups.values()
            for device in desk.devices:
                if device.goes(way):
                    self._device(grid, row, desk, device, way, groups)
                    row += 1
        grid.setColumnStretch(0, 1)
        inside.addLayout(grid)
        inside.addStretch(1)
        inside.addLayout(self._boxes(desk))
        inside.addLayout(self._altering(desk))
        if focused is not None and focused in self.radios:
            self.radios[focused].setFocus(Qt.FocusReason.OtherFocusReason)

    def _device(
        self,
        grid: QGridLayout,
        row: int,
        desk: Desk,
        device: SoundDevice,
        way: Way,
        groups: dict[str, QButtonGroup],
    ) -> None:
        mine = device.id in desk.of_radio
        role = "mine" if mine else "plain" if device.plugged else "caption"
        words = device.called if device.plugged else f"{device.called} (not plugged in)"
        name = QVBoxLayout()
        name.setSpacing(0)
        name.addWidget(label(words, role, wraps=True))
        grid.addLayout(name, row, 0)
        if not device.plugged:
            return
        if mine and any(r in desk.taken for r in (_ROLES["system", way], _ROLES["calls", way])):
            at = f" {desk.state.taken_at}" if desk.state.taken_at else ""
            name.addWidget(label(f"taken{at}", "wrong"))
        for k, column in enumerate(_COLUMNS):
            radio = QRadioButton()
            what = "data program" if column == "data" else f"{column}"
            side = "loudspeaker" if way == "out" else "microphone"
            radio.setAccessibleName(f"{device.called} as {side}: {what}")
            if column == "data":
                held = desk.chose(way) and desk.state.program.get(way) == device.id
                act = partial(self._desk.choose, way, device.id)
                wrong = held and not mine
            else:
                holder = desk.holder(_ROLES[column, way])
                held = holder is not None and holder.id == device.id
                act = partial(self._desk.give, _ROLES[column, way], device.id)
                wrong = held and mine
            groups[column].addButton(radio)
            radio.setChecked(held)
            radio.setProperty("wrong", wrong)
            if wrong and column != "data":
                when = f" at {desk.state.taken_at}" if desk.state.taken_at else ""
                radio.setToolTip(f"taken{when}")
            radio.clicked.connect(lambda _=False, do=act: do())
            grid.addWidget(radio, row, 1 + k, Qt.AlignmentFlag.AlignHCenter)
            self.radios[column, way, device.id] = radio

    def _boxes(self, desk: Desk) -> Flow:
        """Leads at USB: pulled and plugged in here."""
        flow = Flow(gap_px=8)
        for device in desk.devices:
            if not device.box:
                continue
            said = f"{'Pull' if device.plugged else 'Plug in'} “{device.called}”"
            flow.addWidget(
                button(said, "tag", partial(self._desk.plug, device.id, not device.plugged))
            )
            if device.plugged and device.asleep:
                flow.addWidget(
                    button(
                        f"Switch {the(desk.radio)} on",
                        "tag",
                        partial(self._desk.switch, device.id, True),
                    )
                )
        return flow

    def _altering(self, desk: Desk) -> Flow:
        """What alters or adds sound: ticked where it is on."""
        flow = Flow(gap_px=12)
        for key, words in ALTERING_WORDS.items():
            tick = QCheckBox(words)
            tick.setChecked(key in desk.state.altering)
            tick.setProperty("wrong", key in desk.state.altering)
            tick.setAccessibleName(words)
            tick.clicked.connect(lambda on, k=key: self._desk.alter(k, on))
            self.ticks[key] = tick
            flow.addWidget(tick)
        return flow

    # --- levels ----------------------------------------------------------------------------------

    def _show_out(self, scene: LoopScene) -> None:
        sent, own = scene.sent, scene.desk.is_own
        level = scene.control("level")
        here = sent.out_dbfs if own else sent.out_dbfs + (level.value if level else 0.0)
        at_socket = sent.socket_dbu - (dbu_from_volts(sent.out_v) - sent.out_dbfs)
        aim = None
        if level is not None and level.aim is not None:
            aim = tuple(at_socket + a - level.value for a in level.aim)
        cut, volts = sent.peak_dbfs > 0, format_quantity(sent.out_v, VOLT, 2)
        program = f"{signed(sent.program_dbfs, 0)} dBFS"
        columns: list[tuple[KnobId | None, Column]] = [
            ("program", Column("program", program, sent.program_dbfs, wrong=cut))
        ]
        if not own:
            slider = scene.control("slider")
            said = f"{signed(slider.value)} dB" if slider is not None else ""
            mark = f"marked {sent.slider_mark:.0f}"
            keys = sent.switch.threshold_db if sent.listens else None
            columns.append(
                ("slider", Column("slider", said, sent.out_dbfs, note=mark, mark_db=keys))
            )
        if sent.listens and (opens := scene.control("threshold")) is not None:
            columns.append(("threshold", Column("keys at", f"{opens.said()}", opens.value)))
        if level is not None:
            said = f"{signed(level.value)} dB"
            title = "slider" if own else "interface"
            note = "" if own else f"{volts} in"
            columns.append(("level", Column(title, said, here, note=note)))
        if own:
            columns.append((None, Column("converter", volts, sent.out_dbfs, wrong=cut)))
        socket = format_quantity(volts_from_dbu(sent.socket_dbu), VOLT, 2)
        fits = None if aim is None else (aim[0], aim[1])
        columns.append((None, Column("socket", socket, at_socket, fits)))
        self.out.show_columns(scene, columns)
        spare = sent.keyed.spare_db
        at = signed(sent.switch.threshold_db, 0)
        self._says_out.setText(
            f"The radio is keyed {sent.keyed_by}: no level does that."
            if spare is None
            else f"The switch keys at {at} dBFS: {_spare(spare)}."
        )

    def _show_in(self, scene: LoopScene) -> None:
        back = scene.back
        self.into.setVisible(back is not None)
        if back is None:
            self._says_in.setText("Nothing leads back from the receiver into the computer yet.")
            return
        strong, noise = -scene.strongest_db, -scene.noise_db
        volume = scene.control("volume")
        receive, record = scene.control("receive"), scene.control("record")
        after = strong
        columns: list[tuple[KnobId | None, Column]] = []
        if record is not None:
            said = f"{signed(record.value)} dB"
            columns.insert(0, ("record", Column("record", said, after)))
            after -= record.value
        if receive is not None:
            said = f"{signed(receive.value)} dB"
            columns.insert(0, ("receive", Column("interface", said, after)))
            after -= receive.value
        if volume is not None:
            said = f"{signed(volume.value, 0, plus=True)} dB"
            columns.insert(0, ("volume", Column("volume", said, after)))
        aim = (-STRONGEST[1], -STRONGEST[0])
        columns.append(
            (None, Column("strong", f"{signed(strong, 0)} dBFS", strong, aim, wrong=strong > -3))
        )
        quiet = (-NOISE[1], -NOISE[0]) if back.under_strong_db > 10 else None
        columns.append((None, Column("noise", f"{signed(noise, 0)} dBFS", noise, quiet)))
        self.into.show_columns(scene, columns)
        self._says_in.setText(
            f"Strong signals {signed(strong, 0)} dBFS, the noise between them {signed(noise, 0)};"
            f" {back.under_strong_db:.0f} dB between them are typical of a receiver."
            if back.under_strong_db > 0
            else "With its squelch open an FM set's noise is as loud as its signals."
        )

    # --- knobs -----------------------------------------------------------------------------------

    def _show_knobs(self, scene: LoopScene) -> None:
        """Hang time and squelch: round, beside what they do."""
        wanted = [c for c in scene.controls if c.id in _ROUND and _minded(scene, c)]
        key = ([(c.id, c.low, c.high) for c in wanted], self._look.scale)
        if key != self._knobs_for:
            self._knobs_for = key
            clear(self._knobs)
            clear(self._squelch)
            self.dials = {}
            for control in wanted:
                dial = Dial(self._look, control, self._model.drafts)
                dial.turned.connect(lambda knob, value: self._model.turn(knob, value))
                dial.rested.connect(self._model.commit)
                self.dials[control.id] = dial
                row = self._squelch if control.id == "squelch" else self._knobs
                row.addWidget(dial, 0, Qt.AlignmentFlag.AlignTop)
        for control in wanted:
            self.dials[control.id].show_control(control, *_wanted(scene, control))


def _minded(scene: LoopScene, control: Control) -> bool:
    """Whether a knob belongs on the page: an open squelch of a set for sideband does not."""
    return control.id != "squelch" or scene.case.mode == "packet" or control.value > 0


class _Faders(QWidget):
    """Columns side by side: what is turned there, and what follows."""

    def __init__(self, model: SetModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(2)
        self._built_for: object = None
        self.columns: dict[str, Fader | LevelColumn] = {}

    def show_columns(self, scene: LoopScene, columns: list[tuple[KnobId | None, Column]]) -> None:
        """The levels as they stand."""
        key = ([(knob, c.title) for knob, c in columns], self._look.scale)
        if key != self._built_for:
            self._built_for = key
            clear(self._row)
            self.columns = {}
            for knob, column in columns:
                control = scene.control(knob) if knob is not None else None
                made: Fader | LevelColumn
                if control is None:
                    made = LevelColumn(self._look)
                else:
                    made = Fader(self._look, control, self._model.drafts)
                    made.turned.connect(lambda k, value: self._model.turn(k, value))
                    made.rested.connect(self._model.commit)
                self.columns[knob or column.title] = made
                self._row.addWidget(made, 1)
        for knob, column in columns:
            shown = self.columns[knob or column.title]
            control = scene.control(knob) if knob is not None else None
            if isinstance(shown, Fader) and control is not None:
                shown.show_column(column, control, *_wanted(scene, control))
            elif isinstance(shown, LevelColumn):
                shown.show_column(column)


def _wanted(scene: LoopScene, control: Control) -> tuple[str, bool]:
    """What the guide wants of a control, in words, and whether the guide is at it."""
    now = scene.now
    if now is None:
        return "", False
    to = now.move.knobs.get(control.id) if now.move is not None else None
    move = "" if to is None else f"to {control.said(to)}"
    return move, control.id in now.controls


def _spare(spare: float) -> str:
    return f"{spare:.0f} dB to spare" if spare >= 0 else f"{-spare:.0f} dB short"
