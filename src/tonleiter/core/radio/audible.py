"""How much of speech lies over a far receiver's noise, band by band, by what each band carries.

Speech intelligibility index in bands of a third of an octave (ANSI S3.5-1997, table 3 and 4.7):
speech peaks stand 15 dB over the mean and valleys 15 under it, so a band counts by how much of
those 30 dB is over the noise. Spread of masking, hearing and too loud a level are left out: a
receiver's volume is turned up. It asks whether speech can be heard, not whether it is still like
the voice; compression lifts the first and bends the second.
"""

from __future__ import annotations

import numpy as np

from tonleiter.core.radio.receivers import RECEIVER_HZ, Path, heard
from tonleiter.core.signal.arrays import Complexes
from tonleiter.core.sound.level import active_level

# middle of each band in hertz, and its importance; they add up to one
IMPORTANCE: tuple[tuple[float, float], ...] = (
    (160, 0.0083),
    (200, 0.0095),
    (250, 0.0150),
    (315, 0.0289),
    (400, 0.0440),
    (500, 0.0578),
    (630, 0.0653),
    (800, 0.0711),
    (1000, 0.0818),
    (1250, 0.0844),
    (1600, 0.0882),
    (2000, 0.0898),
    (2500, 0.0868),
    (3150, 0.0844),
    (4000, 0.0771),
    (5000, 0.0527),
    (6300, 0.0364),
    (8000, 0.0185),
)
PEAKS_DB, SWING_DB = 15.0, 30.0
# a band ends a sixth of an octave to either side of its middle
EDGE = 2 ** (1 / 6)


def audible(z: Complexes, path: Path, band_hz: tuple[float, float] = RECEIVER_HZ) -> float:
    """The index, 0 to 1, of a single-sideband signal at a far receiver."""
    sound = heard(z, band_hz=band_hz)
    samples, rate = sound.samples, sound.rate_hz
    if not samples.size:
        return 0.0
    power = 2 * np.abs(np.fft.rfft(samples)) ** 2 / samples.size**2
    f = np.fft.rfftfreq(samples.size, 1 / rate)
    mean = float(power.sum())
    if mean <= 0:
        return 0.0
    # speech while it lasts: pauses carry nothing
    lasts = active_level(sound).rms ** 2 / mean
    # of complex noise in the receiver's band its real part is heard
    density = 10 ** (path.noise_db / 10) / (band_hz[1] - band_hz[0]) / 2
    index = 0.0
    for middle, importance in IMPORTANCE:
        whole = middle * EDGE - middle / EDGE
        low, high = max(middle / EDGE, band_hz[0]), min(middle * EDGE, band_hz[1])
        inside = (f >= low) & (f < high)
        if high <= low or not inside.any():
            continue
        speech = lasts * float(power[inside].sum())
        over_db = 10 * np.log10(max(speech, 1e-30) / (density * (high - low)))
        # of a band that the receiver cuts, what it lets through
        share = importance * (high - low) / whole
        index += share * float(np.clip((over_db + PEAKS_DB) / SWING_DB, 0.0, 1.0))
    return index
