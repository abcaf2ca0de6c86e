"""A single-sideband transmitter: audio in volts in, complex baseband out, meters beside.

    input → first stage (ceiling) → gain → bass, treble → compressor → one sideband
          → or: clipper → one sideband again
          → what the modulator leaves of carrier and other sideband, its noise
          → level control (ALC) → power stage with a soft limit and a turn of phase

A sample of the output is volts as a share of full peak envelope: |z| = 1 is the set's power. The
level control follows the envelope as sets do: what comes before it has hold of a syllable passes on
to the power stage, which rounds it and splatters.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from tonleiter.core.radio.knobs import WORKED_DB, Knobs, SetFigures, behind_gain
from tonleiter.core.signal.arrays import Complexes, Floats, decibels
from tonleiter.core.signal.detectors import Detector, Glide, Times, stepped
from tonleiter.core.signal.filters import Biquad, Fir, band_taps, shelf
from tonleiter.core.sound.sound import Sound
from tonleiter.core.stop import checkpoint

AUDIO_HZ, OUT_HZ = 12_000, 24_000
UP = OUT_HZ // AUDIO_HZ
# a block of live use, a step of the detectors
BLOCK, STEP = 480, 12
# what is not heard while it is sent goes in longer pieces: fewer transforms, the same samples
WHOLE = 16 * BLOCK
STEP_S = STEP / AUDIO_HZ
TAPS = 1025
BASS_HZ, TREBLE_HZ = 300.0, 1800.0
# a compressor's own make-up gain comes within syllables and goes within phrases
MADE_UP_S, MADE_UP_FALLS_DB_PER_S = 0.06, 1.5
# the power stage follows its input up to about its limit (Rapp, 1991, sharpness 4): where it ends
# over full power
ENDS_AT = 10 ** (0.8 / 20)
# the band in which noise is told, where its dice begin, and how much is drawn: five seconds
NOISE_HZ, NOISE_SEED, NOISE_SAMPLES = 3000.0, 1947, 1 << 17


@dataclass(frozen=True)
class Meters:
    """What the meters of one block show at most, and its mean power as a share of the set's."""

    alc_db: float
    compression_db: float
    mean_share: float
    overloaded: bool


@dataclass(frozen=True, eq=False)
class Sent:
    """What left the transmitter: complex baseband of shape (n,) at OUT_HZ, meters block by block.

    Step by step: the envelope that came to the level control, what that took off it, and what the
    compressor did, all in decibels against full power.
    """

    z: Complexes
    meters: tuple[Meters, ...]
    alc_db: Floats
    compressed_db: Floats
    envelope_db: Floats


class SsbTransmitter:
    """Turns audio into a signal block by block; knobs may be turned between blocks."""

    def __init__(self, figures: SetFigures, knobs: Knobs, block: int = BLOCK) -> None:
        self.figures, self.knobs = figures, knobs
        self._bass = Biquad(*shelf(knobs.bass_db, BASS_HZ, AUDIO_HZ, high=False))
        self._treble = Biquad(*shelf(knobs.treble_db, TREBLE_HZ, AUDIO_HZ, high=True))
        self._band = Fir(self._taps(), block, UP)
        fall = 20 / math.log(10) / figures.compressor_release_s
        # behind the clipper the same filter again: what clipping spilled goes
        self._again = Fir(self._taps() / 2, block * UP)
        self._modulator = Modulator(figures)
        self._squeezes = Detector(STEP_S, Times(figures.compressor_attack_s, falls_per_s=fall))
        self._makes_up = Detector(STEP_S, Times(MADE_UP_S, falls_per_s=MADE_UP_FALLS_DB_PER_S))
        self._squeeze = Glide(STEP)
        self._alc = Detector(
            STEP_S,
            Times(
                figures.alc_attack_s, figures.alc_hang_s, falls_per_s=figures.alc_release_db_per_s
            ),
        )
        self._level = Glide(STEP * UP)

    def _taps(self) -> Complexes:
        # one sideband of a real signal has half of it
        return 2 * band_taps(self.knobs.low_hz, self.knobs.high_hz, OUT_HZ, TAPS)

    def turn(self, knobs: Knobs) -> None:
        """Turn controls."""
        was, self.knobs = self.knobs, knobs
        if (was.low_hz, was.high_hz) != (knobs.low_hz, knobs.high_hz):
            self._band.turned(self._taps())
            self._again.turned(self._taps() / 2)
        if was.bass_db != knobs.bass_db:
            self._bass.turned(*shelf(knobs.bass_db, BASS_HZ, AUDIO_HZ, high=False))
        if was.treble_db != knobs.treble_db:
            self._treble.turned(*shelf(knobs.treble_db, TREBLE_HZ, AUDIO_HZ, high=True))

    def send(self, volts: Floats) -> Sent:
        """A block of audio in volts at its input; its length is a multiple of STEP."""
        figures, knobs = self.figures, self.knobs
        overloaded = bool(np.any(np.abs(volts) > figures.overload_v))
        audio = self._treble(self._bass(behind_gain(figures, volts, knobs.gain)))
        if figures.clips_rf and knobs.compression_db > 0:
            z, squeezed = self._clipped(self._band(audio))
        else:
            audio, squeezed = self._compressed(audio)
            z = self._band(audio)
        z = self._modulator(z)
        peaks = decibels(stepped(z, STEP * UP))
        reduced = self._alc(np.maximum(peaks, 0.0))
        z = z * self._level(-reduced)
        z = turned(power_stage(z), figures.products_db) * math.sqrt(knobs.power)
        power = np.abs(z) ** 2
        meters = Meters(
            alc_db=float(reduced.max(initial=0.0)),
            compression_db=float(squeezed.max(initial=0.0)),
            mean_share=float(power.mean()) if power.size else 0.0,
            overloaded=overloaded,
        )
        return Sent(z, (meters,), reduced, squeezed, peaks)

    def _compressed(self, audio: Floats) -> tuple[Floats, Floats]:
        """Peaks over a threshold brought down, and all of it up by what they lost of late.

        So peaks come out as they went in, and the rest comes nearer to them.
        """
        wanted = self.knobs.compression_db
        squeeze = 1 - 1 / self.figures.compressor_ratio
        threshold = WORKED_DB - wanted / squeeze
        peaks = decibels(stepped(audio, STEP))
        over = np.maximum(peaks - threshold, 0.0) * squeeze if wanted > 0 else np.zeros(peaks.size)
        reduced = self._squeezes(over)
        return audio * self._squeeze(self._makes_up(reduced) - reduced), reduced

    def _clipped(self, z: Complexes) -> tuple[Complexes, Floats]:
        """The sideband's envelope cut, brought up by as much, and filtered again.

        Clipped there, no harmonic of speech falls into its own band: they lie at twice the carrier.
        """
        top = 10 ** ((WORKED_DB - self.knobs.compression_db) / 20)
        size = np.abs(z)
        over = np.maximum(size / top, 1.0)
        made = self._again(z / over * 10 ** (self.knobs.compression_db / 20))
        return made, stepped(20 * np.log10(over), STEP * UP)


