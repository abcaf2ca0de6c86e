"""What compressors do to speech: a short run on a stored envelope.

The envelope stands for speech as the RMS of a sine that reaches as high: syllables at some four a
second within ±12 dB, pauses between phrases, fast ripple on top, peaks 11 dB over the active level
(14 dB as a waveform). It is a sum of fixed sinusoids, so that every run gives the same. The
modulation of speech is strongest near 4 Hz (Houtgast and Steeneken, JASA 77, 1985).

A detector follows the envelope with its attack and its release; the static curve turns what it
reads into gain (Giannoulis, Massberg, Reiss, JAES 60, 2012: feed-forward, smoothed before the
curve). The detector does not depend on threshold and ratio.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.gear.signals import SINE_CREST_DB, SPEECH
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.once import cached_property
from tonleiter.core.signal.active import MARGIN_DB
from tonleiter.core.signal.detectors import Detector, Times

Floats = NDArray[np.float64]

RATE_HZ, LONG_S = 1000.0, 12.0
# phrases and the pauses between them; a voice is active in about two thirds of the time
PHRASE_S, PAUSE_S = 1.1, 0.5
RISE_S, FALL_S = 0.015, 0.06
SYLLABLES_DB, SYLLABLES_HZ = 5.2, (1.7, 2.9, 3.7, 4.3, 5.6, 7.9)
# ripple of voice and noise within a syllable
RIPPLE_HZ = (31.0, 47.0, 73.0, 98.0, 137.0, 171.0)
PAUSE_DB = -60.0
PEAK_SHARE = 0.998
ONSET_S = 0.05
# so far under its threshold nobody asks what a compressor does
FAR_BELOW_DB = 200.0
# a gate follows speech more closely than a compressor does; typical
GATE_TIMES_S = (1e-3, 0.05)
# where the carrier of a rectified voice stands, for what a slow attack makes of its gaps
VOICED_HZ = 233.0


@lru_cache(maxsize=1)
def _times_s() -> Floats:
    times: Floats = np.arange(int(RATE_HZ * LONG_S)) / RATE_HZ
    return times


@lru_cache(maxsize=1)
def _speech() -> tuple[Floats, Floats]:
    """Envelope with an active RMS of 1, and how far each moment is into its phrase, in seconds."""
    t = _times_s()
    into = np.mod(t, PHRASE_S + PAUSE_S)
    # phases after the golden ratio: nothing repeats within the run
    phase = 2 * np.pi * np.mod(0.618034 * np.arange(1, 13), 1.0)
    syllables = sum(
        np.cos(2 * np.pi * f * t + p) for f, p in zip(SYLLABLES_HZ, phase, strict=False)
    )
    db = SYLLABLES_DB * np.asarray(syllables) / math.sqrt(len(SYLLABLES_HZ) / 2)
    ripple = sum(
        np.exp(1j * (2 * np.pi * f * t + p)) for f, p in zip(RIPPLE_HZ, phase[6:], strict=True)
    )
    fine = np.abs(np.asarray(ripple)) / math.sqrt(len(RIPPLE_HZ))
    rise = np.clip(into / RISE_S, 0.0, 1.0) * np.clip((PHRASE_S - into) / FALL_S, 0.0, 1.0)
    shape = 10 ** (db / 20) * fine * rise + 10 ** (PAUSE_DB / 20)
    speaking = into < PHRASE_S
    shape /= math.sqrt(float(np.mean(shape[speaking] ** 2)))
    # what ripple and syllables leave over is set so that peaks stand where speech has them
    highest = float(np.quantile(shape[speaking], PEAK_SHARE))
    wanted = 10 ** ((SPEECH.crest_db - SINE_CREST_DB) / 20)
    stretch = math.log(wanted) / math.log(highest)
    for _ in range(4):
        stretched = np.where(shape > 1, shape**stretch, shape)
        stretched /= math.sqrt(float(np.mean(stretched[speaking] ** 2)))
        highest = float(np.quantile(stretched[speaking], PEAK_SHARE))
        stretch *= math.log(wanted) / math.log(highest)
    return stretched, np.where(speaking, into, -1.0)


@dataclass(frozen=True, eq=False)
class Envelope:
    """Speech after some compressors: gain at each moment, in dB; what it comes to, in dB ≤ 0.

    Levels are against the active level that the speech would have without them.
    """

    gain_db: Floats
    overshoot_db: float = 0.0
    closed_share: float = 0.0

    @cached_property
    def level_db(self) -> Floats:
        """The envelope, gain included."""
        level: Floats = 20 * np.log10(_speech()[0]) + self.gain_db
        return level

    @cached_property
    def speech_db(self) -> float:
        """Change of the active speech level."""
        power = 10 ** (self.level_db[_speech()[1] >= 0] / 10)
        return 10 * math.log10(float(power.mean()))

    @cached_property
    def peak_db(self) -> float:
        """Change of the peaks; the crest never falls under a sine's."""
        crest = self._crest_db - _PLAIN._crest_db
        return self.speech_db + max(crest, SINE_CREST_DB - SPEECH.crest_db)

    @cached_property
    def _crest_db(self) -> float:
        highest = float(np.quantile(self.level_db[_speech()[1] >= 0], PEAK_SHARE))
        return highest - self.speech_db

    @cached_property
    def pause_db(self) -> float:
        """Change of the noise between phrases."""
        power = 10 ** (self.gain_db[_speech()[1] < 0] / 10)
        return 10 * math.log10(float(power.mean()))

    def through(self, curve: Compression, level_dbu: float, noise_dbu: float) -> Envelope:
        """After a compressor; ``level_dbu`` is the active level it would get uncompressed.

        ``noise_dbu`` is the noise that stands at its detector between words.
        """
        if not math.isfinite(level_dbu) or level_dbu < curve.threshold_dbu - FAR_BELOW_DB:
            return self  # nothing comes, or nothing that a compressor would notice
        gate = None if curve.gate_dbu is None else _rounded(curve.gate_dbu - level_dbu)
        return _compressed(
            self,
            (_rounded(curve.threshold_dbu - level_dbu), curve.ratio, gate, curve.gate_depth_db),
            (curve.attack_s, curve.release_s),
            _rounded(max(noise_dbu - level_dbu, -90.0)),
        )

    def clipped(self, ceiling_db: float) -> Envelope:
        """With peaks held at a ceiling, against the active level as a sine's RMS."""
        over = np.maximum(self.level_db - ceiling_db, 0.0)
        return Envelope(self.gain_db - over, self.overshoot_db, self.closed_share)


