"""Setting single sideband: what is sent for a panel, its controls, meters and steps."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tonleiter.core.guide.before import distance, outboard
from tonleiter.core.guide.controls import Control, Zone, at, control
from tonleiter.core.guide.gain import gain, hundredths, level_step
from tonleiter.core.guide.meters import Meter, Scale
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import ON_THE_PANEL, LiveSet, Scene
from tonleiter.core.guide.schools import (
    ALC,
    ALC_WORDS,
    COMPRESSION,
    COMPRESSION_WORDS,
    PINNED,
    PROCESSING_WORDS,
    TONE_WORDS,
    Offered,
    ToneAim,
    tone_aim,
    tone_school,
)
from tonleiter.core.guide.step import AIR, Move, Step, turn
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.level import nearer_mm
from tonleiter.core.judge.findings.model import TURN, Finding, Fix
from tonleiter.core.once import cached_property
from tonleiter.core.radio.knobs import WORKED_DB, Knobs, SetFigures
from tonleiter.core.radio.measures import Judged, judged
from tonleiter.core.radio.receivers import Path, heard
from tonleiter.core.radio.ssb import AUDIO_HZ, OUT_HZ, Sent, SsbTransmitter, transmitted
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.spectrum import Spectrum, spectrum
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KNOBS, MeterId, PanelState, ToneSchool

SPLATTERS = declare("neighbours-hear-it", ON_THE_PANEL)
ROOM_UP = declare("room-between-words", ON_THE_PANEL)
TWICE = declare("compressed-twice", ON_THE_PANEL)
ONCE = declare("one-compressor", ON_THE_PANEL)
FIRST_STAGE = declare("first-stage-overloads", ON_THE_PANEL)
# splatter that a neighbour hears, gaps that listeners hear, against the signal itself
SPLATTER_DB, GAPS_DB = -30.0, 24.0
# of the room, where one speaks from as near as one should
AS_NEAR = "one speaks as near as one should: less compression, or a quieter room, is left"
# the way to a far receiver
FAR = Path(noise_db=-27.0, fades_db=8.0, neighbour_db=-30.0)
# of the envelope all but this share of the time is lower than what counts as its peaks
HIGHEST = 0.998
# so near to its zone a compressor's meter cannot be read as being off it
NEAR_DB = 0.25
# what a compressor's meter is seen to reach lies so far under the very highest peak
PEAKS_ROOM_DB = 2.5
# a level control that takes less is seen to rest
RESTS_DB = 0.2
COMPRESSION_FULL_DB = KNOBS["compression"].high
# this set's filter ends below what an AM set's audio may have
HIGH = replace(KNOBS["high"], high=4000.0)
# what a meter at rest on an own radio is turned up by at least: nothing to reckon from
LEAST_UP_DB = 6.0

_SPEAK = (
    "Say “la-bo-ra-to-ry” as you would in a chat, and turn until the ALC stands between the"
    " brackets."
)


@dataclass(frozen=True, eq=False)
class SsbResult:
    """A whole recording sent with a panel as it stands."""

    sent: Sent
    judged: Judged
    peaks_db: float

    @property
    def alc_reads_db(self) -> float:
        """What the level control takes off; below zero by how much the peaks fall short of it."""
        taken = self.judged.alc_db
        return taken if taken > RESTS_DB else min(self.peaks_db, 0.0)


def knobs_of(panel: PanelState) -> Knobs:
    """The simulated panel's knobs."""
    outside = panel.processing == "outboard"
    return Knobs(
        gain=at(panel, "gain") / 100.0,
        compression_db=0.0 if outside else at(panel, "compression"),
        bass_db=at(panel, "bass"),
        treble_db=at(panel, "treble"),
        low_hz=at(panel, "low"),
        high_hz=HIGH.held(at(panel, "high")),
        power=at(panel, "power") / 100.0,
    )


def send_ssb(case: OnAir, panel: PanelState, volts: Floats) -> SsbResult:
    """Send volts at the radio's input with a panel."""
    knobs = knobs_of(panel)
    sent = transmitted(case.figures, knobs, Sound(volts, AUDIO_HZ))
    told = judged(sent, case.figures, knobs.high_hz)
    return SsbResult(sent, told, float(np.quantile(sent.envelope_db, HIGHEST)))


