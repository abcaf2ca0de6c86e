"""Setting FM voice: the gain to the limiter, the trimmer inside to the system, the same by ear."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tonleiter.core.guide.before import distance, outboard
from tonleiter.core.guide.controls import Control, Zone, at, control
from tonleiter.core.guide.gain import gain, level_step, nothing_moves
from tonleiter.core.guide.meters import Meter, Scale
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import ON_THE_PANEL, LiveSet, Scene
from tonleiter.core.guide.schools import SYSTEM_WORDS, Offered
from tonleiter.core.guide.step import AIR, Move, Step
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import Finding, Severity
from tonleiter.core.once import cached_property
from tonleiter.core.radio.deviation import correction_db
from tonleiter.core.radio.fm import (
    FM_HZ,
    NARROW_HZ,
    WIDE_HZ,
    FmKnobs,
    FmTransmitter,
    Modulated,
    modulated,
)
from tonleiter.core.radio.receivers import discriminated
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.safety.cautions import caution
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.spectrum import Spectrum, line_db, spectrum
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.settings import KNOBS, Knob, MeterId, PanelState

TOO_WIDE = declare("deviates-too-far", ON_THE_PANEL)
# what of a channel voice takes at peaks; a voice works its limiter by so much
VOICE: Zone = (0.78, 0.985)
LIMITER_DB: Zone = (2.0, 7.0)
LIMITER_FULL_DB, OVER_THE_SYSTEM = 15.0, 1.3
LIMITER_TOO_MUCH_DB = 12.0
# the edge of a channel has some room: past a tenth more its neighbours hear it
NEIGHBOURS_HEAR = 1.1
# noise against the carrier, beside the load and far away
NEAR_DB, FAR_DB = -40.0, -14.0
# a recording's beginning, where filters settle, is no peak of the voice
SETTLES = 10


@dataclass(frozen=True, eq=False)
class FmResult:
    """A whole recording sent: its highest deviation, what the limiter cut, what carrier is left."""

    sent: Modulated
    peak_hz: float
    limited_db: float
    carrier_db: float


def trimmer(case: OnAir) -> Knob:
    """The trimmer inside: it comes as the set's maker left it."""
    return replace(KNOBS["deviation"], usual=KNOBS["deviation"].held(case.figures.deviation_hz))


def system_hz(panel: PanelState) -> float:
    """The wide or the narrow system: what the person chose."""
    return NARROW_HZ if panel.system == "narrow" else WIDE_HZ


def knobs_of(case: OnAir, panel: PanelState) -> FmKnobs:
    """The simulated panel's knobs; a data path goes past pre-emphasis and limiter."""
    return FmKnobs(
        at(panel, "gain") / 100.0,
        at(panel, "deviation", trimmer(case)),
        flat=case.figures.fixed_gain,
    )