def plain() -> Envelope:
    """Speech that nothing has compressed."""
    return _PLAIN


_PLAIN = Envelope(np.zeros(int(RATE_HZ * LONG_S)))


def _rounded(db: float) -> float:
    """To a tenth: what is dragged past is not reckoned again."""
    return round(db, 1)


@lru_cache(maxsize=128)
def _compressed(
    before: Envelope,
    curve: tuple[float, float, float | None, float],
    times: tuple[float, float],
    noise_db: float,
) -> Envelope:
    threshold, ratio, gate, depth = curve
    level = 10 * np.log10(10 ** (before.level_db / 10) + 10 ** (noise_db / 10))
    read = _detected(level, *times)
    gain = -np.maximum(read - threshold, 0.0) * (1 - 1 / ratio)
    into = _speech()[1]
    closed = 0.0
    if gate is not None:
        shut = _detected(level, *GATE_TIMES_S) < gate
        gain = gain - depth * shut
        active = (into >= 0) & (before.level_db > before.speech_db - MARGIN_DB)
        closed = float(np.mean(shut[active]))
    after = before.level_db + gain
    return Envelope(before.gain_db + gain, _overshoot(after, into), closed)


def _overshoot(level_db: Floats, into: Floats) -> float:
    """By how much the beginnings of phrases stand over what follows."""
    beginnings = level_db[(into >= 0) & (into < ONSET_S)]
    rest = level_db[into >= 2 * ONSET_S]
    return max(0.0, float(np.max(beginnings)) - float(np.quantile(rest, PEAK_SHARE)))


def _detected(level_db: Floats, attack_s: float, release_s: float) -> Floats:
    """What a detector reads, in dB: first-order, fast upwards and slow downwards."""
    if attack_s <= 0 and release_s <= 0:
        return level_db
    rectified = 10 ** (level_db / 20) * np.abs(np.cos(2 * np.pi * VOICED_HZ * _times_s()))
    reads = Detector(1 / RATE_HZ, Times(attack_s, release_s=release_s))(rectified)
    read: Floats = 20 * np.log10(np.maximum(reads, 1e-6))
    return read
