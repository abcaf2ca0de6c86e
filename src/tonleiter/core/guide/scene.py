"""Everything that is seen of a radio being set: panel, meters, guide, headline, findings.

A mode is a kind of scene. It says what is sent, what its meters read and which knobs follow them;
order, states, headline and findings are made here from those, for all modes alike.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import ClassVar, Protocol

from tonleiter.core.gear.signals import SPEECH
from tonleiter.core.guide.controls import Control, at, with_knobs
from tonleiter.core.guide.follows import lost
from tonleiter.core.guide.meters import Meter, Scale
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.schools import Offered
from tonleiter.core.guide.step import Move, Step, turn
from tonleiter.core.judge.findings.codes import Meaning, declare, meaning
from tonleiter.core.judge.findings.model import TURN, Finding, Fix, Severity, gravest_first
from tonleiter.core.once import cached_property
from tonleiter.core.safety.cautions import caution
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.spectrum import Spectrum
from tonleiter.core.sound.beside import audible
from tonleiter.core.sound.level import Sounds
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KnobId, MeterId, PanelState, Seen
from tonleiter.core.words import count_of, one_or, within

ON_THE_PANEL = Meaning(counts=("settings",))
KNOB_OFF = declare("knob-off-its-aim", ON_THE_PANEL)
KNOB_END = declare("knob-at-its-end", ON_THE_PANEL)
SET_RIGHT = declare("set-right", ON_THE_PANEL)
MEND = "mend"


class LiveSet(Protocol):
    """A transmitter that is fed block by block; ``scales`` are those of its meters."""

    rate_hz: int

    @property
    def scales(self) -> Mapping[MeterId, Scale]:
        """Its meters' scales, as its knobs stand."""
        ...

    def turn(self, panel: PanelState) -> None:
        """Turn knobs while it runs."""
        ...

    def volts(self, panel: PanelState) -> Floats:
        """What goes round at its input, shape (n,)."""
        ...

    def send(self, audio: Floats) -> tuple[Mapping[MeterId, float], Complexes]:
        """A block: what each meter has now, in its own unit, and complex baseband."""
        ...


# what is no speech, in words; the step that says so
_SOUNDS: dict[Sounds, str] = {"steady": "a steady tone", "silence": "silence"}
VOICE_STEP, EVERYTHING = "voice", "Everything is where it should be"
# readings of before that are kept
MOST_SEEN = 8


