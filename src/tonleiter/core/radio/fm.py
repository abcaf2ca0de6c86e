"""A frequency-modulation transmitter: pre-emphasis, limiter, splatter filter, deviation.

The limiter works at 48 kHz on the mean over each step, not on single samples, so that the harmonics
of a loud tone do not fold back into its band (antiderivative antialiasing of first order: Parker,
Zavalishin, Le Bivic, DAFx 2016).

A data path may go past pre-emphasis and limiter. Complex baseband of magnitude 1 comes out at
48 kHz. The limiter holds the audio at one unit, which is ``deviation_hz``; its filter smooths the
corners and may let peaks over that by a little, as it does in sets.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.knobs import SetFigures, behind_gain
from tonleiter.core.radio.ssb import AUDIO_HZ, WHOLE, blocks, padded
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.filters import Fir, low_taps, sampled_taps
from tonleiter.core.sound.sound import Sound

FM_HZ = 48_000
UP = FM_HZ // AUDIO_HZ
BLOCK = 480
WIDE_HZ, NARROW_HZ = 5000.0, 2500.0
# voice of an FM set: 6 dB an octave between these, flat at 1 kHz
EMPHASIS_HZ, SPLATTER_HZ, TAPS = (300.0, 3000.0), 3000.0, 193
# a step so small that its mean is its middle
NEAR_STEP = 1e-6


@dataclass(frozen=True)
class FmKnobs:
    """``gain`` from 0 to 1; ``deviation_hz`` is what the limiter's unit gives; ``flat`` is data."""

    gain: float = 0.5
    deviation_hz: float = WIDE_HZ
    flat: bool = False


@dataclass(frozen=True, eq=False)
class Modulated:
    """A block: complex baseband, and the deviation in hertz at every sample of it."""

    z: Complexes
    deviation_hz: Floats
    limited_db: float

    @property
    def peak_hz(self) -> float:
        """What a deviation meter holds."""
        return float(np.abs(self.deviation_hz).max(initial=0.0))


class FmTransmitter:
    """Turns audio into a signal block by block."""

    def __init__(self, figures: SetFigures, knobs: FmKnobs, block: int = BLOCK) -> None:
        self.figures, self.knobs = figures, knobs
        self._emphasis = Fir(emphasis_taps(), block)
        self._up = Fir(low_taps(AUDIO_HZ * 0.45, FM_HZ, 257), block, UP)
        self._limiter = Limiter()
        self._splatter = Fir(low_taps(SPLATTER_HZ, FM_HZ, UP * (TAPS - 1) + 1), block * UP)
        self._phase = 0.0

    def turn(self, knobs: FmKnobs) -> None:
        """Turn controls."""
        self.knobs = knobs

    def send(self, volts: Floats) -> Modulated:
        """A block of audio in volts."""
        audio = behind_gain(self.figures, volts, self.knobs.gain)
        limited = 0.0
        if self.knobs.flat:
            deviation = self._up(audio).real * self.knobs.deviation_hz
        else:
            audio = self._up(self._emphasis(audio).real).real
            peak = float(np.abs(audio).max(initial=0.0))
            limited = max(0.0, 20 * np.log10(max(peak, 1e-9)))
            deviation = self._splatter(self._limiter(audio)).real * self.knobs.deviation_hz
        phase = self._phase + np.cumsum(deviation) * (2 * np.pi / FM_HZ)
        self._phase = float(phase[-1] % (2 * np.pi)) if phase.size else self._phase
        return Modulated(np.exp(1j * phase), deviation, float(limited))


class Limiter:
    """Holds a signal within one unit, as the mean over each step between two samples."""

    def __init__(self) -> None:
        self._last = 0.0

    def __call__(self, x: Floats) -> Floats:
        """Shape (n,) in and out; half a sample late."""
        before = np.concatenate([[self._last], x[:-1]]) if x.size else x
        self._last = float(x[-1]) if x.size else self._last
        step = x - before
        near = np.abs(step) < NEAR_STEP
        mean = (_area(x) - _area(before)) / np.where(near, 1.0, step)
        return np.where(near, np.clip((x + before) / 2, -1.0, 1.0), mean)


def _area(x: Floats) -> Floats:
    """The antiderivative of a limiter at one: x²/2 within, |x| − 1/2 beyond."""
    size = np.abs(x)
    return np.where(size <= 1.0, 0.5 * size**2, size - 0.5)


def emphasis_taps(rate_hz: float = AUDIO_HZ, count: int = TAPS) -> Floats:
    """Taps of a pre-emphasis: proportional to frequency, one at 1 kHz, even outside its band.

    Linear phase, by sampling the wanted response.
    """
    low, high = EMPHASIS_HZ
    return sampled_taps(lambda f: np.clip(f, low * 0.5, high * 1.2) / 1000.0, rate_hz, count)


def modulated(figures: SetFigures, knobs: FmKnobs, sound: Sound) -> Modulated:
    """A whole recording in volts through a transmitter."""
    transmitter = FmTransmitter(figures, knobs, WHOLE)
    audio = padded(sound.at_rate(AUDIO_HZ).samples)
    every = [transmitter.send(b) for b in blocks(audio, WHOLE)]
    return Modulated(
        np.concatenate([m.z for m in every]),
        np.concatenate([m.deviation_hz for m in every]),
        max(m.limited_db for m in every),
    )
