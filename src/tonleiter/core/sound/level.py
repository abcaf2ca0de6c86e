"""Levels of sound: active speech level, peaks.

Active speech level after ITU-T P.56 (2011), method B: the envelope is smoothed twice with 30 ms, a
voice counts as active from 200 ms before it falls under a threshold, and the level is the power
while active for the threshold that lies 15.9 dB under that very level. Silence added to a recording
does not move it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache
from typing import Literal

import numpy as np

from tonleiter.core.signal.active import MARGIN_DB
from tonleiter.core.signal.arrays import Small
from tonleiter.core.signal.recursive import one_pole, recursive
from tonleiter.core.signal.runs import runs_of
from tonleiter.core.sound.sound import Floats, Sound

SMOOTH_S, HANG_S = 0.03, 0.2
# thresholds go down by halves, from twice the largest sample's half to what 16 bits still show
THRESHOLDS = 24
SILENT_DB = -300.0
PIECE = 60_000
STEP_S = 0.001


@dataclass(frozen=True)
class ActiveLevel:
    """The RMS while somebody speaks, in the samples' unit; the share of time in which they do."""

    rms: float
    activity: float

    @property
    def level_db(self) -> float:
        """In dB re one unit."""
        return 20 * math.log10(self.rms) if self.rms > 0 else SILENT_DB


def active_level(sound: Sound) -> ActiveLevel:
    """Of speech. Zero for silence."""
    x = sound.samples
    peak = float(np.abs(x).max(initial=0.0))
    if peak <= 0:
        return ActiveLevel(0.0, 0.0)
    g = math.exp(-1 / (sound.rate_hz * SMOOTH_S))
    envelope = one_pole(one_pole(np.abs(x), g), g)
    return active_of(envelope, peak, float(x @ x), x.size, round(HANG_S * sound.rate_hz))


def active_of_steps(
    sizes: Floats | Small, step_s: float, peak: float, energy: float
) -> ActiveLevel:
    """The same from the mean size of each step of about a millisecond, shape (steps,).

    ``energy`` is the sum of squares of a sample a step: the mean square times the steps.
    """
    if peak <= 0 or not sizes.size:
        return ActiveLevel(0.0, 0.0)
    g = math.exp(-step_s / SMOOTH_S)
    b, a = np.array([1 - g, 0.0]), np.array([1.0, -g])
    states = [np.zeros(1), np.zeros(1)]
    envelope = np.empty(sizes.size, np.float32)
    # hours go through in pieces: a filter's working memory is many times what it filters
    for k in range(0, sizes.size, PIECE):
        part = sizes[k : k + PIECE].astype(float)
        for n in range(2):
            part, states[n] = recursive(b, a, part, states[n])
        envelope[k : k + PIECE] = part
    return active_of(envelope, peak, energy, sizes.size, round(HANG_S / step_s))


def active_by_milliseconds(sound: Sound) -> ActiveLevel:
    """Of speech, from its mean size each millisecond: a tenth of the time, 0.001 dB off."""
    x, step = sound.samples, max(round(STEP_S * sound.rate_hz), 1)
    sizes = np.abs(x[: x.size // step * step]).reshape(-1, step).mean(axis=1)
    peak = float(np.abs(x).max(initial=0.0))
    return active_of_steps(sizes, step / sound.rate_hz, peak, float(x @ x) / step)


def active_of(
    envelope: Floats | Small, peak: float, energy: float, count: int, hang: int
) -> ActiveLevel:
    """The level from an envelope; ``energy`` is the sum of squares over ``count`` of its places."""
    thresholds = peak * 0.5 ** np.arange(THRESHOLDS)

    @cache
    def at(k: int) -> tuple[float, float]:
        """The level over the k-th threshold, and how far it stands over that; −inf if silent."""
        active = _active(envelope, float(thresholds[k]), hang)
        level = 10 * math.log10(energy / active) if active else -math.inf
        return level, (level - 20 * math.log10(thresholds[k]) if active else -math.inf)

    # the distance rises as thresholds fall: where it passes the margin is the level
    low, high = 0, THRESHOLDS
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if at(middle)[1] >= MARGIN_DB else (middle + 1, high)
    last = min(low, THRESHOLDS - 1)
    if not math.isfinite(at(last)[0]):
        return ActiveLevel(math.sqrt(energy / count), 1.0)
    level, over = at(last)
    if 0 < low < THRESHOLDS and math.isfinite(at(low - 1)[0]):
        before, under = at(low - 1)
        level = before + (MARGIN_DB - under) / (over - under) * (level - before)
    rms = 10 ** (level / 20)
    return ActiveLevel(rms, min(energy / (rms**2 * count), 1.0))


def _active(envelope: Floats | Small, threshold: float, hang: int) -> int:
    """How many samples lie at or over a threshold, or come less than ``hang`` after one."""
    # by runs, not by samples: an hour of them is no more than its words
    begins, ends = runs_of(envelope >= threshold)
    if not begins.size:
        return 0
    gaps = np.append(begins[1:], envelope.size) - ends
    return int((ends - begins).sum() + np.minimum(gaps, hang).sum())


def crest_db(sound: Sound) -> float:
    """How far peaks stand over the active level, one sample in fifty thousand left out."""
    level = active_level(sound).rms
    if level <= 0:
        return 0.0
    peak = float(np.quantile(np.abs(sound.samples), 1 - 2e-5))
    return 20 * math.log10(peak / level)


Sounds = Literal["speech", "steady", "silence"]
# under this no sample says anything; frames, and how far speech swings between them at least
SILENT_PEAK, FRAME_S, SPEECH_SWINGS_DB = 1e-4, 0.05, 3.0


def sounds_like(sound: Sound) -> Sounds:
    """Whether a recording swings as speech does, or is a tone, a whistle, a hum; or nothing.

    Syllables come and go: levels of frames of 50 ms differ by tens of decibels.
    """
    step = round(FRAME_S * sound.rate_hz)
    x = sound.samples[: sound.samples.size // step * step]
    if not x.size or float(np.abs(x).max()) < SILENT_PEAK:
        return "silence"
    level = 10 * np.log10((x.reshape(-1, step) ** 2).mean(axis=1) + 1e-20)
    # what fades in and out at its ends is no syllable
    low, high = np.quantile(level, (0.1, 0.9))
    return "speech" if high - low > SPEECH_SWINGS_DB else "steady"