def scales_of(figures: SetFigures) -> dict[MeterId, Scale]:
    """The meters of a single-sideband set."""
    return {
        "alc": Scale("alc", figures.alc_full_db),
        "compression": Scale("compression", COMPRESSION_FULL_DB),
        "power": Scale("power", figures.power_w, "mean"),
    }


def power_meter(case: OnAir, told: Judged, scale: Scale) -> Meter:
    """Mean power with the peak beside it."""
    return Meter(scale, told.mean_w, f"{told.mean_w:.2g} W mean", peak=told.pep_w)


def power_control(
    case: OnAir, panel: PanelState, aim: Zone | None = None, title: str = "power"
) -> Control:
    """Drive, or the carrier."""
    return control(
        panel, "power", aim, f"of {case.figures.power_w:g} W", replace(KNOBS["power"], title=title)
    )


class LiveSsb:
    """A single-sideband set fed block by block."""

    def __init__(self, case: OnAir, panel: PanelState) -> None:
        self.rate_hz = OUT_HZ
        self.scales: Mapping[MeterId, Scale] = scales_of(case.figures)
        self._case = case
        self._set = SsbTransmitter(case.figures, knobs_of(panel))

    def turn(self, panel: PanelState) -> None:
        """Turn knobs while it runs."""
        self._set.turn(knobs_of(panel))

    def volts(self, panel: PanelState) -> Floats:
        """The voice."""
        return self._case.volts

    def send(self, audio: Floats) -> tuple[Mapping[MeterId, float], Complexes]:
        """A block."""
        sent = self._set.send(audio)
        meters = sent.meters[0]
        return {
            "alc": meters.alc_db,
            "compression": meters.compression_db,
            "power": meters.mean_share * self._case.figures.power_w,
        }, sent.z


class SidebandScene(Scene):
    """What a voice and a modem on single sideband have in common."""

    @cached_property
    @abstractmethod
    def result(self) -> SsbResult:
        """What is sent."""

    def neighbours(self) -> tuple[str, str]:
        """How far down they have it."""
        told = self.result.judged
        return (
            f"neighbour below: {-told.below_db:.0f} dB down",
            f"neighbour above: {-told.above_db:.0f} dB down",
        )

    @cached_property
    def spectrum(self) -> Spectrum:
        """What leaves the aerial socket."""
        return spectrum(self.result.sent.z, OUT_HZ, 1024)

    def audio(self, far: bool) -> Sound:
        """What a receiver hears."""
        return heard(self.result.sent.z, FAR if far else None)

    def own_findings(self) -> Iterator[Finding]:
        """A first stage that overloads."""
        told = self.result.judged
        if told.overloaded:
            yield self.finding(
                FIRST_STAGE,
                "stop",
                "first stage",
                "The first stage overloads before any knob",
                "it lies before the gain control: less must come in",
                {},
            )


