"""Level-dependent gain: compression above a threshold, a gate below one.

Static curves (Zölzer, DAFX, 2nd ed., ch. 4): above the threshold the output rises by 1/ratio of the
input; below the gate's threshold the gain falls by the gate's depth. What that does to speech, by
attack and release, is for ``solve.dynamics``.
"""

from __future__ import annotations

from dataclasses import dataclass


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

    def gated_db(self, level_dbu: float) -> float:
        """What the gate takes off a pause whose noise lies at ``level_dbu``."""
        return (
            self.gate_depth_db if self.gate_dbu is not None and level_dbu < self.gate_dbu else 0.0
        )
