"""Single sideband with a voice: its meters, its knobs and where they belong."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar

from tonleiter.core.guide.controls import Control, Zone, at, control
from tonleiter.core.guide.gain import gain
from tonleiter.core.guide.meters import Meter
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import LiveSet
from tonleiter.core.guide.schools import (
    ALC,
    COMPRESSION,
    PINNED,
    TONE_WORDS,
    ToneAim,
    tone_aim,
    tone_school,
)
from tonleiter.core.once import cached_property
from tonleiter.core.radio.knobs import WORKED_DB
from tonleiter.core.setup.sideband import (
    HIGH,
    LiveSsb,
    SidebandScene,
    SsbResult,
    power_control,
    power_meter,
    scales_of,
    send_ssb,
)
from tonleiter.core.station.settings import PanelState, ToneSchool

# so near to its zone a compressor's meter cannot be read as being off it
NEAR_DB = 0.25
# what a compressor's meter is seen to reach lies so far under the very highest peak
PEAKS_ROOM_DB = 2.5
# what a meter at rest on an own radio is turned up by at least: nothing to reckon from
LEAST_UP_DB = 6.0


class SsbBase(SidebandScene):
    """Meters and knobs of single sideband with a voice."""

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
        if high + off + NEAR_DB < made.step:
            # taller peaks than usual: off it takes nothing, and the next move would be on again
            return replace(made.with_aim((made.step, made.step)), note="its least")
        return made.with_aim((low + off - NEAR_DB, high + off + NEAR_DB))
