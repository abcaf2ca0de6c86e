"""A voice through a solved chain, sample by sample: what stands at a joint, in volts.

The linear circuit is a filter made from its AC solution, magnitude and phase. Where a stage
compresses or its ceiling is met the signal is turned there as that stage does it: static curve and
detector (as in ``solve.dynamics``), peaks held at the ceiling. Noise has the density that was
solved, hum its lines; what a compressor does to the voice it does to them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tonleiter.core.circuit.ac import Complexes
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.signal.arrays import quick_size
from tonleiter.core.signal.detectors import Detector, Times, stepped
from tonleiter.core.solve.hum import EARTH_SHAPE, HARMONICS
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.sound.sound import Floats, Sound
from tonleiter.core.sound.voices import coloured
from tonleiter.core.units.levels import volts_from_dbu

# a joint that gets less than this of what another one gets is dead
DEAD = 1e-12
# a compressor's detector looks at the voice this often: within half a wave of its treble
DETECTOR_S = 0.25e-3
# breath on a bare capsule: a thump of so many pascals at this distance, falling with its square
PUFF_PA, PUFF_AT_MM, PUFF_S, PUFF_HZ = 6.0, 30.0, 0.05, 18.0
# a puff goes with a sudden start of a syllable
ONSET_DB, ONSET_APART_S = 16.0, 0.35


@dataclass(frozen=True, eq=False)
class Arrived:
    """What arrives at a joint, in volts: voice, noise and hum apart, all with their gain."""

    voice: Sound
    noise: Floats
    hum: Floats

    def all(self) -> Sound:
        """Together."""
        return Sound(self.voice.samples + self.noise + self.hum, self.voice.rate_hz)


def through(
    solution: ChainSolution, rows: Sequence[StageLevels], voice: Sound, seed: int = 7
) -> Arrived:
    """A voice with an active level of one unit through a chain to the radio's own input.

    The radio's own compressor is left out: it belongs to its knobs. ``voice`` is spoken as the
    chain says, from its distance.
    """
    compiled = solution.compiled
    samples = voice.samples * compiled.speech_pa
    if compiled.acoustic and compiled.chain.speaks == "into-it" and rows[0].gear.pops():
        samples = samples + puffs(voice, compiled.chain.distance_mm.value)
    rate = voice.rate_hz
    last = len(rows) - 1
    gain_db = np.zeros(samples.size)
    at = -1
    for k in range(last):
        curve = rows[k].gear.compression()
        ceiling = rows[k].clips_at_dbu
        held = ceiling is not None and rows[k].peak_dbu > ceiling - 3.0
        if curve is None and not held:
            continue
        samples, at = filtered(solution, samples, rate, at, k), k
        if curve is not None:
            moved = compressed_db(samples, rate, curve)
            samples = samples * 10 ** (moved / 20)
            gain_db = gain_db + moved
        if held and ceiling is not None:
            top = volts_from_dbu(ceiling)
            samples = np.clip(samples, -top, top)
    samples = filtered(solution, samples, rate, at, last)
    follows = 10 ** (gain_db / 20)
    noise = noise_v(solution, samples.size, rate, seed) * follows
    hum = hum_v(solution, samples.size, rate) * follows
    return Arrived(Sound(samples, rate), noise, hum)


def filtered(
    solution: ChainSolution, samples: Floats, rate_hz: int, before: int, joint: int
) -> Floats:
    """What stands at one joint for what stands at another; −1 is the air, in pascals."""
    n = quick_size(samples.size + rate_hz // 2)  # room for what rings on
    f = np.asarray(np.fft.rfftfreq(n, 1 / rate_hz), float)
    gain = response_at(solution, f, joint)
    if before >= 0:
        below = response_at(solution, f, before)
        small = np.abs(below) < DEAD * max(float(np.abs(below).max()), 1e-30)
        gain = np.where(small, 0.0, gain / np.where(small, 1.0, below))
    made: Floats = np.fft.irfft(np.fft.rfft(samples, n) * gain, n)[: samples.size]
    return made


def response_at(solution: ChainSolution, f_hz: Floats, joint: int) -> Complexes:
    """Volts per pascal at any frequencies, complex; nothing below what was solved.

    Between the frequencies of the solution magnitude (dB) and phase go straight in octaves.
    """
    size = np.maximum(np.abs(solution.response[:, joint]), 1e-30)
    phase = np.unwrap(np.angle(solution.response[:, joint]))
    at, known = np.log(np.maximum(f_hz, 1e-3)), np.log(solution.f_hz)
    magnitude = np.exp(np.interp(at, known, np.log(size)))
    made = magnitude * np.exp(1j * np.interp(at, known, phase))
    return np.asarray(np.where(f_hz < solution.f_hz[0], 0.0, made))


def noise_v(solution: ChainSolution, n: int, rate_hz: int, seed: int) -> Floats:
    """Noise at the radio's input with the density that was solved there, shape (n,)."""
    size = quick_size(n)
    f = np.fft.rfftfreq(size, 1 / rate_hz)
    psd = np.maximum(solution.noise_psd[:, -1], 1e-40)
    at = np.log(np.maximum(f, 1e-3))
    made = np.exp(np.interp(at, np.log(solution.f_hz), np.log(psd)))
    made[f < solution.f_hz[0]] = 0.0
    return coloured(made, size, rate_hz, seed)[:n]


