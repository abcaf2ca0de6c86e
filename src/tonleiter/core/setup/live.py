"""A set while somebody speaks: meters with ballistics and the spectrum, block by block.

The same transmitter as for whole recordings; the voice goes round and round.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.am import AmTransmitter
from tonleiter.core.radio.fm import FM_HZ, FmTransmitter
from tonleiter.core.radio.receivers import Spectrum, spectrum
from tonleiter.core.radio.ssb import AUDIO_HZ, BLOCK, OUT_HZ, SsbTransmitter
from tonleiter.core.setup import am, data, fm, ssb
from tonleiter.core.setup.onair import OnAir
from tonleiter.core.sound.sound import Floats
from tonleiter.core.station.settings import PanelState

BLOCK_S = BLOCK / AUDIO_HZ
# needles rise at once and fall by so much of their scale a second; a power meter follows slowly
FALLS_PER_S, SLOW = 0.9, 0.35
SEEN_S = 0.25


@dataclass(frozen=True, eq=False)
class Frame:
    """What is seen in one moment: each meter in its own unit, and the last quarter of a second."""

    values: Mapping[str, float]
    spectrum: Spectrum


class Live:
    """A transmitter that is fed from a loop of the case's voice."""

    def __init__(self, case: OnAir, panel: PanelState) -> None:
        self.case, self._at = case, 0
        self._needles: dict[str, float] = {}
        self._volts = self._fed(panel)
        self._rate = FM_HZ if case.mode in ("fm", "packet") else OUT_HZ
        self._seen = np.zeros(round(SEEN_S * self._rate), dtype=complex)
        figures = case.figures
        self._ssb = self._fm = self._am = None
        if case.mode in ("fm", "packet"):
            self._fm = FmTransmitter(figures, fm.knobs_of(case, panel))
        elif case.mode == "am":
            self._am = AmTransmitter(figures, am.knobs_of(panel))
        else:
            self._ssb = SsbTransmitter(figures, ssb.knobs_of(panel, figures))

    def turn(self, panel: PanelState) -> None:
        """Turn knobs while it runs."""
        self._volts = self._fed(panel)
        if self._ssb is not None:
            self._ssb.turn(ssb.knobs_of(panel, self.case.figures))
        elif self._fm is not None:
            self._fm.turn(fm.knobs_of(self.case, panel))
        elif self._am is not None:
            self._am.turn(am.knobs_of(panel))

    def _fed(self, panel: PanelState) -> Floats:
        """What goes round: the voice; from a computer its tones, turned as it is."""
        if self.case.mode == "packet":
            return fm.tone_volts(self.case, panel)
        if self.case.mode == "data":
            return data.volts_of(self.case, panel)
        return self.case.volts

    def step(self) -> Frame:
        """The next block of the voice."""
        volts = self._volts
        at = np.arange(self._at, self._at + BLOCK) % volts.size
        self._at = (self._at + BLOCK) % volts.size
        audio = volts[at]
        figures = self.case.figures
        if self._ssb is not None:
            sent = self._ssb.send(audio)
            meters, z = sent.meters[0], sent.z
            now = {"alc": meters.alc_db, "compression": meters.compression_db}
            scales = {"alc": figures.alc_full_db, "compression": 12.0}
            self._slow("power", meters.mean_share * figures.power_w)
        elif self._fm is not None:
            made = self._fm.send(audio)
            z = made.z
            now = {"deviation": made.peak_hz / 1000, "limiter": made.limited_db}
            scales = {"deviation": 6.5, "limiter": 15.0}
        else:
            assert self._am is not None
            modulated = self._am.send(audio)
            z = modulated.z
            now = {"down": 100 * modulated.down, "up": 100 * modulated.up}
            scales = {"down": 130.0, "up": 130.0}
            self._slow("sidebands", 100 * modulated.sideband_share)
        for name, value in now.items():
            fallen = self._needles.get(name, 0.0) - FALLS_PER_S * BLOCK_S * scales[name]
            self._needles[name] = max(value, fallen, 0.0)
        self._seen = np.concatenate([self._seen[z.size :], z])
        return Frame(dict(self._needles), spectrum(self._seen, self._rate, 1024))

    def _slow(self, name: str, value: float) -> None:
        was = self._needles.get(name, 0.0)
        self._needles[name] = was + SLOW * (value - was)
