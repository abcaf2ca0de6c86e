"""The ladder's rows: what each stage does to speech, peaks and noise."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from tonleiter.core.gear.base import Gear, Knob, Surroundings, Window
from tonleiter.core.gear.net import Capsule, OutputDevice
from tonleiter.core.gear.signals import SINE_CREST_DB, SPEECH, Signal, clear_db
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.dynamics import Envelope, plain
from tonleiter.core.solve.solution import ChainSolution, Impedances
from tonleiter.core.units.levels import dbu_from_volts, spl_from_pascals

# no living chain is this quiet: it is what numbers are left of a microphone without bias
SILENT_DBU = -150.0
# what rounding and insulation leave of hum where nothing drives any
# −178 dBu: what rounding and insulation leave, far under any noise
NO_HUM_V = 1e-9


@dataclass(frozen=True)
class StageLevels:
    """Levels at a stage's outlet (at the pins' far side for a radio), impedances at its joint.

    Levels in dBu are RMS; peaks stand over them by the signal's crest. A ceiling is the RMS of the
    largest clean sine, whose own peaks stand 3 dB higher. None where there is nothing to say.
    ``overshoot_db`` is by how much first syllables stand out behind a compressor, ``closed_share``
    the share of speech that its gate takes for a pause.
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
    noise_lifted_db: float = 0.0
    speech_in_band_dbu: float = -math.inf
    overshoot_db: float = 0.0
    closed_share: float = 0.0
    knob: Knob | None = None

    @property
    def clips_at_dbu(self) -> float | None:
        """Where peaks meet the ceiling."""
        return None if self.ceiling_dbu is None else self.ceiling_dbu + SINE_CREST_DB

    @property
    def headroom_db(self) -> float | None:
        """How far peaks stay clear of the ceiling."""
        return None if self.clips_at_dbu is None else self.clips_at_dbu - self.peak_dbu

    @property
    def snr_db(self) -> float:
        """Signal over noise, both in the band of the purpose."""
        return self.speech_in_band_dbu - self.noise_dbu


@dataclass(frozen=True)
class Moved:
    """What compressors and clipping so far have done to level, peaks and noise, in dB ≤ 0.

    The linear circuit gives small-signal levels. Speech is followed as an envelope; a steady signal
    takes the static curve at once, and the noise under it the same gain.
    """

    speech: Envelope | None
    steady_db: float = 0.0
    clipped_db: float = 0.0

    @property
    def level_db(self) -> float:
        """Of the level."""
        return self.speech.speech_db if self.speech else self.steady_db

    @property
    def peak_db(self) -> float:
        """Of the peaks."""
        return self.speech.peak_db if self.speech else self.steady_db + self.clipped_db

    @property
    def noise_db(self) -> float:
        """Of the noise: for speech of that between words."""
        return self.speech.pause_db if self.speech else self.steady_db

    def through(self, curve: Compression, level_dbu: float, noise_dbu: float) -> Moved:
        """After a compressor; level and noise as the linear circuit has them there."""
        if self.speech is None:
            return replace(
                self, steady_db=self.steady_db - curve.reduction_db(level_dbu + self.steady_db)
            )
        return replace(self, speech=self.speech.through(curve, level_dbu, noise_dbu))

    def clipped(self, level_dbu: float, peak_dbu: float, ceiling_dbu: float) -> Moved:
        """What is clipped off a peak does not come back further on."""
        if self.speech is not None:
            return replace(self, speech=self.speech.clipped(ceiling_dbu - level_dbu))
        over = -clear_db(ceiling_dbu, peak_dbu)
        return replace(self, clipped_db=self.clipped_db - over)


@dataclass(frozen=True)
class VoiceLevels:
    """Sound at the microphone."""

    speech_db_spl: float
    room_dba: float
    distance_mm: float
    acoustic: bool = True
    signal: Signal = SPEECH


