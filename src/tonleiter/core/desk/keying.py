"""What keys the transmitter for what the computer sends: when it opens, how long it hangs on.

A voice switch looks at the envelope: a detector with an attack and a fall, a threshold, a hang time
that begins when the detector falls below it. Levels are RMS against that of a full-scale sine; the
threshold is the level of a steady tone that just opens it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.signal.arrays import Floats
from tonleiter.core.signal.detectors import Detector, Times, stepped

# the envelope is looked at this often; the detector falls with a time constant of so much: what
# holds it open is the hang time
STEP_S, FALLS_S = 0.002, 0.001
# a rise is over after so many time constants
RISEN = 5.0
# silence after what is sent, so that the longest hang is seen to end
AFTER_S = 0.5


@dataclass(frozen=True)
class Switch:
    """A voice switch: threshold in dB against full scale, attack and hang in seconds."""

    threshold_db: float
    attack_s: float
    hang_s: float


@dataclass(frozen=True)
class Keyed:
    """What a transmission comes to. Times count from where sound begins, or ends.

    ``spare_db``: by so much what is sent may fall until it does not key all through; None where
    nothing listens to it. ``opens_after_s`` is None where it never keys. ``gaps`` are the times
    that it lets go within what is sent.
    """

    spare_db: float | None
    opens_after_s: float | None
    tail_s: float
    gaps: int = 0

    @property
    def keys(self) -> bool:
        """Whether the transmitter comes on at all."""
        return self.opens_after_s is not None

    def lost_s(self, answers_after_s: float) -> float:
        """How much of a reply that begins so long after the end nobody hears."""
        return max(self.tail_s - answers_after_s, 0.0) if self.keys else 0.0


BY_LINE = Keyed(None, 0.0, 0.0)
"""A line of the computer keys it: with the sound, whatever its level."""


def envelope(samples: Floats, rate_hz: int, attack_s: float) -> Floats:
    """What a switch's detector reads in each step of STEP_S, as RMS of a sine; shape (steps,)."""
    step = max(round(STEP_S * rate_hz), 1)
    peaks = stepped(samples, step) / math.sqrt(2)
    return Detector(step / rate_hz, Times(attack_s, release_s=FALLS_S))(peaks)


def opened(reads: Floats, threshold: float, hang_steps: int) -> NDArray[np.bool_]:
    """Whether it is open in each step, for what its detector reads; shape (steps,)."""
    above = reads >= threshold
    at = np.where(above, np.arange(reads.size), -hang_steps - 1)
    since = np.arange(reads.size) - np.maximum.accumulate(at)
    return np.asarray(since <= hang_steps)


def keyed_by_voice(samples: Floats, rate_hz: int, switch: Switch) -> Keyed:
    """A voice switch on what is sent, RMS 1 being a full-scale sine's; shape (n,)."""
    step = max(round(STEP_S * rate_hz), 1)
    hang = round(switch.hang_s * rate_hz / step)
    after = round((switch.hang_s + AFTER_S) * rate_hz)
    reads = envelope(np.concatenate([samples, np.zeros(after)]), rate_hz, switch.attack_s)
    threshold = 10 ** (switch.threshold_db / 20)
    ends = math.ceil(samples.size / step)
    risen = min(math.ceil(RISEN * switch.attack_s * rate_hz / step), max(ends - 1, 0))
    spare = 20 * math.log10(max(_least_held(reads[risen:ends], hang), 1e-12) / threshold)
    is_open = opened(reads, threshold, hang)
    if not is_open[:ends].any():
        return Keyed(spare, None, 0.0)
    first, last = int(np.argmax(is_open)), int(np.flatnonzero(is_open)[-1])
    seconds = step / rate_hz
    gaps = int(np.count_nonzero(np.diff(is_open[first:ends].astype(int)) == -1))
    tail = max((last + 1) * seconds - samples.size / rate_hz, 0.0)
    return Keyed(spare, first * seconds, tail, gaps)


def _least_held(reads: Floats, hang_steps: int) -> float:
    """The highest threshold that keeps it open once it is: the least of what is held.

    What is held in a step is the most within the hang time before it. The first rise is left out:
    it is late whatever the level is.
    """
    if reads.size == 0:
        return 0.0
    width = hang_steps + 1
    padded = np.concatenate([np.full(width - 1, reads.max()), reads])
    held = np.lib.stride_tricks.sliding_window_view(padded, width).max(axis=1)
    return float(held.min())
