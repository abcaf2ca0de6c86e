"""The Set space: panel, meters and spectrum of a simulated set, the guide, what was found."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.reckoned_switch import ReckonedSwitch
from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.set.cards_window import CardsWindow
from tonleiter.app.spaces.set.desk_panel import DeskPanel
from tonleiter.app.spaces.set.dial import WIDE_PX, Dial
from tonleiter.app.spaces.set.guide import GuidePanel
from tonleiter.app.spaces.set.meter_bar import MeterBar
from tonleiter.app.spaces.set.model import SetModel
from tonleiter.app.spaces.set.own_voice import ReadingBar
from tonleiter.app.spaces.set.real_panel import RealPanel
from tonleiter.app.spaces.set.spectrum_view import SpectrumView
from tonleiter.app.spaces.space import Action, Badge, Context, WatchedSpace, gravest
from tonleiter.app.widgets.canvas.read_off import HINT
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.frames import sentence, share_px, stack, words_before
from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.panel import clear
from tonleiter.app.widgets.tray import Tray
from tonleiter.app.widgets.why_row import WhyRow
from tonleiter.core.setup.loop.real import RealLoop
from tonleiter.core.setup.loop.scene import LoopScene
from tonleiter.core.sound.files import wav_bytes
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.disk import write_file
from tonleiter.core.station.purpose import PURPOSES
from tonleiter.core.words import within

DESK_GUIDE_SHARE = 0.27  # a desk wants more room beside it
GUIDE_SHARE, LEAST_GUIDE_PX, MOST_GUIDE_PX = 0.42, 260, 560
TRAY_SHARE = 0.155
VOICES = (
    ("as usual", ""),
    ("softly", "soft"),
    ("loudly", "loud"),
    ("a whistle", "whistle"),
    ("a tone of 1 kHz", "tone"),
    ("my recording…", "own"),
)


class SetSpace(WatchedSpace):
    """The chain is solved, and the set runs, while it is looked at."""

    model: SetModel

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = self._look = context.look
        self.model = SetModel(context.document, context.jobs, context.verdicts, context.reckoning)
        self.reckoned = ReckonedSwitch(context.reckoning)
        self.model.setParent(self)  # its clocks live as long as the space is seen
        self.model.refused.connect(self.refused)
        self.chains = Choice(look, "Chain", 250)
        self.purposes = Choice(look, "Purpose", 220)
        self.voices = Choice(look, "Operator", 170)
        self.efforts = Choice(look, "How loudly", 150)
        self.places = Choice(look, "At the radio or at the computer", 150)
        self.whys = WhyRow()
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.dials: dict[str, Dial] = {}
        self.bars: dict[str, MeterBar] = {}
        self._dial_grid, self._bar_row = QGridLayout(), QGridLayout()
        self._schools = QVBoxLayout()
        # below what is sent: it is read once, the spectrum all the time
        self._costs = label("", "caption", wraps=True)
        self.view = SpectrumView(look)
        self.guide = GuidePanel(self.model, look)
        self.desk = DeskPanel(self.model, look)
        self.real = RealPanel(self.model.at_desk, look)
        self._reading = ReadingBar(look, self.model.reading)
        self.tray = Tray(self.model, look, context.asking.ask)
        self._built_for: object = None
        self._schools_for: object = None
        self._cards: CardsWindow | None = None
        self._arrange()
        self.model.changed.connect(self.refresh)
        self.model.panel_changed.connect(self._show_panel)
        self.model.framed.connect(self._show_frame)
        self.guide.hearing.save_wanted.connect(self.ask_sound)
        self.guide.hearing.save_pair_wanted.connect(self.ask_pair)
        self.model.reading_changed.connect(self._reading.refresh)
        self.guide.cards_wanted.connect(self.open_cards)
        look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = sentence(
            (
                ("I set", self.chains),
                ("for", self.purposes),
                ("as", self.voices),
                ("speaking", self.efforts),
                ("at", self.places),
            )
        )
        row = header.layout()
        if row is not None:
            row.addWidget(self.reckoned)
        self._of_voice = words_before(header, self.voices, self.efforts)
        self._of_place = words_before(header, self.places)
        self.places.chosen.connect(self._turn_page)
        self.chains.chosen.connect(self._open_chain)
        self.purposes.chosen.connect(self._set_purpose)
        self.voices.chosen.connect(self._set_voice)
        self.efforts.chosen.connect(self._set_effort)
        body = QWidget()
        body.setObjectName("center")
        column = QVBoxLayout(body)
        column.setContentsMargins(20, 10, 14, 8)
        column.setSpacing(8)
        column.addWidget(self._says)
        column.addWidget(self._proves)
        column.addWidget(self._reading)
        panel = QFrame()
        panel.setObjectName("card")
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(12, 8, 12, 8)
        inside.setSpacing(6)
        self._dial_grid.setSpacing(2)
        inside.addLayout(self._dial_grid)
        self._bar_row.setHorizontalSpacing(18)
        inside.addLayout(self._bar_row)
        inside.addLayout(self._schools)
        self.whys.asked.connect(self._ask_why)
        inside.addWidget(self.whys)
        radio = self._radio = QWidget()
        there = QVBoxLayout(radio)
        there.setContentsMargins(0, 0, 0, 0)
        there.setSpacing(8)
        there.addWidget(panel)
        frame = QFrame()
        frame.setObjectName("card")
        below = QVBoxLayout(frame)
        below.setContentsMargins(12, 6, 12, 6)
        below.setSpacing(2)
        below.addWidget(label("What leaves the aerial socket", "step"))
        below.addWidget(self.view, 1)
        there.addWidget(frame, 1)
        there.addWidget(self._costs)
        column.addWidget(radio, 1)
        column.addWidget(self.desk, 1)
        column.addWidget(self.real, 1)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(body)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self._area, 1)
        middle.addWidget(self.guide)
        stack(self, header, middle, self.tray)

    def _ask_why(self, what: str) -> None:
        answer = self.model.why(what)
        if answer is not None:
            self.context.asking.ask(answer)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """The guide gives way first; knobs go into another row."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        look = self._look
        at_desk = self.model.at_desk.on
        share = DESK_GUIDE_SHARE if at_desk else GUIDE_SHARE
        most = look.px(MOST_GUIDE_PX)
        self.guide.setFixedWidth(share_px(self.width(), share, LEAST_GUIDE_PX, most))
        self.tray.limit(round(TRAY_SHARE * self.height()))
        self.desk.fit(self._width_px())
        self.real.fit(self._width_px())
        self._lay_dials()

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Header, headline, panel, guide."""
        model, station = self.model, self.model.station
        self._fit()
        if station.chains:
            chain = station.chain()
            self.chains.show_items([(c.name, c.id) for c in station.chains], chain.id)
            self.purposes.show_items([(p.title, p.id) for p in PURPOSES.values()], chain.purpose)
            self.voices.show_items([(o.name, o.id) for o in station.operators], chain.operator)
            effort = model.speaking
            self.efforts.show_items(list(VOICES), effort)
            spoken = chain.purpose_facts.spoken
            self.voices.setEnabled(spoken)
            self.efforts.setEnabled(spoken)
            desk = model.at_desk
            where = "computer" if desk.on else "radio"
            self.places.show_items([("the radio", "radio"), ("the computer", "computer")], where)
            for widget in self._of_voice:
                widget.setVisible(spoken or not desk.offered)
            for widget in self._of_place:
                widget.setVisible(desk.offered)
        scene = model.scene
        at_desk, real = isinstance(scene, LoopScene), isinstance(scene, RealLoop)
        self._radio.setVisible(not at_desk)
        self.desk.setVisible(at_desk and not real)
        self.real.setVisible(real)
        if scene is None:
            self._says.setText(model.trouble or "The chain is being solved and a voice sent…")
            self._proves.setText("")
        else:
            says, proves = scene.headline
            if (
                model.own
                and not scene.stops
                and scene.now is not None
                and scene.now.move is not None
            ):
                whose = "computer" if at_desk else "radio"
                says = f"On your own {whose}: {within(scene.now.title)}. {scene.now.move.says}"
                proves = "the set here shows what yours should"
            self._says.setText(says)
            typical = ", ".join(scene.case.typical)
            unknown = f" Typical of this set: {typical}; Gear (1) says how to find them."
            unknown = unknown if typical else ""
            self._proves.setText(f"{proves[0].upper()}{proves[1:]}.{unknown}")
        self.whys.offer(model.whys())
        if isinstance(scene, RealLoop):
            self.real.show_system()
        elif isinstance(scene, LoopScene):
            self.desk.show_scene(scene)
        else:
            self._build()
            self._show_panel()
            self._show_neighbours()
        self.guide.show_guide()
        self.badge_changed.emit()

    def _build(self) -> None:
        """Dials and bars, made anew when the set has others."""
        scene = self.model.scene
        controls = scene.controls if scene else ()
        meters = scene.meters if scene else ()
        key = (
            [(c.id, c.low, c.high, c.title) for c in controls],
            [(m.id, m.full) for m in meters],
            self._look.scale,
        )
        if key != self._built_for:
            self._built_for = key
            clear(self._dial_grid)
            clear(self._bar_row)
            self.dials = {c.id: Dial(self._look, c, self.model.drafts) for c in controls}
            for dial in self.dials.values():
                dial.turned.connect(lambda knob, value: self.model.turn(knob, value))
                dial.rested.connect(self.model.commit)
            self.bars = {m.id: MeterBar(self._look, m) for m in meters}
            self._columns = 0
            self._lay_dials()
        self._show_schools()

    def _lay_dials(self) -> None:
        """As many knobs beside each other as there is room for."""
        if not self.dials:
            return
        wide = self._width_px()
        columns = max(wide // (self._look.px(WIDE_PX) + 2), 2)
        across = 3 if wide > self._look.px(480) else 2 if wide > self._look.px(330) else 1
        if (columns, across) == self._columns:
            return
        self._columns = (columns, across)
        for k, dial in enumerate(self.dials.values()):
            self._dial_grid.addWidget(dial, k // columns, k % columns)
        for k, bar in enumerate(self.bars.values()):
            self._bar_row.addWidget(bar, k // across, k % across)

    _columns: object = 0

    def _show_panel(self) -> None:
        """Knobs as they stand, with what the guide wants of them."""
        scene = self.model.scene
        if scene is None:
            return
        if isinstance(scene, LoopScene):
            self.desk.show_turned(self.model.panel)
            return
        knobs = self.model.panel.knobs
        now = scene.now
        moves = dict(now.move.knobs) if now is not None and now.move is not None else {}
        for control in scene.controls:
            dial = self.dials.get(control.id)
            if dial is None:
                continue
            value = knobs.get(control.id, control.value)
            shown = control if value == control.value else replace(control, value=value)
            move = ""
            if control.id in moves and abs(moves[control.id] - value) >= control.step / 2:
                move = f"to {shown.said(moves[control.id])}"
            dial.show_control(shown, move, now is not None and control.id in now.controls)
        for meter in scene.meters:
            if (bar := self.bars.get(meter.id)) is not None:
                bar.show_meter(meter)

    def _show_frame(self) -> None:
        frame, scene = self.model.frame, self.model.scene
        if frame is None or scene is None or isinstance(scene, LoopScene):
            return
        for name, value in frame.values.items():
            if (bar := self.bars.get(name)) is not None:
                bar.needle(value)
        self.view.show_spectrum(frame.spectrum, scene.case.mode)

    def _show_neighbours(self) -> None:
        scene = self.model.scene
        if scene is None:
            self.view.show_spectrum(None, "ssb")
            self.view.say("", "")
            return
        self.view.show_spectrum(self.model.spectrum(), scene.case.mode)
        self.view.say(*scene.neighbours())

    def _show_schools(self) -> None:
        """The choices of the mode, each with what it costs."""
        scene, model = self.model.scene, self.model
        offered = scene.offered() if scene is not None else ()
        key = (
            scene.mode if scene else "",
            [(o.kind, o.chosen) for o in offered],
            tuple(sorted(model.costs.items())),
            self._width_px(),
            self._look.scale,
        )
        if key == self._schools_for:
            return
        self._schools_for = key
        clear_layout(self._schools)
        if not offered:
            self._costs.hide()
            return
        narrow = self._width_px() < self._look.px(560)
        grid = QGridLayout()
        said = []
        for k, one in enumerate(offered):
            choice = Choice(self._look, one.title, 190)
            items = [(f"{one.title}: {text}" if narrow else text, key) for key, text in one.words]
            choice.show_items(items, one.chosen)
            choice.chosen.connect(lambda _, k=one.kind, c=choice: self._choose(k, c))
            if narrow:
                grid.addWidget(choice, k, 0)
            else:
                grid.addWidget(label(one.title, "caption"), k // 2, 2 * (k % 2))
                grid.addWidget(choice, k // 2, 2 * (k % 2) + 1)
            cost = model.costs.get(f"{one.kind}:{one.chosen}", "")
            if cost:
                said.append(f"This {one.called or one.title}, against {one.against}, {cost}.")
        grid.setColumnStretch(0 if narrow else 4, 1)
        self._schools.addLayout(grid)
        told = scene is not None and scene.mode == "ssb" and not scene.stops
        self._costs.setVisible(told)
        self._costs.setText("\n".join(said) or "What each school costs is being measured…")

    def _width_px(self) -> int:
        """What the guide leaves to the panel."""
        return self.width() - self.guide.width() - 70

    def _choose(self, kind: str, choice: Choice) -> None:
        self.model.attempt(lambda: self.model.choose(**{kind: choice.currentData()}))

    # --- the header ------------------------------------------------------------------------------

    def _open_chain(self) -> None:
        chain = self.chains.currentData()
        self.model.commit()
        self.model.open_chain(chain)

    def _turn_page(self) -> None:
        self.model.at_desk.look(self.places.currentData() == "computer")

    def _set_purpose(self) -> None:
        purpose = self.purposes.currentData()
        self.model.attempt(lambda: self.model.change_chain(purpose=purpose))

    def _set_voice(self) -> None:
        operator = self.voices.currentData()
        self.model.attempt(lambda: self.model.change_chain(operator=operator))

    def _set_effort(self) -> None:
        chosen = self.efforts.currentData()
        if chosen == "own":
            self.ask_recording()
            self.refresh()
            return
        self.model.speak(chosen)

    def ask_recording(self) -> None:
        """Ask for a recording of the user's own voice."""
        name, _ = QFileDialog.getOpenFileName(
            self, "A recording of your voice", "", "Sound (*.wav *.flac *.ogg)"
        )
        if name:
            self.take_recording(Path(name))

    def take_recording(self, path: Path) -> None:
        """Speak with a recording, once it was read; a refusal is said, and the voice stays."""
        self.model.reading.take(path)

    def ask_sound(self) -> None:
        """Ask where what is heard now goes."""
        if (scene := self.model.scene) is not None:
            self._save_sound("heard", scene.received(self.model.heard.far))

    def ask_pair(self) -> None:
        """Ask where both go, before and now one after the other."""
        if (pair := self.model.heard.pair()) is not None:
            self._save_sound("before and now", pair.in_turn())

    def _save_sound(self, name: str, sound: Sound) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Save what they hear", f"{name}.wav", "Sound (*.wav)"
        )
        if chosen:
            self.model.attempt(lambda: write_file(Path(chosen), wav_bytes(sound)))

    def open_cards(self) -> None:
        """The cards that are kept."""
        self._cards = CardsWindow(self.model, self._look, self)
        self._cards.show()

    def print_card(self) -> None:
        """The card that was kept last, as it will lie on the paper."""
        self.open_cards()
        if self._cards is not None:
            self._cards.ask_print()

    # --- what the window asks --------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The set is switched on."""
        self.model.arrive()
        first = next(iter(self.dials.values()), None)
        (first or self).setFocus(Qt.FocusReason.ShortcutFocusReason)

    def badge(self) -> Badge | None:
        """What is to be minded."""
        return gravest(self.model.found()) if self.model.is_of_now else None

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while the panel is shown."""
        return (
            Action("Make the guide's next move", "G", self.model.follow_guide),
            Action("Print the card that was kept last", "Ctrl+P", self.print_card),
            Action("Hear it", "H", self.model.heard.play),
            Action("Hear before and now in turn, at the same place", "B", self.model.heard.in_turn),
            Action("Hold what stands now, to compare; let it go", "J", self.model.heard.hold),
            Action(
                "Keep the settings as a card", "K", lambda: self.model.attempt(self.model.keep_card)
            ),
        )

    def hints(self) -> tuple[tuple[str, str], ...]:
        """What knobs understand."""
        return (
            ("Drag up or down, with Shift finely", "Turn a knob"),
            ("↑ ↓, Page, Home, End; Enter", "Turn the knob that has the keyboard; type a figure"),
            (HINT[0], f"In the spectrum: {within(HINT[1])}"),
        )


def clear_layout(layout: QVBoxLayout) -> None:
    """Put away everything in a layout of layouts."""
    while (item := layout.takeAt(0)) is not None:
        inner = item.layout()
        if inner is not None:
            clear(inner)