def voice_levels(solution: ChainSolution) -> VoiceLevels:
    """Levels in the air."""
    compiled = solution.compiled
    return VoiceLevels(
        spl_from_pascals(compiled.speech_pa),
        compiled.room_dba,
        compiled.chain.distance_mm.value,
        compiled.acoustic,
        compiled.signal,
    )


def stage_levels(solution: ChainSolution) -> tuple[StageLevels, ...]:
    """A row per stage, microphone first, radio last."""
    speech_v, noise_v = solution.speech_v(), solution.noise_v()
    in_band_v = solution.speech_in_band_v()
    signal = solution.compiled.signal
    stages = solution.compiled.stages
    last = len(stages) - 1
    rows: list[StageLevels] = []
    moved = Moved(plain() if signal.id in ("speech", "music") else None)
    for k, stage in enumerate(stages):
        # a radio is judged at its pins: the joint before it
        joint = min(k, last - 1)
        z = solution.impedances[joint]
        capsule = next((m for m in stage.marks if isinstance(m, Capsule)), None)
        capsule_v = solution.op.volts(capsule.p, capsule.n) if capsule else None
        linear = dbu_from_volts(float(speech_v[k]))
        in_band = dbu_from_volts(float(in_band_v[k]))
        floor = dbu_from_volts(float(noise_v[k]))
        before, own = moved, plain()
        if (curve := stage.gear.compression()) is not None:
            moved = moved.through(curve, linear, floor)
            own = moved.speech or own
        speech = linear + moved.level_db
        peak = linear + signal.crest_db + moved.peak_db
        noise = floor + moved.noise_db
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
                hum_dbu=_hum_dbu(float(solution.hum.total_v[k]), moved.noise_db),
                ceiling_dbu=ceiling,
                window=stage.gear.window_for(signal),
                z_source_ohm=z.source_ohm,
                z_load_ohm=z.load_ohm,
                dc_v=solution.dc_v[joint],
                dc_a=solution.dc_a[joint],
                capsule_v=capsule_v,
                speech_squeezed_db=before.level_db - moved.level_db,
                peaks_squeezed_db=before.peak_db - moved.peak_db,
                # between words it takes less off: by so much noise comes nearer to speech
                noise_lifted_db=(before.level_db - before.noise_db)
                - (moved.level_db - moved.noise_db),
                speech_in_band_dbu=in_band + moved.level_db,
                overshoot_db=own.overshoot_db,
                closed_share=own.closed_share,
                knob=stage.gear.knob(speech, signal),
            )
        )
        if ceiling is not None and k < last and peak > ceiling + SINE_CREST_DB:
            moved = moved.clipped(linear, peak, ceiling)
    return tuple(rows)


# a stage that takes less from speech over noise than this adds none that anybody hears
UNHEARD_DB = 1.0


def noise_added_db(rows: Sequence[StageLevels], index: int) -> float:
    """How much less speech stands over the noise behind a stage than before it."""
    return rows[index - 1].snr_db - rows[index].snr_db


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
    return dbu_from_volts(volts) + shift_db if volts > NO_HUM_V else None


def _swing(stage: PlacedStage, solution: ChainSolution, z: Impedances) -> float | None:
    """Peak volts an output transistor moves at the joint: to its foot, or until it is cut off."""
    mark = next((m for m in stage.marks if isinstance(m, OutputDevice)), None)
    if mark is None:
        return None
    down = solution.op.volts(mark.out, mark.foot) - mark.keeps_v
    amps, behind = abs(device_current(solution, mark.device)), mark.behind
    if behind is None:
        return max(min(down, amps * z.joint_ohm), 0.0)
    swing = min(down, amps * behind.works_into(z.load_ohm))
    return max(swing, 0.0) * behind.share(z.load_ohm)


def device_current(solution: ChainSolution, name: str) -> float:
    """DC in amperes into the first terminal (drain, collector, anode) of a device."""
    for placed, state in zip(solution.op.system.devices, solution.op.states, strict=True):
        if placed.name == name:
            return float(state.currents[0])
    raise KeyError(name)
