"""What the Set space's views share: the case, the panel, the live set, the guide, readings."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import date
from typing import Any

from PySide6.QtCore import QTimer, Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.drafts import Drafts
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.reckoning import Reckoning, Reckons
from tonleiter.app.spaces.no_chain import no_chain
from tonleiter.app.spaces.set.at_desk import AtDesk
from tonleiter.app.spaces.set.heard import Heard
from tonleiter.app.spaces.set.own_voice import Read, Reading
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.gear.voice import Effort
from tonleiter.core.guide.cards import card_of, state_words
from tonleiter.core.guide.controls import in_school, with_knobs
from tonleiter.core.guide.live import Frame, Live
from tonleiter.core.guide.meters import read_meter, read_meters
from tonleiter.core.guide.onair import OnAir, on_air
from tonleiter.core.guide.scene import Scene
from tonleiter.core.guide.schools import tone_school
from tonleiter.core.guide.turning import turned_back
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.certainty import Doubts
from tonleiter.core.judge.findings.model import Finding, Remedies, Remedy
from tonleiter.core.report.why.at_end import why_knob, why_noise
from tonleiter.core.report.why.level import why_level
from tonleiter.core.report.why.model import Why
from tonleiter.core.setup.costs import costs_of_schools
from tonleiter.core.setup.modes import live_set, scene_of
from tonleiter.core.signal.spectrum import Spectrum
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import tone, whistle
from tonleiter.core.station import edits
from tonleiter.core.station.basis import Basis, basis_of, chain_basis
from tonleiter.core.station.card import SettingsCard
from tonleiter.core.station.model import Station
from tonleiter.core.station.records import drop_card, keep_card
from tonleiter.core.station.settings import KnobId, MeterId, PanelState
from tonleiter.core.words import the, within

# what costs several seconds of work begins when nobody has turned anything for a while
FRAME_MS, REST_MS, IDLE_MS = 40, 500, 1_200


class SetModel(Reckons, Watched):
    """Chains are solved and voices sent behind the window; knobs are turned at once."""

    changed = Signal()
    panel_changed = Signal()
    framed = Signal()
    reading_changed = Signal()
    remedies_changed = Signal()
    doubts_changed = Signal()
    grounds_wanted = Signal()

    doubts: Doubts | None = None

    def __init__(
        self, document: Document, jobs: Jobs, verdicts: Verdicts, reckoning: Reckoning
    ) -> None:
        super().__init__(document)
        self.reckoning = reckoning
        reckoning.changed.connect(self._follow)
        self._verdicts = verdicts
        self.effort: Effort | None = None
        self.recording: Sound | None = None
        self.speaking = ""
        self.own = False
        self.frame: Frame | None = None
        self._draft: PanelState | None = None
        self._label = "knob"
        self.at_desk = AtDesk(document, verdicts, self._edit_desk)
        self.at_desk.changed.connect(self._turn_page)
        self._live: Live | None = None
        self._case: Derived[OnAir] = self.derive(jobs, Wait.PAGE, self._case_changed)
        self._scene: Derived[Scene] = self.derive(jobs, Wait.HAND, self._scene_changed)
        self._tried: Derived[Remedies] = self.derive(
            jobs, Wait.PAGE, self.remedies_changed.emit, False
        )
        self._costs: Derived[dict[str, str]] = self.derive(jobs, Wait.LATER, self.changed.emit)
        self.heard = Heard(lambda: self.scene)
        self.heard.changed.connect(self.changed)
        read: Derived[Read] = self.derive(jobs, Wait.PAGE, self.reading_changed.emit)
        self.reading = Reading(read, self._spoken, self.refused.emit)
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self.tick)
        self._resting = self.when_resting(REST_MS, self.commit)
        self._idle = self.when_resting(IDLE_MS, self._cost, Wait.LATER)

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
        self.heard.silence()
        self.at_desk.silence()

    def hold_still(self, still: bool = True) -> None:
        """Stop the live set where it is, or let it run on."""
        if still:
            self._clock.stop()
        else:
            self._clock.start()

    @property
    def runs(self) -> bool:
        """Whether the live set runs."""
        return self._clock.isActive()

    @property
    def case(self) -> OnAir | None:
        """The open chain with its voice, as it stands now."""
        return self._case.current

    @property
    def scene(self) -> Scene | None:
        """The newest scene of the case; one knob behind at most."""
        scene = self._scene.value
        return scene if scene is not None and scene.case is self.case else None

    @property
    def no_remedy(self) -> str:
        """What is said where nothing is offered."""
        at_own = self.own and self.at_desk.on
        return "in the settings of your own system" if at_own else "no knob does that"

    @property
    def costs(self) -> dict[str, str]:
        """What each school costs, once it was measured for this panel."""
        return self._costs.current or {}

    @property
    def trouble(self) -> str:
        """Why nothing can be set."""
        if not self.station.chains:
            return no_chain("set")
        last = self.station.placed(self.station.chain().variant().stages[-1])
        if not last.transmits:
            return (
                f"This chain ends in {the(last.name)}, which sends nothing on the air:"
                " there is no set to be set."
            )
        if self.at_desk.on and (why := self.at_desk.trouble):
            return f"{why[:1].upper()}{why[1:]}."
        why = self._case.trouble
        return f"This chain cannot be computed: {why}." if why else ""

    def rests_on(self, basis: Basis) -> bool:
        """Whether the case is of this basis, whoever speaks into it."""
        return self.case is not None and self.case.basis == basis

    def _follow(self) -> None:
        if not self.seen:
            return
        if not self.station.chains or self._sends_nothing():
            for derived in self._derived:
                derived.nothing()
            self._live = self.frame = None
            self.heard.forget()
        else:
            station, effort, own = self.station, self.effort, self.recording
            basis, verdicts = basis_of(station), self._verdicts
            typed = basis_of(self.typed)

            def case(_: Task) -> OnAir:
                verdict = verdicts.of(station, basis)
                made = on_air(station, effort=effort, own=own, verdict=verdict)
                # cards are of the chain as it is written
                return made if made.basis == typed else replace(made, basis=typed)

            if not self._case.want((basis, effort, self.speaking, own), case):
                self._send()
        self.changed.emit()

    def _sends_nothing(self) -> bool:
        return not self.station.placed(self.station.chain().variant().stages[-1]).transmits

    def _case_changed(self) -> None:
        case = self.case
        if case is None:
            self._live = self.frame = None
        elif self._live is None or self._live_of is not case:
            self._live, self._live_of = Live(live_set(case, self.panel), self.panel), case
            self._send()
        self.changed.emit()

    _live_of: OnAir | None = None

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
        self._draft = with_knobs(self.panel, {knob: value})
        self._label = knob
        self._resting.start()
        self._send()
        self.panel_changed.emit()

    def commit(self) -> None:
        """The hand rests: what was turned is one step that can be undone."""
        self._resting.stop()
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
        made = in_school(self.panel, **schools)
        self._change("school", panel=made)

    def _change(self, label: str, **changes: Any) -> None:  # noqa: ANN401
        """Change fields of the open chain; one that may be refused is given as a function."""
        if not self.station.chains:
            raise EditRefusedError("there is no chain to change")
        chain = self.station.chain().id

        def change(station: Station) -> Station:
            made = {k: v() if callable(v) else v for k, v in changes.items()}
            return edits.change_chain(station, chain, **made)

        self.edit(label, change)

    def change_chain(self, **changes: Any) -> None:  # noqa: ANN401
        """Purpose, operator, distance."""
        self.commit()
        self._change("chain", **changes)

    def speak(self, how: str) -> None:
        """Softly, loudly, as the operator does (empty), or a whistle or a tone in place of that."""
        self.reading.stop()
        self.speaking = how
        self.effort = _EFFORTS.get(how)
        self.recording = {"whistle": whistle, "tone": _tone}[how]() if how in _OTHERS else None
        self._follow()

    def _spoken(self, read: Read) -> None:
        """A recording stands in the voice's place; what was done to take it is said."""
        self.speaking, self.effort, self.recording = "own", None, read.voice
        self._follow()
        if read.voice is not None and read.voice.remarks:
            self.refused.emit(f"{read.path.name}: {'; '.join(read.voice.remarks)}.")

    def follow_guide(self) -> None:
        """Make the guide's next move: turn knobs, or what stands before the radio."""
        scene = self.scene
        if scene is None or scene.now is None or scene.now.move is None:
            return
        move = scene.now.move
        if move.knobs:
            self._draft = scene.after(move)
            self._label = within(scene.now.title)
            self.commit()
        elif move.fix is not None:
            fix = move.fix
            self.commit()
            self.attempt(lambda: self.edit(fix.title, fix.apply))

    # --- sending ---------------------------------------------------------------------------------

    def _send(self) -> None:
        case = self.case
        if case is None:
            return
        panel, own = self.panel, self.readings()
        if self._live is not None:
            self._live.turn(panel)
        if self.at_desk.on and self.at_desk.desk is None:
            self._scene.nothing()
            return
        read = None if own is None else tuple(sorted(own.items()))
        make = self._maker(case, panel, own)
        asked = (self._case.basis, panel, read, self.at_desk.on and self.at_desk.rests_on())
        self._scene.want(asked, lambda _: make())

    def _maker(
        self, case: OnAir, panel: PanelState, own: Mapping[MeterId, float] | None
    ) -> Callable[[], Scene]:
        """What makes the scene of what one looks at: the radio, or the computer before it."""
        if self.at_desk.desk is not None:
            return self.at_desk.maker(case, panel, None if own is None else dict(own))
        return lambda: scene_of(case, panel, own)

    def _turn_page(self) -> None:
        """To the computer, or back to the radio."""
        self._send()
        self.changed.emit()

    def _edit_desk(self, label: str, change: Callable[[Station], Station]) -> None:
        """Something is done at the computer: one edit, a refusal is said."""
        self.commit()
        self.attempt(lambda: self.edit(label, change))

    def _scene_changed(self) -> None:
        scene = self.scene
        if scene is None or self._scene.busy:
            return
        self.heard.show(scene)
        self._try()
        self.changed.emit()
        self._idle.start()

    def _try(self) -> None:
        """What stops the chain has remedies that are tried; knobs are only turned."""
        scene = self.scene
        known = () if scene is None else scene.stops or scene.heard
        if scene is None or not known:
            self._tried.nothing()
            return
        verdict = scene.case.verdict
        self._tried.want(self._case.basis, lambda _: {f.key: verdict.remedies(f) for f in known})

    def _cost(self) -> None:
        """What each school costs, measured when nothing else is to be done."""
        scene, case = self.scene, self.case
        if scene is None or case is None or case.mode != "ssb" or scene.stops:
            self._costs.nothing()
            return
        panel = scene.panel
        schools = (panel.alc, panel.compression, panel.tone, panel.processing)
        self._costs.want((self._case.basis, schools), lambda _: costs_of_schools(case, panel))

    def tick(self) -> None:
        """The next block of the live set."""
        if self._live is not None:
            self.frame = self._live.step()
            self.framed.emit()

    def spectrum(self) -> Spectrum | None:
        """Of the last quarter of a second, or of the whole voice."""
        if self.frame is not None:
            return self.frame.spectrum
        return self.scene.spectrum if self.scene is not None else None

    # --- an own radio ----------------------------------------------------------------------------

    def use_own(self, own: bool) -> None:
        """The user's own radio, its meters typed; or the simulated one."""
        self.own = own
        self.at_desk.use_real(own)
        self._send()
        self.changed.emit()

    def readings(self) -> Mapping[MeterId, float] | None:
        """Of the own radio, in each meter's unit; None for the simulated one."""
        if not self.own:
            return None
        meters = self.scene.meters if self.scene is not None else ()
        return read_meters(meters, self.panel.readings)

    def take_reading(self, meter: MeterId, text: str) -> None:
        """A reading as typed; nothing takes it away. Raises MeterError."""
        kept = dict(self.panel.readings)
        if text.strip():
            found = self.scene.meter(meter) if self.scene else None
            if found is not None:
                read_meter(text, found.scale)
            kept[meter] = text.strip()
        else:
            kept.pop(meter, None)
        made = self.panel
        of = chain_basis(self.typed)
        read_of = of.sound if of is not None and kept else ""
        self._change("reading", panel=lambda: made.but(readings=kept, read_of=read_of))

    # --- cards -----------------------------------------------------------------------------------

    def keep_card(self, name: str = "") -> SettingsCard | None:
        """Keep the panel as a card: with what its own knobs show."""
        self.commit()
        scene = self._scene_of_now()
        if scene is None:
            return None
        if scene.stops:
            raise EditRefusedError(f"nothing is set yet: {within(scene.stops[0].says)}")
        today = date.today().isoformat()
        school = tone_school(scene.panel, scene.case.purpose)
        card = card_of(scene, self.records, today, name, self.own, school)
        self.note("settings card", lambda r: keep_card(r, card))
        return card

    def _scene_of_now(self) -> Scene | None:
        """The scene of the panel as it stands this moment; at once where it is not there yet."""
        case, panel, own = self.case, self.panel, self.readings()
        if case is None:
            return None
        scene = self.scene
        if scene is not None and (scene.panel, scene.own) == (panel, own):
            return scene
        return self._maker(case, panel, own)()

    def drop_card(self, card: SettingsCard) -> None:
        """Throw one away."""
        self.note("card thrown away", lambda r: drop_card(r, card.id))

    def put_back(self, card: SettingsCard) -> None:
        """Turn every knob of the card's own chain to where it has it, schools included."""
        self.commit()
        chain = next((c for c in self.station.chains if c.id == card.chain_id), None)
        if chain is None:
            raise EditRefusedError(f"the chain of this card, {card.chain}, is not there any more")
        back = turned_back(card)
        self.edit("knobs as on the card", lambda s: edits.open_chain(back(s), chain.id))

    def state_of(self, card: SettingsCard) -> str:
        """What is to be said of a card's age; empty for one that holds."""
        return state_words(card, self.typed)

    # --- what the tray asks ----------------------------------------------------------------------

    def found(self) -> tuple[Finding, ...]:
        """Findings, gravest first."""
        return self.scene.findings if self.scene is not None else ()

    def place_of(self, finding: Finding) -> str:
        """Where it is."""
        rows = self.scene.case.assessment.rows if self.scene is not None else ()
        return finding.place or next((r.name for r in rows if r.id == finding.stage), finding.stage)

    def whys(self) -> tuple[str, ...]:
        """What can be asked of the chain as it arrives at the radio."""
        now = self.judged_on()
        if now is None or now.rows[-1].speech_dbu < SILENT_DBU:
            return ()
        gain = ("gain",) if now.rows[-1].knob is not None else ()
        return ("level", "noise", *gain)

    def why(self, what: str) -> Callable[[], Why | None] | None:
        """What answers why it arrives so, or where its gain will stand."""
        now = self.judged_on()
        asks = {"level": why_level, "noise": why_noise, "gain": why_knob}
        return None if now is None else lambda: asks[what](now)

    def judged_on(self) -> Assessment | None:
        """The chain before the radio, where it is heard."""
        return self.scene.case.assessment if self.scene is not None else None

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """What mends it: what stops the chain has tried remedies, a knob is turned."""
        if self.scene is not None and finding in (*self.scene.stops, *self.scene.heard):
            return (self._tried.current or {}).get(finding.key)
        return tuple(
            Remedy(fix.title, fix.why, (), fix.effort, fix.family, True, fix.apply)
            for fix in finding.fixes
        )

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply one."""
        self.commit()
        self.edit(remedy.title, remedy.change)


_EFFORTS: dict[str, Effort] = {"soft": "soft", "loud": "loud"}
_OTHERS = ("whistle", "tone")


def _tone() -> Sound:
    return tone(3.0, 1000.0)
