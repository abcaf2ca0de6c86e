"""What an inspector says of a stage: a few lines of name and value, and pads worth considering."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import OwnSupply
from tonleiter.core.gear.pad_shapes import ShapedPad, design_pad
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.solve.corners import corners_hz
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.units.levels import format_dbu, format_volts, signed
from tonleiter.core.units.quantity import AMPERE, HERTZ, OHM, VOLT, format_quantity
from tonleiter.core.words import sentence


@dataclass(frozen=True)
class Line:
    """A named value, printed."""

    name: str
    value: str


def voice_results(assessment: Assessment) -> list[Line]:
    """The voice and the room at the microphone."""
    voice = assessment.voice
    if not voice.acoustic:
        return [Line("Voice", "plays no part here")]
    operator = assessment.solution.compiled.operator
    distance = voice.distance_mm
    return [
        Line("Operator", operator.name),
        Line("Effort", operator.effort),
        Line("Distance", f"{distance / 10:g} cm"),
        Line("Speech", f"{signed(voice.speech_db_spl)} dB SPL"),
        Line("Peaks", f"{signed(voice.speech_db_spl + voice.signal.crest_db)} dB SPL"),
        Line("Room", f"{signed(voice.room_dba)} dBA"),
        Line("Speech over room", f"{signed(voice.speech_db_spl - voice.room_dba)} dB"),
    ]


def stage_results(assessment: Assessment, index: int) -> list[Line]:
    """Gain, impedances both ways, noise, DC of the stage at ``index``."""
    row, last = assessment.rows[index], len(assessment.rows) - 1
    joints = assessment.solution.impedances
    lines: list[Line] = []
    if row.speech_dbu > SILENT_DBU:
        if row.gain_db is not None and index != last:
            name = "Gain, loaded" if row.gain_db >= 0.05 else "Loss, loaded"
            lines.append(Line(name, f"{signed(row.gain_db, 1, plus=True)} dB"))
        what = sentence(assessment.voice.signal.noun)
        lines.append(Line(what, f"{format_dbu(row.speech_dbu)}"))
        lines.append(Line("", format_volts(row.speech_dbu)))
    lines += [Line(name, value) for name, value in row.gear.remarks()]
    if index > 0:
        before = assessment.rows[index - 1].gear
        lines.append(Line(f"Seen by {_short(before)}", _ohm(joints[index - 1].load_ohm)))
    if index < last:
        after = assessment.rows[index + 1].gear
        lines.append(Line(f"Seen by {_short(after)}", _ohm(joints[index].source_ohm)))
    if row.speech_dbu > SILENT_DBU:
        share = assessment.solution.noise_shares_at(last).get(row.id, 0.0)
        lines.append(
            Line("Share of all noise", f"{share:.1%}" if share >= 0.0005 else "below 0.1%")
        )
    if row.knob is not None and row.speech_dbu > SILENT_DBU:
        lines.append(
            Line("Microphone gain at", row.knob.mark if row.knob.reaches else "out of reach")
        )
    if row.ceiling_dbu is not None:
        lines.append(Line("Clips a sine at", format_dbu(row.ceiling_dbu)))
    if (band := _own_band(assessment, index)) is not None:
        lines.append(Line("Its own band", band))
    if row.peaks_squeezed_db > 0.05:
        lines.append(Line("Peaks squeezed", f"{signed(row.peaks_squeezed_db)} dB"))
        lines.append(Line("Speech squeezed", f"{signed(row.speech_squeezed_db)} dB"))
    if row.hum_dbu is not None and row.speech_dbu > SILENT_DBU:
        lines.append(Line("Hum under speech", f"{signed(row.speech_dbu - row.hum_dbu, 0)} dB"))
    if row.capsule_v is not None:
        lines.append(Line("Over the capsule", format_quantity(max(row.capsule_v, 0.0), VOLT, 3)))
    elif abs(row.dc_v) > 1e-3:
        lines.append(Line("DC on the line", format_quantity(row.dc_v, VOLT, 2)))
    if abs(row.dc_a) > 1e-6:
        lines.append(Line("DC current", format_quantity(abs(row.dc_a), AMPERE, 2)))
    for mark in assessment.solution.compiled.stages[index].marks:
        if isinstance(mark, OwnSupply):
            draws = abs(assessment.solution.op.branch_a(mark.source))
            lines.append(Line("From its battery", format_quantity(draws, AMPERE, 2)))
    return lines


def _own_band(assessment: Assessment, index: int) -> str | None:
    """−3 dB corners of the stage's own gain as far as the grid goes; None if it has none."""
    solution = assessment.solution
    response = np.abs(solution.response)
    if assessment.rows[index].speech_dbu < SILENT_DBU or np.any(response[:, index] <= 0):
        return None
    low, high = corners_hz(solution.f_hz, 20 * np.log10(solution.own_gain(index)))
    if low is None and high is None:
        return None
    start = format_quantity(low, HERTZ, 2) if low is not None else "below 20 Hz"
    stop = format_quantity(high, HERTZ, 2) if high is not None else "beyond 20 kHz"
    return f"{start} … {stop}"


def _ohm(value: float) -> str:
    return format_quantity(value, OHM, 3) if math.isfinite(value) else "open"


def _short(gear: Gear) -> str:
    """A word or two for a piece: its kind for plain parts, else its name up to a comma."""
    name = gear.name.split(",")[0]
    if gear.noun in name or any(c.isdigit() for c in name):
        return gear.noun.replace("microphone socket", "radio")
    return name if len(name) <= 14 else name.split()[-1]


def pad_choices(assessment: Assessment, index: int) -> list[ShapedPad]:
    """For a pad: up to three designs that bring the radio to its window's middle.

    Values come from the station's drawer, or from its preferred series.
    """
    row = assessment.rows[index]
    window = assessment.rows[-1].window
    if not row.gear.is_pad or window is None or row.speech_dbu < SILENT_DBU or index == 0:
        return []
    before, after = assessment.solution.impedances[index - 1], assessment.solution.impedances[index]
    # its loss now, from the open source: what the joint before it loses by loading counts as well
    now_db = before.loading_loss_db - (row.gain_db or 0.0)
    wanted = now_db + assessment.rows[-1].speech_dbu - window.middle_dbu
    drawer = assessment.station.drawer
    return design_pad(
        row.kind, wanted, before.source_ohm, after.load_ohm, drawer.series, drawer.ohms()
    )[:3]