class SsbScene(SidebandScene):
    """Single sideband with a voice."""

    mode: ClassVar[ModeId] = "ssb"
    title: ClassVar[str] = "SSB voice"

    @cached_property
    def result(self) -> SsbResult:
        """The voice, sent."""
        return send_ssb(self.case, self.panel, self.case.volts)

    @classmethod
    def live(cls, case: OnAir, panel: PanelState) -> LiveSet:
        """The same set, fed block by block."""
        return LiveSsb(case, panel)

    # --- meters and knobs ------------------------------------------------------------------------

    @cached_property
    def alc_zone(self) -> Zone:
        """The level control's aim in decibels."""
        low, high = ALC[self.panel.alc]
        return low * self.case.figures.alc_full_db, high * self.case.figures.alc_full_db

    @cached_property
    def tone(self) -> ToneSchool:
        """The school of tone that holds."""
        return tone_school(self.panel, self.case.purpose)

    @cached_property
    def tone_aim(self) -> ToneAim:
        """Where edges and shelves belong for this voice."""
        return tone_aim(self.tone, self.case.pitch, self.panel.shelves_db)

    @property
    def compresses_before(self) -> bool:
        """Whether a box outside compresses."""
        return any(r.gear.compression() is not None for r in self.case.assessment.rows[:-1])

    @cached_property
    def meters(self) -> tuple[Meter, ...]:
        """ALC, compression, power."""
        scales, told = scales_of(self.case.figures), self.result.judged
        low, high = self.alc_zone
        reads = self.result.alc_reads_db
        short, full = low - reads, self.case.figures.alc_full_db
        says = (
            f"{short:.0f} dB short"
            if short > 0.5
            else f"{reads - high:.0f} dB too much"
            if reads - high > 0.5
            else f"{max(reads, 0.0):.0f} dB"
        )
        squeeze = COMPRESSION[self.panel.compression]
        return (
            Meter(scales["alc"], max(reads, 0.0), says, (low, high), PINNED * full),
            Meter(
                scales["compression"],
                told.compression_db,
                f"{told.compression_db:.0f} dB",
                None if self.panel.processing == "outboard" else squeeze,
            ),
            power_meter(self.case, told, scales["power"]),
        )

    @cached_property
    def alc_reading(self) -> float | None:
        """What the level control reads; of an own radio at rest, what the ladder makes of it."""
        reading = self.reads("alc", self.result.alc_reads_db)
        if self.own is None or reading is None or reading > 0:
            return reading
        row = self.case.assessment.rows[-1]
        turned = row.knob.turn if row.knob is not None else 0.5
        expected = (turned - at(self.panel, "gain") / 100) * self.case.figures.gain_range_db
        return sum(self.alc_zone) / 2 - max(LEAST_UP_DB, expected)

    @cached_property
    def controls(self) -> tuple[Control, ...]:
        """Gain, compression, shelves, edges, power."""
        aim, pitch = self.tone_aim, self.case.pitch
        whose = f"{pitch} voice" if pitch != "middle" else "this voice"
        school, panel = TONE_WORDS[self.tone], self.panel
        level = gain(self.case, panel, self.alc_reading, self.alc_zone)
        return (
            *(() if level is None else (level,)),
            self._compression(),
            control(panel, "bass", aim.bass_db, whose),
            control(panel, "treble", aim.treble_db, "1.8 kHz up"),
            control(panel, "low", aim.low_hz, school),
            control(panel, "high", aim.high_hz, school, HIGH),
            power_control(self.case, panel),
        )

    @cached_property
    def level_held(self) -> bool:
        """Whether the level is off its aim and no knob of the set brings it there.

        What compresses then does so at a level that is to change: it waits for that, up or down.
        """
        reading = self.alc_reading
        low, high = self.alc_zone
        if reading is None or low - 1e-6 <= reading <= high + 1e-6:
            return False
        knob = gain(self.case, self.panel, reading, self.alc_zone)
        return knob is None or knob.stuck()

    def _compression(self) -> Control:
        """The compressor's knob, driven by its meter; off where another one works."""
        made = control(self.panel, "compression", note="dB at peaks")
        low, high = COMPRESSION[self.panel.compression]
        if self.panel.processing == "outboard" or self.compresses_before:
            return replace(made, aim=(0.0, 0.0), note="off")
        if high == 0:
            return made.with_aim((0.0, 0.0))
        reading = self.reads("compression", self.result.judged.compression_db)
        if reading is None or self.case.sounds != "speech" or self.level_held:
            return made
        if made.value < made.step:
            # its threshold lies where usual speech works the level control: peaks below need more
            more = 0.0
            if self.own is None:
                more = max(0.0, PEAKS_ROOM_DB + WORKED_DB - self.result.peaks_db)
            return made.with_aim((max(low + more, made.step), high + more))
        off = made.value - reading
        return made.with_aim((low + off - NEAR_DB, high + off + NEAR_DB))

    # --- steps -----------------------------------------------------------------------------------

    def own_steps(self) -> Iterator[Step]:
        """Distance, boxes outside, edges, gain, compression, tone, and the gain once more."""
        yield distance(self.case)
        yield from outboard(self.case)
        yield self._edges()
        yield self._gain("gain", "Microphone gain")
        yield self._compression_step()
        yield self._tone_step()
        if at(self.panel, "compression") > 0 or at(self.panel, "bass") != 0:
            yield self._gain("again", "Check the gain again")
        else:
            yield Step("again", "Check the gain again", "", "after the rest", None)

    def _knobs(self, *names: str) -> tuple[Control, ...]:
        return tuple(c for c in self.controls if c.id in names)

    def _edges(self) -> Step:
        low, high = self._knobs("low", "high")
        natural = self.tone == "natural"
        why = (
            "warmth below costs nobody anything while the band is quiet"
            if natural
            else "power that nobody needs to understand you is left out"
        )
        return turn(
            "edges",
            "Band edges",
            f"Set what is sent for a {TONE_WORDS[self.tone]} sound.",
            (low, high),
            why,
            f"{low.value:.0f} to {high.value:.0f} Hz",
            move_says=f"To {low.target():.0f} and {high.target():.0f} Hz.",
        )

    def _gain(self, name: str, title: str) -> Step:
        knob, reads = self.control("gain"), self.reads("alc", self.result.alc_reads_db)
        full = self.case.figures.alc_full_db
        if reads is None:
            return Step(
                name,
                title,
                _SPEAK,
                "read your ALC meter",
                Move(
                    "Type what your ALC meter shows, in per cent of its scale.",
                    "the next move is reckoned from that",
                    asks=True,
                ),
                ("gain",) if knob is not None else (),
                "alc",
                caution=AIR,
            )
        low, high = self.alc_zone
        share = min(max(reads, 0) / full, 1)
        fits = low - 1e-6 <= reads <= high + 1e-6
        reading = reads if self.alc_reading is None else self.alc_reading
        edge = (
            f"the aim starts at {low / full:.0%}"
            if reads < low
            else f"the aim ends at {high / full:.0%}"
        )
        reached = (
            "the meter is pinned"
            if reads >= full
            else f"the meter reaches {share:.0%} on your words"
        )
        stands = f"It stands at {knob.said()}; " if knob is not None else ""
        return level_step(
            self.case,
            name,
            title,
            _SPEAK,
            knob,
            0.0 if fits else (low + high) / 2 - reading,
            f"{stands}{reached}, {edge}.",
            f"ALC {share:.0%} of its scale",
            "alc",
            AIR,
            self.lost("alc", knob, hundredths(self.case), full),
        )

    def _compression_step(self) -> Step:
        (knob,) = self._knobs("compression")
        title, panel = "Compression", self.panel
        outside = panel.processing == "outboard" or self.compresses_before
        low, high = COMPRESSION[panel.compression]
        if outside or high == 0:
            shown = "off" if knob.value > 0 else "outside" if outside else "none"
            why = (
                "two in a row are the commonest cause of ugly signals"
                if outside
                else "pauses stay quiet, ears stay fresh"
            )
            said = (
                "Off: the box before the radio compresses already."
                if outside
                else "Off, for a long chat."
            )
            return turn(
                "compression",
                title,
                "",
                (knob,),
                why,
                knob.said() if knob.value > 0 else shown,
                "compression",
                move_says=said,
            )
        says = f"Turn until its meter shows {COMPRESSION_WORDS[panel.compression]} at peaks."
        reads = self.reads("compression", self.result.judged.compression_db)
        if reads is None:
            return Step(
                "compression",
                title,
                says,
                "read its meter",
                Move(
                    "Type what your compression meter shows, in dB.",
                    "it may lie behind a switch",
                    asks=True,
                ),
                ("compression",),
                "compression",
            )
        waits = "its level comes first" if self.level_held else ""
        return turn(
            "compression",
            title,
            says,
            (knob,),
            f"It reads {reads:.0f} dB, the aim is {low:.0f} to {high:.0f}.",
            waits or f"{reads:.0f} dB at peaks",
            "compression",
            "If its meter does not move, the gain before it is too low.",
        )

    def _tone_step(self) -> Step:
        bass, treble = self._knobs("bass", "treble")
        says = {
            "deep": "A deep voice wants less bass and a little treble.",
            "high": "A high voice wants some bass and less treble.",
            "middle": "A voice in the middle wants little.",
        }[self.case.pitch]
        if self.panel.shelves_db is not None:
            says = "Bass and treble as they were found by trying for this voice."
        shown = f"bass {bass.value:+.0f}, treble {treble.value:+.0f}"
        return turn(
            "tone",
            "Tone for this voice",
            says,
            (bass, treble),
            says,
            shown.replace("-", "−").replace("+0", "0"),
        )

    # --- what is said ----------------------------------------------------------------------------

    def listeners_get(self) -> str:
        """A clean signal, or what spoils it."""
        told, wide = self.result.judged, self.result.judged.width_hz / 1000
        alc = self.meter("alc")
        assert alc is not None and alc.danger_from is not None and alc.aim is not None
        if told.overloaded:
            return "The first stage of the set overloads: no knob of the radio helps."
        if alc.value >= alc.danger_from:
            return "The level control is pinned: it distorts."
        splatter = max(told.below_db, told.above_db)
        if splatter > SPLATTER_DB:
            return f"The neighbours hear it: {-splatter:.0f} dB under the signal beside it."
        if alc.value < alc.aim[0] - 1e-6:
            return f"The listeners get a quiet signal: {alc.says}."
        return f"The listeners get a clean signal, {wide:.1f} kHz wide."

    def off_says(self, step: Step) -> str:
        """As listeners or meters have it."""
        alc, reads = self.meter("alc"), self.result.alc_reads_db
        if step.meter == "alc" and alc is not None and alc.aim and alc.danger_from is not None:
            if reads < alc.aim[0]:
                return f"The ALC hardly moves: {alc.aim[0] - reads:.0f} dB are left lying"
            if reads >= alc.danger_from:
                return "The level control is pinned: that distorts"
            return f"The ALC works {reads - alc.aim[1]:.0f} dB harder than the aim"
        return {
            "compression": "Compression is not where the school has it",
            "tone": "The tone does not suit this voice yet",
            "edges": "The band's edges are those of the other sound",
        }.get(step.id, super().off_says(step))

    def offered(self) -> tuple[Offered, ...]:
        """The schools of single sideband."""
        panel = self.panel
        other = "3 to 5 dB" if panel.compression == "none" else "none"
        return (
            Offered("alc", "ALC aim", tuple(ALC_WORDS.items()), panel.alc, "the other aim"),
            Offered(
                "compression",
                "compression",
                tuple(COMPRESSION_WORDS.items()),
                panel.compression,
                other,
            ),
            Offered("tone", "tone", tuple(TONE_WORDS.items()), self.tone, "the other one"),
            Offered(
                "processing",
                "compressed by",
                tuple(PROCESSING_WORDS.items()),
                panel.processing,
                PROCESSING_WORDS["radio" if panel.processing == "outboard" else "outboard"],
                "way to compress as much",
            ),
        )

    def own_findings(self) -> Iterator[Finding]:
        """Overload, splatter, the room, compressors in a row."""
        yield from super().own_findings()
        told = self.result.judged
        splatter = max(told.below_db, told.above_db)
        if splatter > SPLATTER_DB:
            yield self.finding(
                SPLATTERS,
                "mind",
                "neighbours",
                f"A neighbour hears you {-splatter:.0f} dB under the signal itself",
                "the level control lets syllables through to the power stage"
                if self.result.alc_reads_db > self.alc_zone[1]
                else "products of its own power stage: less drive makes fewer",
                {"below_db": told.below_db, "above_db": told.above_db},
            )
        if told.gaps_db < GAPS_DB:
            yield self._between_words(told)
        if self.compresses_before and told.compression_db > 1:
            off = self.turned(
                "Turn the radio's own off", {"compression": 0.0}, "the one outside stays"
            )
            yield self.finding(
                TWICE,
                "mind",
                "compressors",
                "Two compressors work in a row",
                "one before the radio, one in it: the usual cause of ugly signals",
                {"compression_db": told.compression_db},
                (off,),
            )
        if not self.compresses_before:
            proof = (
                "nothing before it does" if told.compression_db > 1 else "and it is off or at rest"
            )
            yield self.finding(
                ONCE,
                "fine",
                "one compressor",
                "Only the radio compresses",
                proof,
                {"compression_db": told.compression_db},
            )

    def _between_words(self, told: Judged) -> Finding:
        """What comes up between words: hum or the room, by which the solution has more of."""
        radio = self.case.assessment.rows[-1]
        hums = radio.hum_dbu is not None and radio.hum_dbu > radio.noise_dbu
        up = told.compression_db
        why = f"compression lifts it {up:.0f} dB; " if up > 1 else ""
        nearer = () if hums else self._closer()
        what, helps = (
            ("hum", "the Ladder (3) says which loop makes it")
            if hums
            else ("the room", "halving the distance gains up to 6 dB" if nearer else AS_NEAR)
        )
        return self.finding(
            ROOM_UP,
            "mind",
            "hum" if hums else "room",
            f"Between words {what} comes up to {told.gaps_db:.0f} dB under speech",
            f"{why}{helps}",
            {"gaps_db": told.gaps_db},
            nearer,
        )

    def _closer(self) -> tuple[Fix, ...]:
        mm, chain_id = self.case.basis.distance_mm, self.case.basis.chain
        nearer = nearer_mm(mm, round(mm / 2))
        if nearer is None:
            return ()

        def closer(station: Station) -> Station:
            return edits.change_chain(station, chain_id, distance_mm=nearer)

        return (Fix(f"See it from {nearer:g} mm", closer, "speech rises, the room does not", TURN),)
