"""The ladder's rows: what each stage does to speech, peaks and noise."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from tonleiter.core.gear.base import Gear, Surroundings, Window
from tonleiter.core.gear.net import Capsule, OutputDevice
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.gear.voice import PEAK_OVER_ACTIVE_DB
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.solution import ChainSolution, Impedances
from tonleiter.core.units.levels import dbu_from_volts, spl_from_pascals


@dataclass(frozen=True)
class StageLevels:
    """Levels at a stage's outlet (at the pins' far side for a radio), impedances at its joint.

    Levels in dBu are RMS; a ceiling is the RMS of the largest clean sine, and peaks are compared
    with it directly, which leaves 3 dB in hand. None where there is nothing to say.
    """

    id: str
    name: str
    kind: str
    gear: Gear
    gain_db: float | None
    speech_dbu: float
    peak_dbu: float
    noise_dbu: float
    hum_dbu: float | None
    ceiling_dbu: float | None
    window: Window | None
    z_source_ohm: float
    z_load_ohm: float
    dc_v: float
    dc_a: float
    capsule_v: float | None = None
    speech_squeezed_db: float = 0.0
    peaks_squeezed_db: float = 0.0

    @property
    def headroom_db(self) -> float | None:
        """Ceiling over peaks."""
        return None if self.ceiling_dbu is None else self.ceiling_dbu - self.peak_dbu

    @property
    def snr_db(self) -> float:
        """Speech over noise in the band."""
        return self.speech_dbu - self.noise_dbu


@dataclass(frozen=True)
class Shift:
    """What compressors so far have taken off speech, peaks, and the noise of pauses (≤ 0 dB).

    The linear circuit gives small-signal levels; a compressor moves each of the three by its own
    gain reduction. Pauses keep full gain, which is how compression lifts the room.
    """

    speech_db: float = 0.0
    peak_db: float = 0.0
    noise_db: float = 0.0

    def through(self, curve: Compression, speech: float, peak: float, noise: float) -> Shift:
        """After a compressor that sees these levels in dBu."""
        return Shift(
            self.speech_db - curve.reduction_db(speech),
            self.peak_db - curve.held_at_onset_db(peak),
            self.noise_db
            - max(curve.reduction_db(noise), curve.held_in_pause_db(speech))
            - curve.gated_db(noise),
        )


@dataclass(frozen=True)
class VoiceLevels:
    """Sound at the microphone."""

    speech_db_spl: float
    room_dba: float
    distance_mm: float
    acoustic: bool = True


def voice_levels(solution: ChainSolution) -> VoiceLevels:
    """Levels in the air."""
    compiled = solution.compiled
    return VoiceLevels(
        spl_from_pascals(compiled.speech_pa),
        compiled.room_dba,
        compiled.chain.distance_mm.value,
        compiled.acoustic,
    )


def stage_levels(solution: ChainSolution) -> tuple[StageLevels, ...]:
    """A row per stage, microphone first, radio last."""
    speech_v, noise_v = solution.speech_v(), solution.noise_v()
    stages = solution.compiled.stages
    last = len(stages) - 1
    rows: list[StageLevels] = []
    shift = Shift()
    for k, stage in enumerate(stages):
        # a radio is judged at its pins: the joint before it
        joint = min(k, last - 1)
        z = solution.impedances[joint]
        capsule = next((m for m in stage.marks if isinstance(m, Capsule)), None)
        capsule_v = solution.op.volts(capsule.p, capsule.n) if capsule else None
        speech = dbu_from_volts(float(speech_v[k])) + shift.speech_db
        noise = dbu_from_volts(float(noise_v[k])) + shift.noise_db
        peak = dbu_from_volts(float(speech_v[k])) + PEAK_OVER_ACTIVE_DB + shift.peak_db
        before = shift
        if (curve := stage.gear.compression()) is not None:
            shift = shift.through(curve, speech, peak, noise)
        speech += shift.speech_db - before.speech_db
        peak += shift.peak_db - before.peak_db
        noise += shift.noise_db - before.noise_db
        gain = None if k == 0 else speech - rows[-1].speech_dbu
        ceiling = _ceiling(stage, solution, joint, z, capsule, gain)
        rows.append(
            StageLevels(
                id=stage.id,
                name=stage.gear.name,
                kind=stage.gear.kind_id,
                gear=stage.gear,
                gain_db=gain,
                speech_dbu=speech,
                peak_dbu=peak,
                noise_dbu=noise,
                hum_dbu=_hum_dbu(float(solution.hum.total_v[k]), shift.noise_db),
                ceiling_dbu=ceiling,
                window=stage.gear.window(),
                z_source_ohm=z.source_ohm,
                z_load_ohm=z.load_ohm,
                dc_v=solution.dc_v[joint],
                dc_a=solution.dc_a[joint],
                capsule_v=capsule_v,
                speech_squeezed_db=before.speech_db - shift.speech_db,
                peaks_squeezed_db=before.peak_db - shift.peak_db,
            )
        )
        if ceiling is not None and k < last and peak > ceiling:
            # what is clipped off a peak does not come back further on
            shift = replace(shift, peak_db=shift.peak_db - (peak - ceiling))
    return tuple(rows)


def _ceiling(
    stage: PlacedStage,
    solution: ChainSolution,
    joint: int,
    z: Impedances,
    capsule: Capsule | None,
    gain_db: float | None,
) -> float | None:
    around = Surroundings(
        z.source_ohm,
        z.load_ohm,
        z.joint_ohm,
        solution.op.volts(capsule.p, capsule.n) if capsule else None,
        abs(device_current(solution, capsule.device)) if capsule else None,
        _swing(stage, solution, z),
    )
    gear = stage.gear
    limits = [gear.ceiling_dbu(around)]
    at_input = gear.input_ceiling_dbu(max(solution.compiled.chain.purpose_facts.band_hz[0], 100.0))
    if at_input is not None and gain_db is not None:
        limits.append(at_input + gain_db)
    known = [limit for limit in limits if limit is not None and math.isfinite(limit)]
    return min(known, default=None)


def _hum_dbu(volts: float, shift_db: float) -> float | None:
    """Hum level between words; None when nothing drives any (batteries all round)."""
    return dbu_from_volts(volts) + shift_db if volts > 1e-15 else None


def _swing(stage: PlacedStage, solution: ChainSolution, z: Impedances) -> float | None:
    """Peak volts an output transistor can move: down to its foot, up until its current is gone."""
    mark = next((m for m in stage.marks if isinstance(m, OutputDevice)), None)
    if mark is None:
        return None
    down = solution.op.volts(mark.out, mark.foot) - mark.keeps_v
    up = abs(device_current(solution, mark.device)) * (mark.load_ohm or z.joint_ohm)
    return max(min(down, up), 0.0)


def device_current(solution: ChainSolution, name: str) -> float:
    """DC in amperes into the first terminal (drain, collector, anode) of a device."""
    for placed, state in zip(solution.op.system.devices, solution.op.states, strict=True):
        if placed.name == name:
            return float(state.currents[0])
    raise KeyError(name)