class Scene(ABC):
    """A radio with its panel as it stands, its meters for a voice, and the guide.

    ``own`` has readings of the user's own radio by meter, in that meter's unit; without it the
    simulated set's are taken. Computed when first asked for; ``complete`` asks for everything.
    """

    mode: ClassVar[ModeId]
    title: ClassVar[str]

    def __init__(
        self, case: OnAir, panel: PanelState, own: Mapping[MeterId, float] | None = None
    ) -> None:
        self.case, self.panel, self.own = case, panel, own

    def complete(self) -> Scene:
        """The same with everything computed."""
        _ = self.meters, self.controls, self.steps, self.findings, self.spectrum
        return self

    # --- what a mode says ------------------------------------------------------------------------

    @cached_property
    @abstractmethod
    def meters(self) -> tuple[Meter, ...]:
        """What the set's meters show."""

    @cached_property
    @abstractmethod
    def controls(self) -> tuple[Control, ...]:
        """The panel's knobs with their aims."""

    @abstractmethod
    def own_steps(self) -> Iterator[Step]:
        """The guide of this mode."""

    @abstractmethod
    def listeners_get(self) -> str:
        """One sentence for what listeners get."""

    @cached_property
    @abstractmethod
    def spectrum(self) -> Spectrum:
        """What leaves the aerial socket."""

    @abstractmethod
    def audio(self, far: bool) -> Sound:
        """What a receiver beside the dummy load hears, or a far one."""

    @classmethod
    @abstractmethod
    def live(cls, case: OnAir, panel: PanelState) -> LiveSet:
        """The same set, fed block by block."""

    def own_findings(self) -> Iterator[Finding]:
        """What is to be minded beyond knobs that are off."""
        return iter(())

    def off_says(self, step: Step) -> str:
        """What is wrong where the guide is, as listeners or meters have it."""
        return f"{step.title} is not where it should be"

    def offered(self) -> tuple[Offered, ...]:
        """Schools and other choices of this mode's panel."""
        return ()

    def neighbours(self) -> tuple[str, str]:
        """What the channels below and above get, in words; empty where nobody says."""
        return "", ""

    # --- looking things up -----------------------------------------------------------------------

    def control(self, name: KnobId) -> Control | None:
        """A control by its id."""
        return next((c for c in self.controls if c.id == name), None)

    def meter(self, name: MeterId | None) -> Meter | None:
        """A meter by its id."""
        return next((m for m in self.meters if m.id == name), None)

    def reads(self, meter: MeterId, simulated: float) -> float | None:
        """What counts as a meter's reading: an own radio's, None until it was read; else ours."""
        return simulated if self.own is None else self.own.get(meter)

    # --- the guide -------------------------------------------------------------------------------

    def _whose_voice(self) -> Iterator[Step]:
        """Whose level is set: a tone, a whistle or silence says nothing of speech."""
        if self.own is not None or self.case.sounds == "speech":
            return
        what = _SOUNDS[self.case.sounds]
        move = Move(
            "Let the operator speak, or choose a recording of speech: gain is set on that.",
            f"peaks of speech stand {SPEECH.crest_db:.0f} dB over its level, those of a tone 3; and"
            " nobody speaks as evenly",
        )
        yield Step(VOICE_STEP, "Whose voice", f"What goes in is {what}.", what, move)

    @property
    def stops(self) -> tuple[Finding, ...]:
        """What must be mended before anything is set: the chain's verdict, not ours."""
        return self.case.verdict.stops("settings")

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """The guide, each step with its state; nothing is turned while something stops the chain.

        A knob with an aim that no step names has a step of its own: what is counted is led to.
        """
        found = [*self._whose_voice(), *self.own_steps()]
        named = {k for s in found for k in s.controls}
        found += [
            turn(c.id, c.title.capitalize(), "", (c,))
            for c in self.controls
            if c.aim is not None and c.id not in named
        ]
        first, *rest = self._in_order(found)
        hazards = self.case.assessment.station.hazards(self.case.assessment.rows[-1].gear)
        # what the set itself can do to somebody comes before anything is mended or turned
        warned = " ".join(w for w in (caution(*hazards), first.caution) if w) if hazards else ""
        return (replace(first, caution=warned) if warned else first, *rest)

    def _in_order(self, found: list[Step]) -> tuple[Step, ...]:
        """Each with its state: what must be mended first, then the guide."""
        if self.stops:
            mend = [
                Step(
                    f"{MEND}-{k}",
                    "Mend first",
                    "Ways to do it stand below; until then nothing is plugged in.",
                    "",
                    Move(f"{f.says}.", f.proof),
                    state="now" if k == 0 else "later",
                )
                for k, f in enumerate(self.stops)
            ]
            return (*mend, *(replace(s, move=None, state="later") for s in found))
        undone = [k for k, s in enumerate(found) if s.move is not None]
        # what nothing here can do does not keep the rest waiting
        able = [k for k in undone if (m := found[k].move) is not None and m.can_be_made]
        at = next(iter(able or undone), len(found))
        return tuple(
            replace(
                s,
                state="now"
                if k == at
                else "open"
                if not s.done and k < at
                else "done"
                if s.done and k < at
                else "later",
            )
            for k, s in enumerate(found)
        )

    @cached_property
    def now(self) -> Step | None:
        """The step that is on."""
        return next((s for s in self.steps if s.state == "now"), None)

    @property
    def is_right(self) -> bool:
        """Whether nothing is left to do."""
        return self.now is None and not any(s.state == "open" for s in self.steps)

    def after(self, move: Move) -> PanelState:
        """The panel with a move's knobs turned; an own radio's meters must be read again then."""
        made = with_knobs(self.panel, move.knobs)
        if self.own is not None and set(move.knobs) - {"power"}:
            seen = [
                Seen(meter=meter, read=read, knob=knob, at=at(self.panel, knob))
                for meter, read in self.own.items()
                for knob in move.knobs
            ]
            made = made.but(readings={}, seen=(*self.panel.seen, *seen)[-MOST_SEEN:])
        return made

    def lost(self, meter: MeterId, knob: Control | None, per_db: float, full: float) -> bool:
        """Whether an own radio's meter went the wrong way often enough to ask no more of it."""
        read = None if self.own is None else self.own.get(meter)
        if read is None or knob is None:
            return False
        now = Seen(meter=meter, read=read, knob=knob.id, at=knob.value)
        return lost(self.panel.seen, now, meter, knob.id, per_db, full)

    # --- what is said ----------------------------------------------------------------------------

    @property
    def headline(self) -> tuple[str, str]:
        """One sentence for what listeners get, or what stops the chain, and one of what is left."""
        if self.stops:
            more = len(self.stops) - 1
            tail = f", and {count_of(more, 'thing')} more" if more else ""
            return f"Mend first: {self.stops[0].says}{tail}.", "nothing is set until then"
        if self.own is None and self.case.sounds != "speech":
            what = _SOUNDS[self.case.sounds]
            return f"What goes in is {what}: gain is set on speech.", self.left()
        return self.listeners_get(), self.left()

    def left(self) -> str:
        """How many knobs are off, by the same count as the guide's."""
        wrong = [c for c in self.controls if not c.fits()]
        if wrong:
            is_are = one_or(len(wrong), "is", "are")
            where = one_or(len(wrong), "it should", "they should")
            return f"{count_of(len(wrong), 'knob')} {is_are} not where {where} be yet"
        if self.is_right:
            chain = f"; of the chain: {within(self.heard[0].says)}" if self.heard else ""
            return f"every knob is where it should be{chain}"
        now = self.now
        what = now.title.lower() if now is not None else "what stands before the radio"
        return f"no knob is off; see to: {what}"

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What is to be minded, each with the move that mends it; what stops the chain first."""
        verdict = self.case.verdict.found("settings")
        if self.stops:
            return verdict
        own = tuple(self.own_findings())
        # what is wrong there is said already, with the same move
        moves = {fix.title for fix in self.fix_now()}
        said = any(fix.title in moves for f in own for fix in f.fixes)
        off = () if said else self._off()
        # what can be turned comes before what it does to others
        return gravest_first((*verdict, *off, *own, *self.heard, *self._fine()))

    @cached_property
    def heard(self) -> tuple[Finding, ...]:
        """What of the chain itself is heard however its knobs stand: bass lost, hum, noise."""
        found = self.case.verdict.found("chain")
        return tuple(
            f
            for f in found
            if f.severity == "mind"
            and ((of := meaning(f.code)).bass or of.hum or of.noise)
            and "settings" not in of.counts
        )

    def _off(self) -> Iterator[Finding]:
        now = self.now
        if now is None or now.move is None or now.move.asks:
            return
        if now.move.at_end:
            yield self.finding(KNOB_END, "mind", now.title.lower(), now.move.says, now.move.why, {})
        elif now.move.knobs:
            yield self.finding(
                KNOB_OFF,
                "mind",
                now.title.lower(),
                self.off_says(now),
                now.move.why,
                {},
                self.fix_now(),
            )

    def _fine(self) -> Iterator[Finding]:
        if self.is_right:
            yield self.finding(
                SET_RIGHT,
                "fine",
                "panel",
                "Every knob is where it should be" if self.heard else EVERYTHING,
                "keep it as a card",
                {},
            )

    def finding(
        self,
        code: str,
        severity: Severity,
        place: str,
        says: str,
        proof: str,
        evidence: dict[str, float],
        fixes: tuple[Fix, ...] = (),
    ) -> Finding:
        """A finding of the panel."""
        return Finding(
            code=code,
            severity=severity,
            stage="panel",
            says=says,
            proof=proof,
            evidence=evidence,
            fixes=fixes,
            place=place,
        )

    def turned(self, title: str, knobs: Mapping[KnobId, float], why: str) -> Fix:
        """A fix that turns knobs of the chain: of the panel as it will stand then."""
        chain_id = self.case.basis.chain

        def apply(station: Station) -> Station:
            panel = with_knobs(station.chain(chain_id).panel, knobs)
            return edits.change_chain(station, chain_id, panel=panel)

        return Fix(title, apply, why, TURN)

    def fix_now(self) -> tuple[Fix, ...]:
        """The guide's next move as a fix."""
        now = self.now
        if now is None or now.move is None or not now.move.knobs:
            return ()
        parts = [
            f"{c.title} to {c.said(value)}"
            for name, value in now.move.knobs.items()
            if (c := self.control(name)) is not None
        ]
        return (self.turned(f"Turn {', '.join(parts)}", now.move.knobs, now.move.why),)

    def received(self, far: bool = False) -> Sound:
        """What a receiver hears, its peaks near one, whatever its level was."""
        return audible(self.audio(far))
