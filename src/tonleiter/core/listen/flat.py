"""Flat tops: samples that were cut, at full scale or below it, told from merely loud ones.

A cut wave goes into its flat steeply and leaves it steeply; the top of a low tone is round: its
slope fades before and after.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.signal.runs import runs_of

# a flat: so many samples within a share of the block's peak of each other, near that peak
LEAST, WITHIN, NEAR = 3, 2e-3, 0.7
# the step into it or out of it is so many times a round top's
STEEP = 12.0
# what 16 bits tell apart: a soft round top stands still for samples by its rounding alone
ROUNDED = 2.0**-16


class FlatTops:
    """Counts as samples go by. ``flats`` are (sample, length) of the first ones found."""

    MOST_KEPT = 2_000

    def __init__(self) -> None:
        self.samples = 0
        self.count = 0
        self.longest = 0
        self.level = 0.0
        self.seen = 0
        self.flats: list[tuple[int, int]] = []

    def take(self, part: NDArray[np.float32]) -> None:
        """Some more samples; flats that lie across two parts are left out."""
        at, self.seen = self.seen, self.seen + part.size
        size = np.abs(part)
        peak = float(size.max(initial=0.0))
        if peak < 1e-3 or part.size < 8:
            return
        same = (np.abs(np.diff(part)) < WITHIN * peak) & (size[1:] > NEAR * peak)
        begins, ends = runs_of(same)
        # a run of k equal steps is of k + 1 samples
        long = ends - begins >= LEAST - 1
        for begin, end in zip(begins[long].tolist(), ends[long].tolist(), strict=True):
            before = abs(float(part[begin] - part[begin - 1])) if begin > 0 else 0.0
            after = abs(float(part[end + 1] - part[end])) if end + 1 < part.size else 0.0
            # within a round top of this length the slope comes to this much
            inside = max(float(np.abs(np.diff(part[begin : end + 1])).max()), 1e-5 * peak, ROUNDED)
            if min(before, after) < STEEP * inside and max(before, after) < 2 * STEEP * inside:
                continue
            length = end - begin + 1
            self.samples += length
            self.count += 1
            self.longest = max(self.longest, length)
            self.level = max(self.level, float(size[begin]))
            if len(self.flats) < self.MOST_KEPT:
                self.flats.append((at + begin, length))
