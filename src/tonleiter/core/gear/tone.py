"""Boxes that shape tone: a graphic equaliser, a mixer's strip with tone controls and fader."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import PowerLaw
from tonleiter.core.gear.active import Amplifier
from tonleiter.core.gear.base import DeviceKind
from tonleiter.core.gear.figure import Decibels, LevelDbu, typical
from tonleiter.core.gear.net import StageNet
from tonleiter.core.gear.own_level import NOISE_BAND_HZ
from tonleiter.core.units.levels import ratio_from_db, volts_from_dbu

# one octave to each band: Q = √2 (Bohn, Constant-Q Graphic Equalizers, JAES 34, 1986)
BAND_Q = math.sqrt(2)


class ToneStage(Amplifier):
    """An amplifier with filters beside its straight path, each adding (g − 1) times its share."""

    def build(self, net: StageNet) -> None:
        """The amplifier's circuit; filters read its first stage and feed its last one."""
        super().build(net)
        before = len(net.elements)
        self.build_tone(net)
        net.hide_since(before)

    def build_tone(self, net: StageNet) -> None:
        """Add the filters."""
        raise NotImplementedError

    def _resonance(self, net: StageNet, part: str, f_hz: float, gain_db: float) -> None:
        """A band: current through a parallel R, L, C is 1 at its middle and less beside it."""
        node, cold = net.name(part), net.inlet.chassis
        ohm = 1e3
        henry = ohm / (BAND_Q * 2 * math.pi * f_hz)
        net.transconductor(f"{part}_in", (node, cold), (net.name("pole"), cold), 1 / ohm)
        net.resistor(f"{part}_r", node, cold, ohm, noisy=False)
        net.inductor(f"{part}_l", node, cold, henry)
        net.capacitor(f"{part}_c", node, cold, 1 / (henry * (2 * math.pi * f_hz) ** 2))
        self._mix_in(net, part, node, gain_db)

    def _shelf(self, net: StageNet, part: str, f_hz: float, gain_db: float, low: bool) -> None:
        """A first-order shelf below or above ``f_hz``."""
        node, cold = net.name(part), net.inlet.chassis
        ohm, pole = 1e3, net.name("pole")
        farad = 1 / (2 * math.pi * f_hz * ohm)
        if low:
            net.transconductor(f"{part}_in", (node, cold), (pole, cold), 1 / ohm)
            net.capacitor(f"{part}_c", node, cold, farad)
        else:
            # a copy of the pole's volts drives the capacitor, so that the filter loads nothing
            copy = net.name(f"{part}_copy")
            net.transconductor(f"{part}_in", (copy, cold), (pole, cold), 1.0)
            net.resistor(f"{part}_one", copy, cold, 1.0, noisy=False)
            net.capacitor(f"{part}_c", copy, node, farad)
        net.resistor(f"{part}_r", node, cold, ohm, noisy=False)
        self._mix_in(net, part, node, gain_db)

    def _mix_in(self, net: StageNet, part: str, node: str, gain_db: float) -> None:
        extra = ratio_from_db(self.total_gain_db()) * (ratio_from_db(gain_db) - 1)
        self.drive(net, f"{part}_out", node, extra)


class GraphicEqualiser(ToneStage):
    """Six bands an octave apart, line level in and out."""

    device: ClassVar[DeviceKind | None] = "equaliser"
    noun: ClassVar[str] = "graphic equaliser"
    what: ClassVar[str] = "lifts and lowers bands, at line level"
    choices: ClassVar[tuple[str, ...]] = (
        "gain_db",
        "at_125_db",
        "at_250_db",
        "at_500_db",
        "at_1k_db",
        "at_2k_db",
        "at_4k_db",
    )

    kind: Literal["graphic-equaliser"] = "graphic-equaliser"
    at_125_db: Decibels = Field(typical(0.0), title="125 Hz")
    at_250_db: Decibels = Field(typical(0.0), title="250 Hz")
    at_500_db: Decibels = Field(typical(0.0), title="500 Hz")
    at_1k_db: Decibels = Field(typical(0.0), title="1 kHz")
    at_2k_db: Decibels = Field(typical(0.0), title="2 kHz")
    at_4k_db: Decibels = Field(typical(0.0), title="4 kHz")

    def build_tone(self, net: StageNet) -> None:
        """A resonance for each band."""
        bands = (
            self.at_125_db,
            self.at_250_db,
            self.at_500_db,
            self.at_1k_db,
            self.at_2k_db,
            self.at_4k_db,
        )
        for k, band in enumerate(bands):
            self._resonance(net, f"band{k}", 125.0 * 2**k, band.value)


class MixerStrip(ToneStage):
    """A mixer's microphone strip: gain, three tone controls, fader, and the hiss behind the fader.

    A fader turned nearly off is no pad: what its output stage adds does not fall with it.
    """

    device: ClassVar[DeviceKind | None] = "mixer"
    noun: ClassVar[str] = "mixer strip"
    what: ClassVar[str] = "lifts a microphone to line level"
    choices: ClassVar[tuple[str, ...]] = (
        "gain_db",
        "low_db",
        "middle_db",
        "high_db",
        "fader_db",
    )

    kind: Literal["mixer-strip"] = "mixer-strip"
    expects: Literal["microphone", "line"] = Field("microphone", title="Input is for")
    gain_db: Decibels = Field(typical(40.0), title="Gain")
    gain_low_db: Decibels = Field(typical(10.0), title="Gain from")
    gain_high_db: Decibels = Field(typical(60.0), title="Gain to")
    ein_dbu: LevelDbu = Field(typical(-126.0), title="Input noise")
    low_db: Decibels = Field(typical(0.0), title="Low, 100 Hz")
    middle_db: Decibels = Field(typical(0.0), title="Middle, 1.5 kHz")
    high_db: Decibels = Field(typical(0.0), title="High, 6 kHz")
    fader_db: Decibels = Field(typical(0.0), title="Fader")
    residual_dbu: LevelDbu = Field(typical(-88.0), title="Hiss, fader closed")

    def total_gain_db(self) -> float:
        """Gain knob and fader together."""
        return self.gain_db.value + self.fader_db.value

    def build_tone(self, net: StageNet) -> None:
        """Two shelves, a resonance, and noise behind the fader."""
        self._shelf(net, "low", 100.0, self.low_db.value, low=True)
        self._resonance(net, "middle", 1500.0, self.middle_db.value)
        self._shelf(net, "high", 6000.0, self.high_db.value, low=False)
        volts2 = volts_from_dbu(self.residual_dbu.value) ** 2 / NOISE_BAND_HZ
        node, _, z = self.legs()[0]
        law = PowerLaw(volts2 / z**2)
        net.noise_current("residual", net.name(node), net.inlet.chassis, (law,))
