"""Setting weak-signal data on single sideband: no level control at work, nothing that bends."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import ClassVar

from tonleiter.core.guide.controls import Control, Zone, at, control, driven, from_computer_db
from tonleiter.core.guide.gain import gain, level_step
from tonleiter.core.guide.meters import Meter
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import ON_THE_PANEL, LiveSet
from tonleiter.core.guide.step import AIR, Move, Step, turn
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.once import cached_property
from tonleiter.core.setup.sideband import (
    LiveSsb,
    SidebandScene,
    SsbResult,
    power_control,
    power_meter,
    scales_of,
    send_ssb,
)
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.station.settings import KnobId, MeterId, PanelState

ALC_BENDS = declare("level-control-bends-data", ON_THE_PANEL)
# peaks in dB under where the level control begins; one decibel over it is heard by neighbours
AIM: Zone = (-3.0, -0.5)
# from this tone on its third harmonic and its second fall outside of what is sent
CLEAN_HZ: Zone = (1500.0, 2300.0)
CLEAN_TO_HZ = 1500.0
SENT_TO_HZ = 2900.0
POWER: Zone = (20.0, 60.0)
RESTS_DB, ALC_AIM, ALC_DANGER = 0.3, 0.02, 0.1
FLAT: Zone = (-0.01, 0.01)


def volts_of(case: OnAir, panel: PanelState) -> Floats:
    """The tones at the radio's input, where the transmit tone stands, the computer turned so far.

    Shape (n,).
    """
    made: Floats = case.toned(at(panel, "tone")) * 10 ** (from_computer_db(panel) / 20)
    return made


def turned_there(panel: PanelState) -> tuple[Control, ...]:
    """What is turned in the computer itself, where something is: it is part of the level."""
    names: tuple[KnobId, ...] = ("program", "slider")
    return tuple(control(panel, n, note="at the computer") for n in names if at(panel, n) != 0)


class LiveData(LiveSsb):
    """A single-sideband set fed with tones; only the meters that data looks at."""

    def volts(self, panel: PanelState) -> Floats:
        """The tones."""
        return volts_of(self._case, panel)

    def send(self, audio: Floats) -> tuple[Mapping[MeterId, float], Complexes]:
        """A block."""
        meters, z = super().send(audio)
        return {"alc": meters["alc"], "power": meters["power"]}, z


class DataScene(SidebandScene):
    """Weak-signal data."""

    mode: ClassVar[ModeId] = "data"
    title: ClassVar[str] = "Weak-signal data"

    @cached_property
    def result(self) -> SsbResult:
        """The tones, sent."""
        return send_ssb(self.case, self.panel, volts_of(self.case, self.panel))

    @classmethod
    def live(cls, case: OnAir, panel: PanelState) -> LiveSet:
        """The same set, fed block by block."""
        return LiveData(case, panel)

    @property
    def peaks_db(self) -> float | None:
        """Peaks over where the level control begins; of an own radio once its meter was read."""
        if self.own is None:
            return self.result.peaks_db
        reading = self.own.get("alc")
        # a meter at rest does not say how far below: it is taken as right
        return reading if reading is None or reading > 0 else sum(AIM) / 2

    @cached_property
    def meters(self) -> tuple[Meter, ...]:
        """The level control, which must rest, and the power."""
        scales, told = scales_of(self.case.figures), self.result.judged
        full, reads = self.case.figures.alc_full_db, max(told.alc_db, 0.0)
        short = max(-self.result.peaks_db, 0)
        says = f"{reads:.0f} dB: too much" if reads > RESTS_DB else f"rests, {short:.0f} dB under"
        return (
            Meter(scales["alc"], reads, says, (0.0, ALC_AIM * full), ALC_DANGER * full),
            power_meter(self.case, told, scales["power"]),
        )

    @cached_property
    def controls(self) -> tuple[Control, ...]:
        """The computer's level, the tone, the set's gain, what must be off, the drive."""
        panel, peaks = self.panel, self.peaks_db
        level = control(panel, "level", note="against now")
        if peaks is not None:
            level = driven(level, peaks, AIM, 1.0)
        radio = gain(self.case, panel)
        bends = [
            control(panel, name, FLAT, "off")
            for name in ("compression", "bass", "treble")
            if name == "compression" or at(panel, name) != 0
        ]  # type: ignore[arg-type]
        return (
            level,
            *turned_there(panel),
            control(panel, "tone", CLEAN_HZ, "where its harmonics go"),
            *(() if radio is None else (radio,)),
            *bends,
            power_control(self.case, panel, POWER),
        )

    def own_steps(self) -> Iterator[Step]:
        """Nothing that bends, the tone, the level, the drive, and the way back."""
        bends = tuple(c for c in self.controls if c.id in ("compression", "bass", "treble"))
        off = [c.title for c in bends if not c.fits()]
        yield turn(
            "off",
            "Nothing that bends",
            "No compressor, no tone control: a modem wants what it sent.",
            bends,
            "each of them makes tones of its own",
            "something is on" if off else "off",
            move_says=f"{', '.join(off)}: to 0.",
        )
        yield self._tone()
        yield self._level()
        (power,) = (c for c in self.controls if c.id == "power")
        yield turn(
            "power",
            "Drive",
            "Data is all power, all the time: a set made for speech gets hot.",
            (power,),
            "a set made for speech gets hot, and far stations do not notice",
            f"{power.value:.0f} % of {self.case.figures.power_w:g} W",
        )
        yield Step(
            "receive",
            "Receive level",
            "Raise the radio's fixed output until the display is busy; nothing near full scale.",
            "noise some 30 dB over the converter's own",
            None,
        )

    def _tone(self) -> Step:
        (tone,) = (c for c in self.controls if c.id == "tone")
        below = tone.value < CLEAN_HZ[0]
        to = replace(tone, aim=(CLEAN_TO_HZ, CLEAN_TO_HZ) if below else tone.aim)
        why = (
            f"twice {tone.value:.0f} Hz is sent as well, below {SENT_TO_HZ:.0f}"
            if below
            else "so high the filter of a receiver takes part of it"
        )
        return turn(
            "tone",
            "Transmit tone",
            "Set the tone where twice and three times of it fall outside of what is sent.",
            (to,) if not tone.fits() else (tone,),
            why,
            f"{tone.value:.0f} Hz; twice is {2 * tone.value:.0f}",
            move_says=f"To {to.target():.0f} Hz; the radio's dial moves the other way by as much.",
        )

    def _level(self) -> Step:
        says = "Turn the computer's level up until the ALC just moves, then down until it rests."
        peaks, knob = self.peaks_db, self.control("level")
        assert knob is not None
        made = Step(
            "level",
            "Level",
            says,
            "read your ALC",
            None,
            (knob.id,),
            "alc",
            "If nothing moves, the program sends to another device.",
            AIR,
        )
        if peaks is None:
            return replace(
                made,
                move=Move(
                    "Type what your ALC meter shows, in per cent.", "0 where it rests", asks=True
                ),
            )
        shown = f"{peaks:.0f} dB over" if peaks > 0 else f"{-peaks:.0f} dB under the ALC"
        if knob.fits():
            return replace(made, shown=shown)
        why = "the ALC bends what a modem made straight" if peaks > 0 else "power is left lying"
        if not knob.stuck():
            to = knob.target()
            word = "Up" if to > knob.value else "Down"
            move = Move(
                f"{word} {abs(to - knob.value):.1f} dB at the computer.", why, {"level": to}
            )
            return replace(made, shown=shown, move=move)
        by_db = sum(AIM) / 2 - peaks
        radio = self.control("gain")
        if radio is not None:
            radio = driven(radio, peaks, AIM, 100 / self.case.figures.gain_range_db)
        step = level_step(
            self.case,
            "level",
            "Level",
            says,
            radio,
            by_db,
            f"the computer stands at its end; {why}",
            shown,
            "alc",
            AIR,
        )
        return replace(step, controls=("level", "gain"))

    def listeners_get(self) -> str:
        """Bent tones, or clean ones."""
        told = self.result.judged
        if told.overloaded:
            return "The first stage of the set overloads: no knob of the radio helps."
        if told.alc_db > RESTS_DB:
            return "The level control bends the tones."
        return f"The listeners get clean tones, {told.mean_w:.2g} W of them."

    def own_findings(self) -> Iterator[Finding]:
        """A first stage that overloads, a level control at work."""
        yield from super().own_findings()
        taken = self.result.judged.alc_db
        if taken > RESTS_DB:
            yield self.finding(
                ALC_BENDS,
                "stop",
                "level",
                "The level control bends what a modem made",
                f"it takes {taken:.1f} dB; none is right",
                {"alc_db": taken},
                self.fix_now(),
            )
