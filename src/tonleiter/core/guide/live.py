"""A set while somebody speaks: needles with their ballistics and the spectrum, block by block.

The same transmitter as for whole recordings; the voice goes round and round. What a needle shows
and how it moves comes from its scale.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tonleiter.core.guide.scene import LiveSet
from tonleiter.core.radio.ssb import AUDIO_HZ, BLOCK
from tonleiter.core.signal.spectrum import Spectrum, spectrum
from tonleiter.core.station.settings import MeterId, PanelState

BLOCK_S = BLOCK / AUDIO_HZ
# needles rise at once and fall by so much of their scale a second; a mean is followed slowly
FALLS_PER_S, SLOW = 0.9, 0.35
SEEN_S = 0.25


@dataclass(frozen=True, eq=False)
class Frame:
    """What is seen in one moment: each meter in its own unit, and the last quarter of a second."""

    values: Mapping[MeterId, float]
    spectrum: Spectrum


class Live:
    """A transmitter that is fed from a loop of its voice or tone."""

    def __init__(self, made: LiveSet, panel: PanelState) -> None:
        self._set, self._at = made, 0
        self._needles: dict[MeterId, float] = {}
        self._volts = made.volts(panel)
        self._seen = np.zeros(round(SEEN_S * made.rate_hz), dtype=complex)

    def turn(self, panel: PanelState) -> None:
        """Turn knobs while it runs."""
        self._volts = self._set.volts(panel)
        self._set.turn(panel)

    def step(self) -> Frame:
        """The next block."""
        volts = self._volts
        at = np.arange(self._at, self._at + BLOCK) % volts.size
        self._at = (self._at + BLOCK) % volts.size
        now, z = self._set.send(volts[at])
        for name, value in now.items():
            scale, was = self._set.scales[name], self._needles.get(name, 0.0)
            if scale.moves == "mean":
                self._needles[name] = was + SLOW * (value - was)
            else:
                fallen = was - FALLS_PER_S * BLOCK_S * scale.full
                self._needles[name] = max(value, fallen, 0.0)
        self._seen = np.concatenate([self._seen[z.size :], z])
        return Frame(dict(self._needles), spectrum(self._seen, self._set.rate_hz, 1024))
