"""A recording: its samples, its rate, and what was done to take it in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Sound:
    """Samples of shape (n,) at a rate. What unit they have is up to who made them.

    ``remarks`` say what was taken of a file that did not fit as it was.
    """

    samples: Floats
    rate_hz: int
    remarks: tuple[str, ...] = ()

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return self.samples.size / self.rate_hz

    def times(self, gain: float) -> Sound:
        """The same, larger or smaller by a factor."""
        return Sound(self.samples * gain, self.rate_hz, self.remarks)

    def at_rate(self, rate_hz: int) -> Sound:
        """The same at another rate, without what that rate cannot hold."""
        if rate_hz == self.rate_hz:
            return self
        import soxr  # imported when wanted: few need it

        made = np.asarray(soxr.resample(self.samples, self.rate_hz, rate_hz), dtype=float)
        return Sound(made, rate_hz, self.remarks)
