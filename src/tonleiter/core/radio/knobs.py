"""What a transceiver's panel has, and what its maker's figures say of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.gear.signals import SINE_CREST_DB, SPEECH
from tonleiter.core.units.levels import volts_from_dbu

Floats = NDArray[np.float64]
# speech that a socket wants with its gain in the middle works the level control by so much at peaks
WORKED_DB = 5.0


@dataclass(frozen=True)
class SetFigures:
    """A transmitter's own figures; what no manual says is typical.

    ``unit_v`` are the peak volts at its input that just reach full power with the gain control in
    the middle, ``overload_v`` the peak volts that its first stage bears. Products of the third
    order of two equal tones, what is left of the carrier and of the other sideband, and its noise
    in 3 kHz lie so many decibels under peak envelope power. ``clips_rf``: its compressor clips the
    sideband and filters it again, where others bring down the audio.
    """

    unit_v: float
    overload_v: float
    gain_range_db: float = 40.0
    marked_to: float = 100.0
    power_w: float = 100.0
    alc_full_db: float = 15.0
    alc_attack_s: float = 2e-3
    alc_hang_s: float = 0.1
    alc_release_db_per_s: float = 30.0
    compressor_attack_s: float = 1e-3
    compressor_release_s: float = 0.03
    compressor_ratio: float = 8.0
    deviation_hz: float = 4300.0
    fixed_gain: bool = False
    products_db: float = 30.0
    carrier_db: float = 50.0
    other_sideband_db: float = 50.0
    noise_db: float = 70.0
    clips_rf: bool = False

    @classmethod
    def of_levels(cls, wants_dbu: float, clip_dbu: float, **more: float | bool) -> SetFigures:
        """From the speech that a socket wants with its gain in the middle, and its ceiling."""
        peaks = wants_dbu + SPEECH.crest_db - WORKED_DB
        overload = volts_from_dbu(clip_dbu + SINE_CREST_DB)
        return cls(volts_from_dbu(peaks), overload, **more)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Knobs:
    """Where the controls of a single-sideband panel stand. ``gain`` and ``power`` from 0 to 1.

    ``compression_db`` is what the compressor takes off peaks of speech at its usual level, 0 for
    off; ``low_hz`` and ``high_hz`` are the edges of what is sent.
    """

    gain: float = 0.5
    compression_db: float = 0.0
    bass_db: float = 0.0
    treble_db: float = 0.0
    low_hz: float = 100.0
    high_hz: float = 2900.0
    power: float = 1.0


def gain_db(figures: SetFigures, gain: float) -> float:
    """A gain control even in decibels over its range, 0 in the middle."""
    return 0.0 if figures.fixed_gain else (gain - 0.5) * figures.gain_range_db


def behind_gain(figures: SetFigures, volts: Floats, gain: float) -> Floats:
    """Volts at the input through the first stage, whose ceiling cuts, and the gain; full is 1."""
    top = figures.overload_v
    held: Floats = np.clip(volts, -top, top) / figures.unit_v
    return held * 10 ** (gain_db(figures, gain) / 20)