def send_fm(case: OnAir, panel: PanelState, volts: Floats) -> FmResult:
    """Send volts at the radio's input with a panel."""
    sent = modulated(case.figures, knobs_of(case, panel), Sound(volts, AUDIO_HZ))
    settled = np.abs(sent.deviation_hz[sent.deviation_hz.size // SETTLES :])
    # whole turns of any tone of 5 Hz and its multiples
    turns = sent.z[-FM_HZ // 5 * (sent.z.size // (FM_HZ // 5) - 1) :]
    return FmResult(
        sent, float(settled.max(initial=0.0)), sent.limited_db, line_db(turns, 0.0, FM_HZ)
    )


def scales_of(panel: PanelState) -> dict[MeterId, Scale]:
    """The meters beside an FM set."""
    return {
        "deviation": Scale("deviation", OVER_THE_SYSTEM * system_hz(panel) / 1000),
        "limiter": Scale("limiter", LIMITER_FULL_DB),
        "carrier": Scale("carrier", 60.0, "mean"),
    }


class LiveFm:
    """An FM set fed block by block."""

    def __init__(self, case: OnAir, panel: PanelState) -> None:
        self.rate_hz = FM_HZ
        self.scales: Mapping[MeterId, Scale] = scales_of(panel)
        self._case = case
        self._set = FmTransmitter(case.figures, knobs_of(case, panel))

    def turn(self, panel: PanelState) -> None:
        """Turn knobs while it runs."""
        self.scales = scales_of(panel)
        self._set.turn(knobs_of(self._case, panel))

    def volts(self, panel: PanelState) -> Floats:
        """The voice."""
        return self._case.volts

    def send(self, audio: Floats) -> tuple[Mapping[MeterId, float], Complexes]:
        """A block."""
        made = self._set.send(audio)
        return {"deviation": made.peak_hz / 1000, "limiter": made.limited_db}, made.z


class FmBase(Scene):
    """What voice and packet have in common: deviation in a system, a trimmer inside."""

    share: ClassVar[Zone]

    @cached_property
    def result(self) -> FmResult:
        """What is sent."""
        return send_fm(self.case, self.panel, self.case.volts)

    @cached_property
    def system_hz(self) -> float:
        """The wide or the narrow system."""
        return system_hz(self.panel)

    @cached_property
    def zone_hz(self) -> Zone:
        """Where peaks should deviate to."""
        low, high = self.share
        return low * self.system_hz, high * self.system_hz

    @property
    def peak_hz(self) -> float | None:
        """The deviation that counts: of the own radio, where one is set; None until it was read."""
        reading = self.reads("deviation", self.result.peak_hz / 1000)
        return None if reading is None else 1000 * reading

    def deviation_meter(self) -> Meter:
        """Deviation with the system's edge."""
        low, high = self.zone_hz
        peak = self.result.peak_hz
        return Meter(
            scales_of(self.panel)["deviation"],
            peak / 1000,
            f"{peak / 1000:.2f} kHz",
            (low / 1000, high / 1000),
            self.system_hz / 1000,
        )

    def trimmer_control(self) -> Control:
        """The trimmer inside the set."""
        return control(self.panel, "deviation", note="inside the set", knob=trimmer(self.case))

    def offered(self) -> tuple[Offered, ...]:
        """Which channels the band has: the person's choice."""
        return (Offered("system", "channel", tuple(SYSTEM_WORDS.items()), self.panel.system),)

    def listeners_get(self) -> str:
        """Too wide, too quiet, or a full signal."""
        peak, system = self.result.peak_hz / 1000, self.system_hz / 1000
        if self.result.peak_hz > self.system_hz:
            return f"Too wide: peaks deviate by {peak:.1f} kHz in a {system:g} kHz system."
        if self.result.peak_hz < self.zone_hz[0]:
            return f"Too quiet: peaks deviate by {peak:.1f} of {system:g} kHz."
        return f"The listeners get a full signal, {peak:.1f} kHz of deviation."

    @cached_property
    def spectrum(self) -> Spectrum:
        """What leaves the aerial socket."""
        return spectrum(self.result.sent.z, FM_HZ, 2048)

    def audio(self, far: bool) -> Sound:
        """What a receiver hears."""
        noise = FAR_DB if far else NEAR_DB
        return discriminated(self.result.sent.z, self.system_hz, noise_db=noise)

    def own_findings(self) -> Iterator[Finding]:
        """Peaks past the system."""
        peak = self.result.peak_hz
        if peak > self.system_hz:
            severity: Severity = "stop" if peak > NEIGHBOURS_HEAR * self.system_hz else "mind"
            yield self.finding(
                TOO_WIDE,
                severity,
                "deviation",
                "It deviates into the neighbours",
                f"{peak / 1000:.1f} kHz of {self.system_hz / 1000:g}",
                {"peak_hz": peak},
                self.fix_now(),
            )


class FmScene(FmBase):
    """FM with a voice."""

    mode: ClassVar[ModeId] = "fm"
    title: ClassVar[str] = "FM voice"
    share: ClassVar[Zone] = VOICE

    @classmethod
    def live(cls, case: OnAir, panel: PanelState) -> LiveSet:
        """The same set, fed block by block."""
        return LiveFm(case, panel)

    @cached_property
    def limiter_db(self) -> float:
        """By how much peaks stand over the limiter; below zero by how much they stay under."""
        if self.result.limited_db > 0:
            return self.result.limited_db
        unit = at(self.panel, "deviation", trimmer(self.case))
        return correction_db(max(self.result.peak_hz, 1.0), unit)

    @property
    def has_limiter(self) -> bool:
        """Whether this path goes through it: a data path goes past it."""
        return not self.case.figures.fixed_gain

    @cached_property
    def meters(self) -> tuple[Meter, ...]:
        """Deviation, and what the limiter takes."""
        if not self.has_limiter:
            return (self.deviation_meter(),)
        reads = max(self.limiter_db, 0.0)
        limiter = Meter(
            scales_of(self.panel)["limiter"],
            reads,
            f"{reads:.0f} dB",
            LIMITER_DB,
            LIMITER_TOO_MUCH_DB,
        )
        return self.deviation_meter(), limiter

    @cached_property
    def controls(self) -> tuple[Control, ...]:
        """Gain by the limiter, then the trimmer by the deviation."""
        trim = self.trimmer_control()
        peak = self.peak_hz
        if not self.has_limiter:
            return (trim,)
        reading = self.limiter_db if self.own is None else None
        level = gain(self.case, self.panel, reading, LIMITER_DB)
        # neighbours come first: what is too wide is narrowed whether the gain is right or not
        too_wide = peak is not None and peak > self.system_hz
        if peak is not None and peak > 0 and (too_wide or level is None or level.fits()):
            # voice at its limiter: the trimmer sets how far that is
            low, high = (trim.value * z / peak for z in self.zone_hz)
            trim = trim.with_aim((low, high))
        return (*(() if level is None else (level,)), trim)

    def own_steps(self) -> Iterator[Step]:
        """Distance, the limiter, deviation, the same by ear."""
        yield distance(self.case)
        yield from outboard(self.case)
        if self.has_limiter:
            yield self._limiter()
            yield self._deviation()
            yield self._by_ear()
        else:
            yield self._flat()

    def _limiter(self) -> Step:
        says = (
            "Speak as usual; raise the gain until it gets no louder on a second receiver, no more."
        )
        knob = self.control("gain")
        ids = (knob.id,) if knob is not None else ()
        if self.own is not None:
            return Step(
                "limiter",
                "Microphone gain",
                says,
                "by ear",
                None,
                ids,
                "limiter",
                nothing_moves(self.case),
                AIR,
            )
        reads, (low, high) = self.limiter_db, LIMITER_DB
        shown = f"{reads:.0f} dB over the limiter" if reads > 0 else f"{-reads:.0f} dB under it"
        why = (
            "quiet words stay quiet: noise is what they hear of you"
            if reads < low
            else "loud words are cut flat: harsh, and the room comes up"
        )
        by_db = 0.0 if low <= reads <= high else (low + high) / 2 - reads
        return level_step(
            self.case, "limiter", "Microphone gain", says, knob, by_db, why, shown, "limiter", AIR
        )

    def _deviation(self) -> Step:
        says = (
            "Read the deviation of peaks; where it is wrong the trimmer inside the set is turned."
        )
        peak, knob = self.peak_hz, self.control("deviation")
        assert knob is not None
        low, high = self.zone_hz
        if peak is None:
            move = Move(
                "Type what a deviation meter shows, in kHz.",
                "or find the null with a tone, and type what that comes to",
                asks=True,
            )
            return Step("deviation", "Deviation", says, "read it", move, (knob.id,), "deviation")
        shown = f"{peak / 1000:.2f} kHz"
        made = Step(
            "deviation",
            "Deviation",
            says,
            shown,
            None,
            (knob.id,),
            "deviation",
            caution=caution("opening"),
        )
        if knob.fits():
            return replace(made, caution="")
        to = knob.target()
        if knob.stuck():
            return replace(
                made,
                move=Move(
                    f"The trimmer stands at its end, {knob.said()}: that is not enough.",
                    "the limiter of this set is not what its figures say",
                    at_end=True,
                ),
            )
        by = correction_db(to, knob.value)
        move = Move(
            f"{by:+.1f} dB at the trimmer: to {to / 1000:.2f} kHz.".replace("-", "−"),
            f"peaks reach {shown}, {low / 1000:.1f} to {high / 1000:.1f} kHz are wanted",
            {"deviation": to},
        )
        return replace(made, move=move)

    def _by_ear(self) -> Step:
        """Where the ear's edge would be on this set, against the target."""
        unit = at(self.panel, "deviation", trimmer(self.case))
        # where it gets no louder peaks reach what the limiter's filter makes of its edge
        edge = max(self.result.peak_hz, unit) if self.result.limited_db > 0 else unit
        off = correction_db(edge, self.system_hz)
        says = (
            "By ear: raise until it gets no louder, come back to that edge. The edge is this"
            " set's limiter, wherever somebody put it."
        )
        shown = f"the edge is at {edge / 1000:.1f} kHz"
        if abs(off) > 0.7:
            shown += f", {off:+.1f} dB off {self.system_hz / 1000:g} kHz"
        return Step("ear", "The same by ear", says, shown.replace("-", "−"), None)

    def _flat(self) -> Step:
        """A data path with a voice: nothing limits it, and what comes in is what deviates."""
        says = "This way goes past the limiter: what comes in deviates, and nothing holds it."
        peak = self.peak_hz
        if peak is None:
            return Step(
                "deviation",
                "Deviation",
                says,
                "read it",
                Move("Type what a deviation meter shows, in kHz.", "at loud words", asks=True),
                (),
                "deviation",
            )
        low, high = self.zone_hz
        by_db = 0.0 if low <= peak <= high else correction_db((low + high) / 2, max(peak, 1.0))
        why = f"peaks reach {peak / 1000:.2f} kHz, {low / 1000:.1f} to {high / 1000:.1f} are wanted"
        return level_step(
            self.case,
            "deviation",
            "Deviation",
            says,
            None,
            by_db,
            why,
            f"{peak / 1000:.2f} kHz",
            "deviation",
            AIR,
        )
