"""Setting packet on FM: one tone through the path of the data, the one that deviates further.

Pre-emphasis and the path make the two tones of a pair deviate differently: the further one is set,
the other follows. It is right when the pair lies in its window and the limiter touches neither.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import ClassVar

import numpy as np

from tonleiter.core.guide.controls import Control, Zone, at, control, driven, from_computer_db
from tonleiter.core.guide.gain import gain, level_step
from tonleiter.core.guide.meters import Meter
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import LiveSet
from tonleiter.core.guide.step import AIR, Move, Step
from tonleiter.core.once import cached_property
from tonleiter.core.radio.deviation import NULLS, PAIR_HZ, correction_db
from tonleiter.core.radio.fm import FM_HZ
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.setup.data import turned_there
from tonleiter.core.setup.fm import FmBase, FmResult, LiveFm, scales_of, send_fm
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.spectrum import line_db
from tonleiter.core.sound.through import response_at
from tonleiter.core.station.settings import KNOBS, Knob, MeterId, PanelState

# what of a channel the peaks of data take
DATA: Zone = (0.6, 0.7)
# a tone is held by the limiter from here on
HELD_DB = 0.1
# a live analyser looks at so much: whole turns of any tone of 5 Hz and its multiples
LOOKS_S = 0.2


def tone_knob(case: OnAir) -> Knob:
    """The program's test tone: it comes at the one of the pair that is to be set."""
    return replace(KNOBS["tone"], title="tone", usual=PAIR_HZ[0])


def tone_volts(case: OnAir, panel: PanelState, hertz: float | None = None) -> Floats:
    """A tone at the radio's input, the computer turned as it is; shape (n,)."""
    hertz = at(panel, "tone", tone_knob(case)) if hertz is None else hertz
    rms = float(np.sqrt(np.mean(case.volts**2))) * 10 ** (from_computer_db(panel) / 20)
    solution = case.assessment.solution
    there, usual = np.abs(response_at(solution, np.array([hertz, PAIR_HZ[0]]), -1))
    t = np.arange(case.volts.size) / AUDIO_HZ
    made: Floats = np.sqrt(2) * rms * there / max(usual, 1e-30) * np.sin(2 * np.pi * hertz * t)
    return made


class LivePacket(LiveFm):
    """An FM set fed with the tone that is chosen, an analyser beside it."""

    def __init__(self, case: OnAir, panel: PanelState) -> None:
        super().__init__(case, panel)
        self._seen = np.zeros(round(LOOKS_S * FM_HZ), dtype=complex)

    def volts(self, panel: PanelState) -> Floats:
        """The tone."""
        return tone_volts(self._case, panel)

    def send(self, audio: Floats) -> tuple[Mapping[MeterId, float], Complexes]:
        """A block."""
        meters, z = super().send(audio)
        self._seen = np.concatenate([self._seen[z.size :], z])
        lost = -line_db(self._seen, 0.0, FM_HZ)
        return {"deviation": meters["deviation"], "carrier": min(lost, 60.0)}, z


