"""The tones of the path as a sound file, for a computer's output in place of a generator.

A plain WAV file (Microsoft/IBM RIFF, PCM): one channel, 16 bits, 48,000 samples a second. Each tone
stands alone, with silence between, so that a meter that holds its reading can be read.
"""

from __future__ import annotations

import math
from io import BytesIO

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.reading import TONES_HZ

RATE_HZ, PEAK_DBFS = 48_000, -12.0
TONE_S, GAP_S, FADE_S = 20.0, 1.0, 0.02


def tone(hertz: float, seconds: float = TONE_S) -> NDArray[np.float64]:
    """A sine with soft ends, peak at ``PEAK_DBFS``; shape (samples,), full scale 1."""
    count = round(seconds * RATE_HZ)
    made: NDArray[np.float64] = np.sin(2 * math.pi * hertz / RATE_HZ * np.arange(count))
    fade = 0.5 - 0.5 * np.cos(math.pi * np.linspace(0, 1, round(FADE_S * RATE_HZ)))
    made[: fade.size] *= fade
    made[-fade.size :] *= fade[::-1]
    made *= 10 ** (PEAK_DBFS / 20)
    return made


def tones_wav() -> bytes:
    """Every tone of the path, one after the other, as a WAV file."""
    # with it comes all that reads files of others
    from scipy.io import wavfile

    gap = np.zeros(round(GAP_S * RATE_HZ))
    samples = np.concatenate([part for hertz in TONES_HZ for part in (tone(hertz), gap)])
    file = BytesIO()
    wavfile.write(file, RATE_HZ, np.round(samples * 32767).astype(np.int16))
    return file.getvalue()


def tones_say() -> str:
    """What the file holds, in words."""
    names = ", ".join(f"{hertz:g}" for hertz in TONES_HZ)
    return f"{names} Hz, {TONE_S:g} s each"
