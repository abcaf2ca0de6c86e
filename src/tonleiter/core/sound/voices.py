"""Voices that ship with the application: two operators, each soft, normal and loud.

They were made with a free synthesiser (`scripts/make-voices`), shaped to the long-term spectrum of
speech (ITU-T P.50) and set to an active level of 26 dB under full scale (ITU-T P.56). The sentence
and its call sign are made up.
"""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files
from itertools import pairwise
from typing import Literal

import numpy as np

from tonleiter.core.gear.voice import Effort, room_spectrum, speech_density_db
from tonleiter.core.sound.sound import Floats, Sound

Pitch = Literal["deep", "middle", "high"]
RATE_HZ = 16_000
LEVEL_DB = -26.0
SENTENCE = (
    "Quebec one Tango Alfa Lima, from the old observatory. The laboratory is cold tonight, but the"
    " moon is out, and they hear us far across the valley. Over."
)
# a voice in the middle is nearer to the deep one; who is raised speaks as who is loud
_FILES: dict[Pitch, str] = {"deep": "deep", "middle": "deep", "high": "high"}
_EFFORTS: dict[Effort, str] = {"soft": "soft", "normal": "normal", "raised": "loud", "loud": "loud"}


@lru_cache(maxsize=8)
def voice(pitch: Pitch, effort: Effort = "normal") -> Sound:
    """A voice with an active level of one unit RMS, at 16 kHz."""
    import soundfile  # imported when wanted

    name = f"{_FILES[pitch]}-{_EFFORTS[effort]}.flac"
    with (files("tonleiter") / "voices" / name).open("rb") as file:
        samples, rate = soundfile.read(file)
    return Sound(np.asarray(samples, dtype=float) * 10 ** (-LEVEL_DB / 20), int(rate))


def speech_shaped(samples: Floats, rate_hz: int, low_hz: float = 100.0) -> Floats:
    """Samples whose long-term spectrum is that of speech (ITU-T P.50), within its band.

    Power of bands of a sixth of an octave is set to what P.50 gives, by a filter without phase;
    holes between the harmonics of a voice stay holes. The level is not kept.
    """
    n = samples.size
    f = np.fft.rfftfreq(n, 1 / rate_hz)
    spectrum = np.fft.rfft(samples)
    power = np.abs(spectrum) ** 2
    edges = low_hz * 2 ** (np.arange(0, 60) / 6)
    edges = edges[edges < rate_hz / 2]
    centres, gains_db = [], []
    for low, high in pairwise(edges):
        inside = (f >= low) & (f < high)
        wanted = float(np.sum(10 ** (speech_density_db(f[inside]) / 10)))
        centres.append(float(np.sqrt(low * high)))
        gains_db.append(10 * np.log10(wanted / max(float(power[inside].sum()), 1e-30)))
    # what lies between two harmonics is empty: no gain makes up for it
    limited = np.minimum(gains_db, np.median(gains_db) + MOST_UP_DB)
    smooth = np.interp(np.log(np.maximum(f, 1.0)), np.log(centres), limited)
    gain = 10 ** (smooth / 20)
    gain[f < low_hz * 0.8] = 0.0
    gain[f > min(8000.0, rate_hz / 2)] = 0.0
    shaped: Floats = np.fft.irfft(spectrum * gain, n)
    return shaped


MOST_UP_DB = 30.0


def room_noise_pa(seconds: float, rate_hz: int, noise_dba: float, seed: int = 1) -> Floats:
    """Room noise in pascals with the spectrum and the level that the chain is computed with."""
    (law,) = room_spectrum(noise_dba)
    f = np.fft.rfftfreq(round(seconds * rate_hz), 1 / rate_hz)
    psd = law.at_1khz * (np.maximum(f, 20.0) / 1000.0) ** -law.exponent
    psd[(f < 20.0)] = 0.0
    return coloured(psd, round(seconds * rate_hz), rate_hz, seed)


def coloured(psd: Floats, n: int, rate_hz: int, seed: int) -> Floats:
    """Noise with a one-sided density per Hz at each frequency of ``rfftfreq(n)``, shape (n,)."""
    rng = np.random.default_rng(seed)
    size = n // 2 + 1
    drawn = (rng.standard_normal(size) + 1j * rng.standard_normal(size)) / np.sqrt(2)
    made: Floats = np.fft.irfft(drawn * np.sqrt(psd * rate_hz * n / 2), n)
    return made


def tone(seconds: float, hertz: float, rate_hz: int = RATE_HZ) -> Sound:
    """A sine with an RMS of one unit."""
    t = np.arange(round(seconds * rate_hz)) / rate_hz
    return Sound(np.sqrt(2) * np.sin(2 * np.pi * hertz * t), rate_hz)


def two_tones(seconds: float, pair_hz: tuple[float, float], rate_hz: int = RATE_HZ) -> Sound:
    """Two equal sines, together with an RMS of one unit."""
    one, other = (tone(seconds, f, rate_hz).samples for f in pair_hz)
    return Sound((one + other) / np.sqrt(2), rate_hz)


def whistle(seconds: float = 3.0, rate_hz: int = RATE_HZ) -> Sound:
    """A whistle as people give one: from 1.1 kHz up to 1.6 and back, not quite steady; RMS one."""
    t = np.arange(round(seconds * rate_hz)) / rate_hz
    hertz = 1350 - 250 * np.cos(2 * np.pi * t / seconds) + 8 * np.sin(2 * np.pi * 5.5 * t)
    swell = np.minimum(1.0, np.minimum(t, seconds - t) / 0.15)
    made = swell * np.sin(2 * np.pi * np.cumsum(hertz) / rate_hz)
    return Sound(made / np.sqrt(np.mean(made**2)), rate_hz)