class PacketScene(FmBase):
    """Packet on FM."""

    mode: ClassVar[ModeId] = "packet"
    title: ClassVar[str] = "Packet on FM"
    share: ClassVar[Zone] = DATA

    @classmethod
    def live(cls, case: OnAir, panel: PanelState) -> LiveSet:
        """The same set, fed block by block."""
        return LivePacket(case, panel)

    @cached_property
    def result(self) -> FmResult:
        """The tone that is chosen, sent."""
        return send_fm(self.case, self.panel, tone_volts(self.case, self.panel))

    @cached_property
    def pair(self) -> tuple[FmResult, FmResult]:
        """Each tone of the pair, sent by itself."""
        low, high = (
            send_fm(self.case, self.panel, tone_volts(self.case, self.panel, f)) for f in PAIR_HZ
        )
        return low, high

    @cached_property
    def further(self) -> int:
        """Which of the pair deviates further by this path: 0 or 1."""
        solution = self.case.assessment.solution
        there = np.abs(response_at(solution, np.array(PAIR_HZ), -1))
        if not self.case.figures.fixed_gain:
            there = there * np.array(PAIR_HZ)
        return int(there[1] > 1.001 * there[0])

    @property
    def further_hz(self) -> float:
        """The tone that is set."""
        return PAIR_HZ[self.further]

    @property
    def held(self) -> bool:
        """Whether the limiter has hold of the tone that is set."""
        return not self.case.figures.fixed_gain and self.pair[self.further].limited_db > HELD_DB

    @property
    def set_khz(self) -> float | None:
        """The deviation of the tone that is set, in kHz; an own radio's once it was read."""
        return self.reads("deviation", self.pair[self.further].peak_hz / 1000)

    @cached_property
    def meters(self) -> tuple[Meter, ...]:
        """Deviation of the tone that is set, and how far the carrier is down with that chosen."""
        low, high = self.zone_hz
        peak = self.pair[self.further].peak_hz
        lost = min(-self.result.carrier_db, 60.0)
        return (
            Meter(
                scales_of(self.panel)["deviation"],
                peak / 1000,
                f"{peak / 1000:.2f} kHz at {self.further_hz:.0f} Hz",
                (low / 1000, high / 1000),
                self.system_hz / 1000,
            ),
            Meter(scales_of(self.panel)["carrier"], lost, f"{lost:.0f} dB"),
        )

    @cached_property
    def controls(self) -> tuple[Control, ...]:
        """The tone, the computer's level, the set's gain where it has one, the trimmer."""
        reading = self.set_khz
        level = control(self.panel, "level", note="against now")
        if reading is not None and reading > 0:
            zone = tuple(correction_db(z / 1000, reading) for z in self.zone_hz)
            level = driven(level, 0.0, (zone[0], zone[1]), 1.0)
            if self.held:
                # what the limiter cut off is not known by the meter: it comes down at least so far
                over = self.pair[self.further].limited_db
                level = level.with_aim((level.value - over - 40.0, level.value - over))
        radio = gain(self.case, self.panel)
        return (
            control(self.panel, "tone", note="one at a time", knob=tone_knob(self.case)),
            level,
            *turned_there(self.panel),
            *(() if radio is None else (radio,)),
            self.trimmer_control(),
        )

    def own_steps(self) -> Iterator[Step]:
        """One tone, its level, the same by the null, the other tone."""
        yield Step(
            "path",
            "One tone, through the path of the data",
            "Send one tone, never the pair: the pair's peaks add, and a meter shows neither."
            " The one that deviates further is set.",
            f"{self.further_hz:.0f} Hz",
            None,
        )
        yield self._level()
        yield self._null()
        yield self._other()

    def _level(self) -> Step:
        low, high = self.zone_hz
        says = (
            f"Turn the computer's level until a tone of {self.further_hz:.0f} Hz deviates by"
            " enough."
        )
        reading, knob = self.set_khz, self.control("level")
        assert knob is not None
        made = Step(
            "level",
            "Level",
            says,
            "read it",
            None,
            (knob.id,),
            "deviation",
            "If it does not move, the radio listens at another socket.",
            AIR,
        )
        if reading is None:
            return replace(
                made,
                move=Move(
                    "Type the deviation that you found, in kHz.",
                    "by meter or by the null",
                    asks=True,
                ),
            )
        shown = f"{reading:.2f} kHz"
        made = replace(made, shown=shown)
        if knob.fits():
            return made
        wanted = f"{low / 1000:.1f} to {high / 1000:.1f} kHz are wanted"
        to, by = knob.target(), correction_db((low + high) / 2000, max(reading, 1e-3))
        if self.held:
            why = f"the limiter holds it at {shown}: down until it lets go, then {wanted}"
            to = knob.held(knob.value - self.pair[self.further].limited_db - 1.0)
            return replace(
                made,
                move=Move(f"Down {knob.value - to:.1f} dB at the computer.", why, {"level": to}),
            )
        if not knob.stuck():
            word = "Up" if to > knob.value else "Down"
            return replace(
                made,
                move=Move(
                    f"{word} {abs(to - knob.value):.1f} dB at the computer.",
                    f"it deviates by {shown}, {wanted}",
                    {"level": to},
                ),
            )
        radio = self.control("gain")
        if radio is not None:
            half = 0.5
            radio = driven(
                radio, 0.0, (by - half, by + half), 100 / self.case.figures.gain_range_db
            )
        why = f"the computer stands at its end; it deviates by {shown}, {wanted}"
        return replace(
            level_step(self.case, "level", "Level", says, radio, by, why, shown, "deviation", AIR),
            controls=("level", "gain"),
        )

    def _null(self) -> Step:
        low, high = self.zone_hz
        target = (low + high) / 2
        wanted = target / NULLS[0]
        hertz = at(self.panel, "tone", tone_knob(self.case))
        says = (
            f"The same without a meter: with a tone of {wanted:.0f} Hz raise the level until"
            f" the carrier vanishes on a narrow analyser: {target / 1000:.2f} kHz. Behind"
            " pre-emphasis each tone has its own level."
        )
        beta = self.result.peak_hz / hertz
        shown = f"carrier {-self.result.carrier_db:.0f} dB down at β {beta:.2f}"
        return Step("null", "The carrier's null", says, shown, None, ("tone",), "carrier")

    def _other(self) -> Step:
        """What the other tone of the pair comes to by itself."""
        one, two = (self.pair[k].peak_hz / 1000 for k in (self.further, 1 - self.further))
        other = PAIR_HZ[1 - self.further]
        off = correction_db(max(two, 1e-6), max(one, 1e-6))
        if abs(off) < 0.3:
            return Step(
                "pair",
                "Both tones of the pair",
                "This path is flat: both tones deviate alike.",
                "alike",
                None,
            )
        says = (
            f"{other:.0f} Hz follows with {two:.2f} kHz, {-off:.1f} dB less: a receiver's"
            " de-emphasis makes them alike again."
        )
        return Step("pair", "Both tones of the pair", says, f"{-off:.1f} dB apart", None)
