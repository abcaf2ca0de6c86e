"""An amplitude-modulation transmitter: carrier, modulation, what happens past 100 per cent.

The audio of one unit modulates the carrier fully. Negative peaks reach −100 % first: there the
carrier is gone and nothing is left to take away, which splatters; positive ones go on up to what
the modulator has.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.knobs import SetFigures, behind_gain
from tonleiter.core.radio.ssb import AUDIO_HZ, BLOCK, OUT_HZ, UP, WHOLE, blocks, padded
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.filters import Fir, low_taps
from tonleiter.core.sound.sound import Sound

TAPS = 513
# how far up a modulator of usual size goes: 125 %
MOST_UP = 1.25


@dataclass(frozen=True)
class AmKnobs:
    """``gain`` from 0 to 1; ``high_hz`` is where the audio ends, ``carrier`` a share of power."""

    gain: float = 0.5
    high_hz: float = 4000.0
    carrier: float = 1.0


@dataclass(frozen=True, eq=False)
class AmSent:
    """Complex baseband at OUT_HZ, carrier of magnitude 1; the modulation before it was cut."""

    z: Complexes
    modulation: Floats

    @property
    def up(self) -> float:
        """Highest positive modulation, 1 for 100 %."""
        return float(self.modulation.max(initial=0.0))

    @property
    def down(self) -> float:
        """Highest negative modulation, 1 for −100 %."""
        return float(-self.modulation.min(initial=0.0))

    @property
    def sideband_share(self) -> float:
        """Power in both sidebands over the carrier's: half the square of a tone's depth."""
        power = float(np.mean(np.abs(self.z) ** 2))
        carrier = float(np.abs(np.mean(self.z)) ** 2)
        return power / carrier - 1 if carrier > 0 else 0.0


class AmTransmitter:
    """Turns audio into a signal block by block."""

    def __init__(self, figures: SetFigures, knobs: AmKnobs, block: int = BLOCK) -> None:
        self.figures, self.knobs = figures, knobs
        self._up = Fir(low_taps(knobs.high_hz, OUT_HZ, TAPS), block, UP)

    def turn(self, knobs: AmKnobs) -> None:
        """Turn controls."""
        was, self.knobs = self.knobs, knobs
        if was.high_hz != knobs.high_hz:
            self._up.turned(low_taps(knobs.high_hz, OUT_HZ, TAPS))

    def send(self, volts: Floats) -> AmSent:
        """A block of audio in volts."""
        audio = behind_gain(self.figures, volts, self.knobs.gain)
        wanted = self._up(audio).real
        z = np.clip(1.0 + wanted, 0.0, 1.0 + MOST_UP) * np.sqrt(self.knobs.carrier)
        return AmSent(z.astype(complex), wanted)


def amplitude_modulated(figures: SetFigures, knobs: AmKnobs, sound: Sound) -> AmSent:
    """A whole recording in volts through a transmitter."""
    transmitter = AmTransmitter(figures, knobs, WHOLE)
    audio = padded(sound.at_rate(AUDIO_HZ).samples)
    every = [transmitter.send(b) for b in blocks(audio, WHOLE)]
    return AmSent(
        np.concatenate([m.z for m in every]), np.concatenate([m.modulation for m in every])
    )
