"""What the Set space's views share: the case, the panel, the live set, the guide, readings."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Any

from PySide6.QtCore import QTimer, Signal

from tonleiter.app.audio.output import Output, find_output
from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.drafts import Drafts
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.voice import Effort
from tonleiter.core.judge.certainty import Doubts
from tonleiter.core.judge.findings.model import Finding, Remedy
from tonleiter.core.radio.deviation import deviation_of_null
from tonleiter.core.radio.receivers import Spectrum
from tonleiter.core.refused import RefusedError
from tonleiter.core.setup import ssb
from tonleiter.core.setup.cards import card_of, is_of
from tonleiter.core.setup.live import Frame, Live
from tonleiter.core.setup.onair import OnAir, on_air
from tonleiter.core.setup.panel import Meter
from tonleiter.core.setup.scene import (
    Scene,
    costs_of_schools,
    findings_of,
    received,
    scene_of,
    signal,
)
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import tone, whistle
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KnobId, PanelState, SettingsCard
from tonleiter.core.words import quoted

FRAME_MS, REST_MS = 40, 500


class MeterError(RefusedError):
    """A typed reading that is not on a meter's scale."""


class SetModel(Watched):
    """Chains are solved and voices sent behind the window; knobs are turned at once."""

    changed = Signal()
    panel_changed = Signal()
    framed = Signal()
    remedies_changed = Signal()
    doubts_changed = Signal()
    grounds_wanted = Signal()

    no_remedy = "no knob does that"
    doubts: Doubts | None = None

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__(document)
        self.case: OnAir | None = None
        self.scene: Scene | None = None
        self.before: Scene | None = None
        self.trouble = ""
        self.effort: Effort | None = None
        self.recording: Sound | None = None
        self.speaking = ""
        self.far = False
        self.own = False
        self.costs: dict[str, str] = {}
        self.frame: Frame | None = None
        self._costs_of: object = None
        self._draft: PanelState | None = None
        self._label = "knob"
        self._live: Live | None = None
        self._solved_of: object = self
        self._findings: tuple[Finding, ...] = ()
        self._spectrum: Spectrum | None = None
        self._cases, self._scenes, self._costing = (
            jobs.desk(Wait.PAGE), jobs.desk(Wait.HAND), jobs.desk(Wait.LATER)
        )  # fmt: skip
        self._cases.done.connect(self._take_case)
        self._cases.failed.connect(self._no_case)
        self._scenes.done.connect(self._take_scene)
        self._scenes.failed.connect(self.refused)
        self._costing.done.connect(self._take_costs)
        self._costing.failed.connect(lambda _: None)
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self._tick)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self.commit)

    # --- coming and going ------------------------------------------------------------------------

    def arrive(self) -> None:
        """It is seen from now on."""
        super().arrive()
        self._clock.start()

    def leave(self) -> None:
        """Nobody looks any more: what was turned is kept, what sounds stops."""
        self.commit()
        super().leave()
        self._clock.stop()
        self.silence()

    def rest(self) -> None:
        """Stop what runs behind the window."""
        for desk in (self._cases, self._scenes, self._costing):
            desk.stop()

    def _follow(self) -> None:
        if not self.seen:
            return
        key = self._key(self.station)
        if key != self._solved_of:
            self._solved_of = key
            self._solve()
        elif self.case is not None and self._draft is None:
            self._send()
        self.changed.emit()

    def _key(self, station: Station) -> object:
        """What the case depends on: everything but knobs and cards."""
        bare = tuple(c.model_copy(update={"panel": PanelState()}) for c in station.chains)
        return (station.gear, station.devices, station.links, bare, station.open_chain,
                station.operators, station.room_noise_dba, station.mains_hz, self.effort,
                self.recording)  # fmt: skip

    def _solve(self) -> None:
        self.trouble, self.costs, self._costs_of = "", {}, None
        self._cases.stop()
        self._scenes.stop()
        if not self.station.chains:
            self._switch_off("There is nothing to set yet: make a chain on the Ladder (3) first.")
            return
        chain = self.station.chain()
        last = self.station.placed(chain.variant().stages[-1])
        if not last.transmits:
            self._switch_off(f"This chain ends in the {last.name}, which sends nothing on the air:"
                             " there is no set to be set.")  # fmt: skip
            return
        station, effort, own = self.station, self.effort, self.recording
        self._cases.start(lambda _: on_air(station, effort=effort, own=own))

    def _take_case(self, case: object) -> None:
        assert isinstance(case, OnAir)
        self.case, self.trouble = case, ""
        self._live = Live(case, self.panel)
        self.scene = self.before = None
        self._send()
        self.changed.emit()

    def _no_case(self, why: str) -> None:
        self._switch_off(f"This chain cannot be computed: {why}.")
        self.changed.emit()

    def _switch_off(self, trouble: str) -> None:
        self.case = self.scene = self._live = None
        self.trouble = trouble

    def solve_now(self) -> None:
        """At once, for tests and pictures."""
        if self.station.chains and not self.trouble:
            self._cases.stop()
            try:
                self._take_case(on_air(self.station, effort=self.effort, own=self.recording))
            except CircuitError as error:
                self._no_case(str(error))
        self.send_now()

    # --- the panel -------------------------------------------------------------------------------

    @property
    def panel(self) -> PanelState:
        """As it stands: with what the hand is turning."""
        if self._draft is not None:
            return self._draft
        return self.station.chain().panel if self.station.chains else PanelState()

    @property
    def drafts(self) -> Drafts:
        """What was typed and refused."""
        return self.document.drafts

    def turn(self, knob: KnobId, value: float) -> None:
        """Turn a knob: meters follow at once, the station when the hand rests."""
        self._draft = ssb.with_knobs(self.panel, {knob: value})
        self._label = knob
        self._rest.start()
        self._send()
        self.panel_changed.emit()

    def commit(self) -> None:
        """The hand rests: what was turned is one step that can be undone."""
        self._rest.stop()
        draft, self._draft = self._draft, None
        if draft is None or not self.station.chains or draft == self.station.chain().panel:
            return
        chain = self.station.chain().id
        self.attempt(
            lambda: self.edit(self._label, lambda s: edits.change_chain(s, chain, panel=draft))
        )

    def choose(self, **schools: str) -> None:
        """Another school."""
        self.commit()
        made = ssb.in_school(self.panel, **schools)
        self._change("school", panel=made)

    def _change(self, label: str, **changes: Any) -> None:  # noqa: ANN401
        if not self.station.chains:
            raise EditRefusedError("there is no chain to change")
        chain = self.station.chain().id
        self.edit(label, lambda s: edits.change_chain(s, chain, **changes))

    def change_chain(self, **changes: Any) -> None:  # noqa: ANN401
        """Purpose, operator, distance."""
        self.commit()
        self._change("chain", **changes)

    def speak(self, how: str) -> None:
        """Softly, loudly, as the operator does (empty), or a whistle or a tone in place of that."""
        self.speaking = how
        self.effort = _EFFORTS.get(how)
        self.recording = {"whistle": whistle, "tone": _tone}[how]() if how in _OTHERS else None
        self._follow()

    def speak_own(self, sound: Sound) -> None:
        """A recording in the voice's place; its active level is one unit."""
        self.speaking, self.effort, self.recording = "own", None, sound
        self._follow()

    def listen(self, far: bool) -> None:
        """To a far receiver, or to one beside the dummy load."""
        self.far = far
        self.changed.emit()

    def follow_guide(self) -> None:
        """Make the guide's next move."""
        scene = self.scene
        if scene is None or scene.now is None or scene.now.move is None:
            return
        knobs = scene.now.move.knobs
        if not knobs:
            return
        self._draft = ssb.with_knobs(self.panel, knobs)
        self._label = scene.now.title.lower()
        if self.own and scene.now.meter:
            # it was turned: the reading of before says nothing any more
            kept = {k: v for k, v in self._draft.readings.items() if k != scene.now.meter}
            self._draft = self._draft.model_copy(update={"readings": kept})
        self.commit()

    # --- sending ---------------------------------------------------------------------------------

    def _send(self) -> None:
        case = self.case
        if case is None:
            return
        panel, own = self.panel, self.readings()
        if self._live is not None:
            self._live.turn(panel)
        self._scenes.start(lambda _: _seen(scene_of(case, panel, own)))

    def send_now(self) -> None:
        """At once, for tests and pictures."""
        if self.case is not None:
            self._scenes.stop()
            self._take_scene(_seen(scene_of(self.case, self.panel, self.readings())))

    def _take_scene(self, made: object) -> None:
        assert isinstance(made, tuple)
        scene, findings, spectrum = made
        if scene.case is not self.case:
            return
        was = self.scene
        if was is not None and was.panel.knobs != scene.panel.knobs:
            self.before = was
        self.scene, self._findings, self._spectrum = scene, findings, spectrum
        self.changed.emit()
        self._cost()

    def _cost(self) -> None:
        """What each school costs, measured when nothing else is to be done."""
        scene, case = self.scene, self.case
        if scene is None or case is None or case.mode != "ssb":
            return
        panel = scene.panel
        of = (id(case), panel.alc, panel.compression, panel.tone, panel.processing)
        if of != self._costs_of:
            self._costs_of = of
            self._costing.start(lambda _: (of, costs_of_schools(case, panel)))

    def costs_now(self) -> None:
        """At once, for pictures."""
        if self.case is not None and self.scene is not None and self.case.mode == "ssb":
            self._costing.stop()
            self._take_costs((self._costs_of, costs_of_schools(self.case, self.scene.panel)))

    def _take_costs(self, made: object) -> None:
        assert isinstance(made, tuple)
        if made[0] == self._costs_of:
            self.costs = made[1]
            self.changed.emit()

    def _tick(self) -> None:
        if self._live is not None:
            self.frame = self._live.step()
            self.framed.emit()

    def tick_now(self, count: int = 1) -> None:
        """So many blocks at once, for tests and pictures."""
        for _ in range(count):
            self._tick()

    def spectrum(self) -> Spectrum | None:
        """Of the last quarter of a second, or of the whole voice."""
        return self.frame.spectrum if self.frame is not None else self._spectrum

    # --- an own radio ----------------------------------------------------------------------------

    def use_own(self, own: bool) -> None:
        """The user's own radio, its meters typed; or the simulated one."""
        self.own = own
        self._send()
        self.changed.emit()

    def readings(self) -> Mapping[str, float] | None:
        """Of the own radio, in each meter's unit; None for the simulated one."""
        if not self.own:
            return None
        found = {}
        for meter, text in self.panel.readings.items():
            if self.scene is not None and (m := self.scene.meter(meter)) is not None:
                try:
                    found[meter] = self._read(text, m)
                except MeterError:
                    continue
        return found

    def _read(self, text: str, meter: Meter) -> float:
        plain = text.replace("−", "-").replace(",", ".").strip()
        full, unit = meter.full, meter.unit
        if meter.id == "deviation" and plain.lower().startswith("null"):
            return self._null(text, plain.split()[1:])
        share = plain.endswith("%") and unit != "%"
        plain = plain.removesuffix("%").removesuffix(unit).strip()
        try:
            value = float(plain)
        except ValueError:
            also = ", or a null, as null 1247" if meter.id == "deviation" else ""
            raise MeterError(f"{quoted(text)} is no reading; 0 to {full:g} {unit}, or a share of"
                             f" the scale as 40 %{also}, is wanted") from None  # fmt: skip
        value = value / 100 * full if share else value
        if not 0 <= value <= full:
            raise MeterError(f"{quoted(text)} is not on the meter's scale, which goes from 0 to"
                             f" {full:g} {unit}")  # fmt: skip
        return value

    @staticmethod
    def _null(text: str, words: list[str]) -> float:
        """Kilohertz of deviation from a null: its tone in hertz, before that its order."""
        try:
            order = int(words[0]) if len(words) == 2 else 1
            return deviation_of_null(float(words[-1]), order) / 1000
        except (ValueError, IndexError):
            raise MeterError(f"{quoted(text)} is no null; its tone in hertz is wanted: null 1247,"
                             " or its order as well, as null 2 543") from None  # fmt: skip

    def take_reading(self, meter: str, text: str) -> None:
        """A reading as typed; nothing takes it away. Raises MeterError."""
        kept = dict(self.panel.readings)
        if text.strip():
            found = self.scene.meter(meter) if self.scene else None
            if found is not None:
                self._read(text, found)
            kept[meter] = text.strip()
        else:
            kept.pop(meter, None)
        made = self.panel.model_copy(update={"readings": kept})
        self._change("reading", panel=PanelState.model_validate(made.model_dump()))

    # --- hearing ---------------------------------------------------------------------------------

    def output(self) -> Output | None:
        """Where it can be heard."""
        if not hasattr(self, "_output"):
            self._output = find_output()
        return self._output

    def hear(self, before: bool = False) -> bool:
        """Play what a receiver hears, now or before the last change; whether anything sounds."""
        scene = self.before if before else self.scene
        output = self.output()
        if scene is None or output is None:
            return False
        output.play(received(scene, self.far))
        return True

    def silence(self) -> None:
        """Stop."""
        if (output := self.output() if hasattr(self, "_output") else None) is not None:
            output.stop()

    # --- cards -----------------------------------------------------------------------------------

    def keep_card(self, name: str = "") -> SettingsCard | None:
        """Keep the panel as a card."""
        self.commit()
        if self.scene is not None and self.scene.panel != self.panel:
            self.send_now()  # a card says what its own knobs show
        if self.scene is None:
            return None
        card = card_of(self.scene, self.station, date.today().isoformat(), name, self.own)
        self.edit("settings card", lambda s: edits.keep_card(s, card))
        return card

    def drop_card(self, card: SettingsCard) -> None:
        """Throw one away."""
        self.edit("card thrown away", lambda s: edits.drop_card(s, card.id))

    def put_back(self, card: SettingsCard) -> None:
        """Turn every knob to where a card has it."""
        self.commit()
        made = ssb.with_knobs(self.panel, card.knobs)
        self._change("knobs as on the card", panel=made)

    def stale(self, card: SettingsCard) -> bool:
        """Whether the chain was changed since a card was made."""
        return (self.scene is not None and card.chain_id == self._chain_id()
                and not is_of(card, self.scene))  # fmt: skip

    def _chain_id(self) -> str:
        return self.station.chain().id if self.station.chains else ""

    # --- what the tray asks ----------------------------------------------------------------------

    def found(self) -> tuple[Finding, ...]:
        """Findings, gravest first."""
        return self._findings

    def place_of(self, finding: Finding) -> str:
        """Where it is."""
        return finding.place

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """What mends it, as edits of the station."""
        made = []
        for fix in finding.fixes:
            after = fix.apply(self.station)
            made.append(Remedy(fix.title, fix.why, (), fix.effort, fix.family, True, after))
        return tuple(made)

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply one."""
        self._draft = None
        self.edit(remedy.title, lambda _: remedy.station)


_EFFORTS: dict[str, Effort] = {"soft": "soft", "loud": "loud"}
_OTHERS = ("whistle", "tone")


def _tone() -> Sound:
    return tone(3.0, 1000.0)


def _seen(scene: Scene) -> tuple[Scene, tuple[Finding, ...], Spectrum]:
    return scene, findings_of(scene), signal(scene)
