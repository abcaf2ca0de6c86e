"""Two sounds made ready to be heard one after the other, or in turn at the same place."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Floats, Sound

# peaks, one sample in two thousand left out, reach so far; no sample is larger than one
PEAKS, SHARE = 0.7, 0.9995
# a dead microphone's noise stays what it is: no receiver brings it up to a voice
LEAST_HEARD = 0.05
GAP_S = 0.5


@dataclass(frozen=True, eq=False)
class Pair:
    """``before`` and ``now`` at one volume; what was louder by ``before_louder_db`` may be aligned.

    The level is the active speech level (ITU-T P.56) of what a receiver got.
    """

    before: Sound
    now: Sound
    before_louder_db: float

    def in_turn(self) -> Sound:
        """First the one, then the other, with a pause between them."""
        gap = np.zeros(round(GAP_S * self.now.rate_hz))
        before = self.before.at_rate(self.now.rate_hz).samples
        return Sound(np.concatenate([before, gap, self.now.samples]), self.now.rate_hz)


def audible(sound: Sound) -> Sound:
    """The same with its peaks near one, whatever its level was."""
    return sound.times(_volume(sound.samples))


def beside(before: Sound, now: Sound, aligned: bool) -> Pair:
    """Both at one volume: aligned to the same active level, or as far apart as they arrived."""
    was, level = active_level(before), active_level(now)
    louder = was.level_db - level.level_db
    if aligned and was.rms > 0 and level.rms > 0:
        before = before.times(level.rms / was.rms)
    volume = min(_volume(before.samples), _volume(now.samples))
    return Pair(before.times(volume), now.times(volume), louder)


def _volume(samples: Floats) -> float:
    size = np.abs(samples)
    peak = float(np.quantile(size, SHARE)) if size.size else 0.0
    highest = float(size.max(initial=0.0))
    return min(PEAKS / max(peak, LEAST_HEARD), 1 / max(highest, 1e-6))
