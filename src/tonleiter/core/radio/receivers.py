"""What hears a signal: a receiver beside the dummy load, a far one, an analyser."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.fm import FM_HZ
from tonleiter.core.radio.fm import TAPS as FM_TAPS
from tonleiter.core.radio.ssb import AUDIO_HZ, OUT_HZ, UP
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.filters import Fir, band_taps, low_taps, sampled_taps
from tonleiter.core.sound.sound import Sound

RECEIVER_HZ = (150.0, 2850.0)
TAPS = 513


@dataclass(frozen=True)
class Path:
    """The way to a far receiver. ``noise_db`` is the noise in its band against the set's power.

    ``fades_db`` is how deep it fades, about every ``fade_s`` seconds; ``neighbour_db`` what a
    station 3 kHz up lays into it, against the set's power.
    """

    noise_db: float = -25.0
    fades_db: float = 0.0
    fade_s: float = 2.3
    neighbour_db: float | None = None
    seed: int = 3


def heard(
    z: Complexes,
    path: Path | None = None,
    band_hz: tuple[float, float] = RECEIVER_HZ,
    gain: float = 1.0,
) -> Sound:
    """Single sideband as a receiver hears it; complex baseband at OUT_HZ in, audio out.

    One unit of audio is a tone of the set's full power. Without a path it stands beside the load.
    """
    if path is not None:
        z = travelled(z, path, band_hz)
    audio = Fir(band_taps(*band_hz, OUT_HZ, TAPS), 4800)(z).real[::UP]
    return Sound(audio * gain, AUDIO_HZ)


def travelled(z: Complexes, path: Path, band_hz: tuple[float, float]) -> Complexes:
    """A signal at a far receiver's aerial: faded, with noise and a neighbour."""
    rng = np.random.default_rng(path.seed)
    t = np.arange(z.size) / OUT_HZ
    if path.fades_db > 0:
        swing = 0.5 + 0.5 * np.cos(2 * np.pi * t / path.fade_s) * np.cos(1.7 * t / path.fade_s)
        z = z * 10 ** (-path.fades_db * swing / 20)
    share = (band_hz[1] - band_hz[0]) / OUT_HZ
    power = 10 ** (path.noise_db / 10) / share
    noise = rng.standard_normal(z.size) + 1j * rng.standard_normal(z.size)
    z = z + noise * math.sqrt(power / 2)
    if path.neighbour_db is not None:
        chatter = Fir(band_taps(3100, 5700, OUT_HZ, TAPS), 4800)(
            rng.standard_normal(z.size) + 1j * rng.standard_normal(z.size)
        )
        chatter *= np.maximum(0.0, np.sin(2 * np.pi * 1.7 * t))
        z = z + chatter * 10 ** (path.neighbour_db / 20) / max(float(np.std(chatter)), 1e-9)
    return z


def discriminated(
    z: Complexes, deviation_hz: float, noise_db: float | None = None, seed: int = 3
) -> Sound:
    """Frequency modulation as a second receiver hears it, de-emphasised; full deviation is 1.

    ``noise_db`` is noise in the receiver's 16 kHz against the carrier; None for none.
    """
    if noise_db is not None:
        rng = np.random.default_rng(seed)
        noise = rng.standard_normal(z.size) + 1j * rng.standard_normal(z.size)
        z = z + noise * math.sqrt(10 ** (noise_db / 10) * FM_HZ / 16_000 / 2)
        z = Fir(low_taps(8000.0, FM_HZ, 129), 4800)(z)
    turned = np.angle(z[1:] * np.conj(z[:-1])) * FM_HZ / (2 * np.pi * deviation_hz)
    audio = Fir(low_taps(3400.0, FM_HZ, 385), 4800)(np.concatenate([turned[:1], turned])).real
    audio = audio[:: FM_HZ // AUDIO_HZ]
    return Sound(Fir(deemphasis_taps(), 4800)(audio).real, AUDIO_HZ)


def deemphasis_taps(count: int = FM_TAPS) -> Floats:
    """The other way round than pre-emphasis, within 300 to 3000 Hz."""

    def wanted(f: Floats) -> Floats:
        gain = 1000.0 / np.clip(f, 150.0, 3600.0)
        return np.where(f < 100, gain * (f / 100) ** 2, gain)

    return sampled_taps(wanted, AUDIO_HZ, count)


def demodulated(z: Complexes) -> Sound:
    """Amplitude modulation as an envelope detector hears it; 100 % of a tone is a peak of 1."""
    envelope = np.abs(z)
    carrier = max(float(envelope.mean()), 1e-9)
    return Sound((envelope / carrier - 1.0)[::UP], AUDIO_HZ)