class Modulator:
    """What a balanced modulator and its filter leave: some carrier, some of the other sideband.

    And noise of its own, at every frequency alike; the same in every run.
    """

    def __init__(self, figures: SetFigures) -> None:
        self._carrier = 10 ** (-figures.carrier_db / 20)
        self._other = 10 ** (-figures.other_sideband_db / 20)
        # in the whole band that is sent here, both parts alike
        self._noise = 10 ** (-figures.noise_db / 20) * math.sqrt(OUT_HZ / NOISE_HZ / 2)
        self._at = 0

    def __call__(self, z: Complexes) -> Complexes:
        """Shape (n,) in and out."""
        ring = _noise()
        noise = ring[self._at : self._at + z.size]
        if noise.size < z.size:
            noise = np.resize(np.roll(ring, -self._at), z.size)
        self._at = (self._at + z.size) % ring.size
        made: Complexes = z + self._other * np.conj(z) + self._carrier + self._noise * noise
        return made


@lru_cache(maxsize=1)
def _noise() -> Complexes:
    """Some seconds of noise, both parts with a variance of one: drawn once, it goes round."""
    drawn = np.random.default_rng(NOISE_SEED).standard_normal((NOISE_SAMPLES, 2))
    made: Complexes = drawn @ np.array([1.0, 1.0j])
    return made


def turned(z: Complexes, products_db: float) -> Complexes:
    """The phase that a power stage turns with its envelope, which makes products of odd orders.

    With φ = a |z|² two equal tones of half the envelope each have products of a/8 of the peak: they
    lie 20 log(8/a) under it, and at half the drive 12 dB further down against their own peak.
    """
    a = 8 * 10 ** (-products_db / 20)
    made: Complexes = z * np.exp(1j * a * (z.real**2 + z.imag**2))
    return made


def power_stage(z: Complexes) -> Complexes:
    """The envelope through the curve of a power stage: even below full power, then rounded."""
    share = (z.real**2 + z.imag**2) / ENDS_AT**2
    # the eighth root of one and the eighth power: squares and square roots are quick
    made: Complexes = z / np.sqrt(np.sqrt(np.sqrt(1 + share**2 * share**2)))
    return made


def transmitted(figures: SetFigures, knobs: Knobs, sound: Sound) -> Sent:
    """A whole recording through a transmitter; in volts, at any rate."""
    audio = padded(sound.at_rate(AUDIO_HZ).samples)
    transmitter = SsbTransmitter(figures, knobs, WHOLE)
    return joined(transmitter.send(b) for b in blocks(audio, WHOLE))


def padded(audio: Floats) -> Floats:
    """Audio of whole steps."""
    return np.concatenate([audio, np.zeros(-audio.size % STEP)])


def blocks(audio: Floats, size: int = BLOCK) -> Iterator[Floats]:
    """Block by block; nobody who waits no more is kept waiting."""
    for k in range(0, audio.size, size):
        checkpoint()
        yield audio[k : k + size]


def joined(sent: Iterator[Sent]) -> Sent:
    """Blocks one after the other."""
    every = list(sent)
    return Sent(
        np.concatenate([s.z for s in every]),
        tuple(m for s in every for m in s.meters),
        np.concatenate([s.alc_db for s in every]),
        np.concatenate([s.compressed_db for s in every]),
        np.concatenate([s.envelope_db for s in every]),
    )
