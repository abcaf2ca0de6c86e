"""Signals whose truth is known: a voice with hum, noise, cuts, edges and clicks put in."""

from __future__ import annotations

import functools

import numpy as np
from scipy.ndimage import uniform_filter1d

from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import survey_sound
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import voice

RATE = 48_000
ACTIVE = 0.05  # RMS while somebody speaks
# half of what a voice says says it as well
SECONDS = 9


@functools.cache
def spoken(pitch="deep", rate=RATE):
    """A voice of an active level of ACTIVE, with nothing at all between words; shape (n,)."""
    whole = voice(pitch)
    cut = Sound(whole.samples[: SECONDS * whole.rate_hz], whole.rate_hz)
    x = cut.times(ACTIVE / active_level(cut).rms).at_rate(rate).samples
    width = round(0.03 * rate)
    size = np.sqrt(uniform_filter1d(x**2, width, mode="constant"))
    loud = (size > ACTIVE * 10 ** (-34 / 20)).astype(float)
    return x * uniform_filter1d(loud, width, mode="constant")


def times(n, rate=RATE):
    return np.arange(n) / rate


def noise(n, under_db, seed=1, fall=False):
    """Even noise so far under speech; ``fall``: six decibels an octave down, as a fan's."""
    if n == 0:
        return np.zeros(0)
    x = np.random.default_rng(seed).normal(0, 1, n)
    if fall:
        f = np.fft.rfftfreq(n, 1 / RATE)
        x = np.fft.irfft(np.fft.rfft(x) / np.maximum(f, 100.0), n)
    return x / np.sqrt(np.mean(x**2)) * ACTIVE * 10 ** (-under_db / 20)


def lines(n, base_hz, shape, under_db, seed=0):
    """Lines at multiples of a frequency, together so far under speech."""
    rng, t = np.random.default_rng(seed), times(n)
    made = sum(a * np.sin(2 * np.pi * base_hz * k * t + rng.uniform(0, 6)) for k, a in shape)
    return made / np.sqrt(np.mean(made**2)) * ACTIVE * 10 ** (-under_db / 20)


def banded(x, low_hz, high_hz, order=8, rate=RATE):
    """Through a band whose edges are 6 dB down; steep."""
    f = np.maximum(np.fft.rfftfreq(x.size, 1 / rate), 1e-3)
    # |H| is one half at each edge
    gain = 1 / (1 + (low_hz / f) ** order) / (1 + (f / high_hz) ** order)
    return np.fft.irfft(np.fft.rfft(x) * gain, x.size)


def measured(x, rate=RATE):
    return Measures(survey_sound(Sound(np.asarray(x, float), rate)))