def hum_v(solution: ChainSolution, n: int, rate_hz: int) -> Floats:
    """Hum at the radio's input: its level as solved, in lines as the mains has them; shape (n,)."""
    total = float(solution.hum.total_v[-1])
    t = np.arange(n) / rate_hz
    shape = np.array(EARTH_SHAPE) / math.hypot(*EARTH_SHAPE)
    mains = solution.compiled.mains_hz
    made: Floats = (
        math.sqrt(2)
        * total
        * sum(
            (
                a * np.sin(2 * np.pi * mains * h * t + h)
                for a, h in zip(shape, HARMONICS, strict=True)
            ),
            np.zeros(n),
        )
    )
    return made


def puffs(voice: Sound, distance_mm: float) -> Floats:
    """Breath that hits a bare capsule where syllables start suddenly, in pascals; shape (n,)."""
    rate = voice.rate_hz
    step = round(0.02 * rate)
    blocks = voice.samples[: voice.samples.size // step * step].reshape(-1, step)
    level = 10 * np.log10(np.maximum((blocks**2).mean(axis=1), 1e-8))
    rises = level[2:] - level[:-2]
    starts = np.flatnonzero((rises > ONSET_DB) & (level[2:] > -6.0)) + 1
    t = np.arange(round(PUFF_S * rate)) / rate
    shape = np.sin(np.pi * t / PUFF_S) * np.sin(2 * np.pi * PUFF_HZ * t)
    puff = PUFF_PA * (PUFF_AT_MM / max(distance_mm, 5.0)) ** 2 * shape
    made, before = np.zeros(voice.samples.size), -rate
    for start in starts * step:
        if start - before > ONSET_APART_S * rate and start + puff.size < made.size:
            made[start : start + puff.size] += puff
            before = int(start)
    return made


def compressed_db(samples: Floats, rate_hz: int, curve: Compression) -> Floats:
    """Gain of a compressor in dB for each sample of volts, by its detector and static curve."""
    step = max(round(DETECTOR_S * rate_hz), 1)
    # a sine that reaches as high has this RMS
    rectified = stepped(samples, step, "mean") / math.sqrt(2)
    detector = Detector(step / rate_hz, Times(curve.attack_s, release_s=curve.release_s))
    dbu = 20 * np.log10(np.maximum(detector(rectified), 1e-15) / volts_from_dbu(0.0))
    gain = -np.maximum(dbu - curve.threshold_dbu, 0.0) * (1 - 1 / curve.ratio)
    if curve.gate_dbu is not None:
        gain = gain - curve.gate_depth_db * (dbu < curve.gate_dbu)
    return np.asarray(np.repeat(gain, step)[: samples.size], dtype=float)
