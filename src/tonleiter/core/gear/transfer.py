"""Level-dependent gain: compression above a threshold, a gate below one.

Static curves (Zölzer, DAFX, 2nd ed., ch. 4): above the threshold the output rises by 1/ratio of the
input; below the gate's threshold the gain falls by the gate's depth. Active speech, peaks and
pauses each have a gain of their own, by attack and release.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

# how fast a peak of speech grows, and half of a usual pause between words
ONSET_S, PAUSE_S = 8e-3, 0.3


@dataclass(frozen=True)
class Compression:
    """A compressor with a gate; levels in dBu at the stage's outlet before its gain is reduced."""

    threshold_dbu: float
    ratio: float
    gate_dbu: float | None = None
    gate_depth_db: float = 20.0
    attack_s: float = 0.0
    release_s: float = 0.1

    def reduction_db(self, level_dbu: float) -> float:
        """Gain reduction of a steady level, 0 or more."""
        return max(0.0, level_dbu - self.threshold_dbu) * (1.0 - 1.0 / self.ratio)

    def held_at_onset_db(self, level_dbu: float) -> float:
        """What the first syllable's peak loses: the attack has hold of it only in part.

        A peak of speech grows within about ONSET_S; a first-order detector has by then reached
        ``1 − exp(−ONSET_S / attack)`` of its reduction.
        """
        if self.attack_s <= 0:
            return self.reduction_db(level_dbu)
        return self.reduction_db(level_dbu) * (1 - math.exp(-ONSET_S / self.attack_s))

    def held_in_pause_db(self, speech_dbu: float) -> float:
        """Reduction that still stands in a pause: a slow release keeps the room down."""
        return self.reduction_db(speech_dbu) * math.exp(-PAUSE_S / self.release_s)

    def gated_db(self, level_dbu: float) -> float:
        """What the gate takes off a pause whose noise lies at ``level_dbu``."""
        return (
            self.gate_depth_db if self.gate_dbu is not None and level_dbu < self.gate_dbu else 0.0
        )
