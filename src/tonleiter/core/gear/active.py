"""Boxes that amplify: a mixer strip, an equaliser, a preamp; compressors; microphone amplifiers."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from typing import Any, ClassVar, Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.circuit.devices import BOLTZMANN
from tonleiter.core.circuit.elements import PowerLaw
from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.base import DeviceKind, Gear, Role, Shelf, Surroundings, Window
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import (
    Decibels,
    Farads,
    Hertz,
    LevelDbu,
    Ohms,
    Ratio,
    Seconds,
    Volts,
    typical,
)
from tonleiter.core.gear.grip import Grip
from tonleiter.core.gear.net import Port, Ripple, StageNet, Supply
from tonleiter.core.gear.phantom import phantom_pair
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.units.levels import ratio_from_db, volts_from_dbu
from tonleiter.core.units.preferred import nearest

# a soft ceiling halves what rises into its last decibels
SOFT_FROM_DB, SOFT_RATIO = 6.0, 2.0
EIN_SOURCE_OHM = 150.0
EIN_BAND_HZ = 20_000.0


def input_noise_density(ein_dbu: float, temperature_k: float = 300.15) -> float:
    """V²/Hz of an input whose equivalent noise is ``ein_dbu`` in 20 kHz from 150 ohm.

    The 150 ohm source's own thermal noise is taken off, since the circuit supplies its real source.
    """
    total = volts_from_dbu(ein_dbu) ** 2 / EIN_BAND_HZ
    return max(total - 4 * BOLTZMANN * temperature_k * EIN_SOURCE_OHM, total * 1e-3)


class Amplifier(Gear):
    """Anything that amplifies, described from outside: impedances, gain, ceiling, noise, band."""

    bought_whole: ClassVar[bool] = True
    device: ClassVar[DeviceKind | None] = "amplifier"
    role: ClassVar[Role] = "between"
    shelf: ClassVar[Shelf | None] = "Boxes"
    noun: ClassVar[str] = "amplifier"
    is_box: ClassVar[bool] = True
    drives: ClassVar[bool] = True
    by_hand: ClassVar[bool] = True
    gain_is_chosen: ClassVar[bool] = True
    what: ClassVar[str] = "lifts level, within its window"
    choices: ClassVar[tuple[str, ...]] = ("gain_db",)
    handle: ClassVar[str | None] = "gain_db"
    grip: ClassVar[Grip | None] = grips.Decibels()

    expects: Literal["microphone", "line"] = Field("line", title="Input is for")
    gain_db: Decibels = Field(typical(0.0), title="Gain")
    gain_low_db: Decibels = Field(typical(-10.0), title="Gain from")
    gain_high_db: Decibels = Field(typical(10.0), title="Gain to")
    z_in_ohm: Ohms = Field(typical(10e3), title="Input impedance")
    z_out_ohm: Ohms = Field(typical(150.0), title="Output impedance")
    ein_dbu: LevelDbu = Field(typical(-100.0), title="Input noise")
    clip_dbu: LevelDbu = Field(typical(20.0), title="Output clips at")
    works_from_dbu: LevelDbu = Field(typical(-14.0), title="Works best from")
    works_to_dbu: LevelDbu = Field(typical(6.0), title="Works best to")
    low_corner_hz: Hertz = Field(typical(15.0), title="Band from")
    high_corner_hz: Hertz = Field(typical(40e3), title="Band to")
    output_f: Farads = Field(typical(47e-6), title="Output capacitor")
    clips: Literal["hard", "soft"] = Field("hard", title="Clips")
    input: Literal["unbalanced", "balanced"] = Field("unbalanced", title="Input")
    phantom: Literal["off", "on"] = Field("off", title="Phantom 48 V")
    cmrr_db: Decibels = Field(typical(60.0), title="Rejects on both legs")
    output: Literal["unbalanced", "impedance-balanced", "balanced"] = Field(
        "unbalanced", title="Output"
    )
    supply: Supply = Field("double-insulated", title="Supply")
    earth_emf_v: Volts = Field(typical(1e-3), title="Earth EMF, if earthed")
    ripple_dbu: LevelDbu = Field(typical(-100.0), title="Hum of its own")

    # how well two output legs of one box match; common-mode against differential input impedance
    LEG_MISMATCH: ClassVar[float] = 0.01
    COMMON_OVER_Z_IN: ClassVar[float] = 10.0

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        low, high = self.gain_low_db.value, self.gain_high_db.value
        if not low <= self.gain_db.value <= high:
            raise PydanticCustomError(
                "figure",
                "the gain of {gain} dB is outside what this box can do; {low} to {high} dB is",
                {"gain": f"{self.gain_db.value:g}", "low": f"{low:g}", "high": f"{high:g}"},
            )
        for below, above in (
            ("works_from_dbu", "works_to_dbu"),
            ("low_corner_hz", "high_corner_hz"),
        ):
            if getattr(self, below).value >= getattr(self, above).value:
                raise PydanticCustomError("figure", f"{below} must be below {above}")
        return self

    def takes_balanced(self) -> bool:
        """As its input is built."""
        return self.input == "balanced"

    def input_for(self) -> Literal["microphone", "line"]:
        """As its maker says."""
        return self.expects

    def phantom_switch(self) -> Literal["on", "off"] | None:
        """Only a balanced input has one."""
        return self.phantom if self.input == "balanced" else None

    def drives_both_legs(self) -> bool:
        """Half on each."""
        return self.output == "balanced"

    def control_at(self) -> float | None:
        """Its gain, between where it goes."""
        low, high = self.gain_low_db.value, self.gain_high_db.value
        return (self.gain_db.value - low) / (high - low) if high > low else None

    def outlet(self, inlet: Port) -> Port:
        """A balanced output has a cold leg of its own; the screen is its chassis."""
        port = super().outlet(inlet)
        if self.output == "unbalanced":
            return port
        return Port(port.hot, f"{self.id}:cold", screen=port.cold)

    def idle_fields(self) -> tuple[str, ...]:
        """What only a balanced input has, and only the mains brings."""
        idle = () if self.input == "balanced" else ("phantom", "cmrr_db")
        return idle if self.supply != "battery" else (*idle, "ripple_dbu")

    def legs(self) -> tuple[tuple[str, float, float], ...]:
        """Output legs: node, share of the EMF, impedance in ohm."""
        z = self.z_out_ohm.value
        if self.output == "unbalanced":
            return (("drive", 1.0, z),)
        shares = (0.5, -0.5) if self.output == "balanced" else (1.0, 0.0)
        return (
            ("drive", shares[0], z / 2),
            ("drive_cold", shares[1], z / 2 * (1 + self.LEG_MISMATCH)),
        )

    def drive(self, net: StageNet, part: str, control: str, gain: float) -> None:
        """Drive ``gain`` times the volts of node ``control`` into the output legs."""
        chassis = net.inlet.chassis
        for node, share, z in self.legs():
            if share:
                name = part if share > 0 else f"{part}_cold"
                through = share * gain / z
                net.transconductor(name, (net.name(node), chassis), (control, chassis), through)

    def build(self, net: StageNet) -> None:
        """Input coupling into z_in, noise, gain, one pole, output behind z_out and a capacitor."""
        cold, pole = net.inlet.chassis, net.name("pole")
        # one pole of 1 kohm; equivalent input noise enters there, scaled through the input's gain
        siemens, pole_ohm = 1e-3, 1e3
        if self.input == "balanced":
            self._balanced_input(net, pole, siemens)
        else:
            grid, z_in = net.name("in"), self.z_in_ohm.value
            net.capacitor("c_in", net.inlet.hot, grid, self._coupling_f(z_in))
            net.resistor("z_in", grid, cold, z_in, noisy=False)
            net.transconductor("input", (pole, cold), (grid, cold), siemens)
        net.resistor("pole_r", pole, cold, pole_ohm, noisy=False, stray=True)
        net.capacitor(
            "pole_c",
            pole,
            cold,
            1 / (2 * math.pi * self.high_corner_hz.value * pole_ohm),
            stray=True,
        )
        noise = input_noise_density(self.ein_dbu.value) * siemens**2
        net.noise_current("noise", pole, cold, (PowerLaw(noise),))
        self.drive(net, "gain", pole, ratio_from_db(self.total_gain_db()))
        for (node, _, z), end, tail in zip(
            self.legs(), (net.outlet.hot, net.outlet.cold), ("", "_cold"), strict=False
        ):
            net.resistor(f"z_out{tail}", net.name(node), cold, z)
            net.capacitor(f"c_out{tail}", net.name(node), end, self.output_f.value)
            net.resistor(f"bleed{tail}", end, cold, 47e3, noisy=False, stray=True)
        if self.supply != "battery":
            node, _, z = self.legs()[0]
            ripple_v = volts_from_dbu(self.ripple_dbu.value)
            net.mark(Ripple(net.name(node), cold, z, ripple_v))
        earth_path(net, cold, self.supply, self.earth_emf_v.value)

    def _coupling_f(self, ohm: float) -> float:
        return 1 / (2 * math.pi * self.low_corner_hz.value * ohm)

    def _balanced_input(self, net: StageNet, pole: str, siemens: float) -> None:
        """Two legs read against each other; a little of what both carry leaks through."""
        chassis, z_in = net.inlet.chassis, self.z_in_ohm.value
        plus, minus = net.name("in"), net.name("in_cold")
        leak = 10 ** (-abs(self.cmrr_db.value) / 20) / 2 * siemens
        common_ohm = self.COMMON_OVER_Z_IN * z_in
        # across the legs, with both common-mode resistors in series beside it, lies z_in
        across = z_in / (1 - 1 / (2 * self.COMMON_OVER_Z_IN))
        net.resistor("z_in", plus, minus, across, noisy=False)
        for end, leg, tail in ((net.inlet.hot, plus, ""), (net.inlet.cold, minus, "_cold")):
            net.capacitor(f"c_in{tail}", end, leg, 2 * self._coupling_f(z_in))
            net.resistor(f"z_common{tail}", leg, chassis, common_ohm, noisy=False)
            net.transconductor(f"common{tail}", (pole, chassis), (leg, chassis), leak)
        net.transconductor("input", (pole, chassis), (plus, minus), siemens)
        if self.phantom == "on":
            phantom_pair(net, net.inlet)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Clipping of the output stage behind its output impedance."""
        loaded = around.z_load_ohm / (around.z_load_ohm + self.z_out_ohm.value)
        return self.clip_dbu.value + 20 * math.log10(loaded)

    def _within(self, wanted: float, now: float) -> float:
        """Its gain stays where its control goes."""
        held = super()._within(wanted, now)
        return min(max(held, self.gain_low_db.value), self.gain_high_db.value)

    def total_gain_db(self) -> float:
        """Gain from input to output, unloaded."""
        return self.gain_db.value

    def compression(self) -> Compression | None:
        """A soft ceiling rounds the last decibels of a peak; a hard one does nothing below it."""
        if self.clips == "hard":
            return None
        return Compression(self.clip_dbu.value - SOFT_FROM_DB, SOFT_RATIO, release_s=0.0)

    def window(self) -> Window | None:
        """Levels at the output where noise and distortion are both far."""
        return Window(self.works_from_dbu.value, self.works_to_dbu.value)


class AmplifierStage(Amplifier):
    """An amplifier of fixed gain: mixer strip, equaliser, preamp."""

    kind: Literal["amplifier"] = "amplifier"


class Compressor(Amplifier):
    """What compresses; ``gain_db`` is its gain below the threshold, a ratio of 1 is off."""

    noun: ClassVar[str] = "compressor"
    what: ClassVar[str] = "lifts the quiet, holds the loud"
    choices: ClassVar[tuple[str, ...]] = ("gain_db", "threshold_dbu", "ratio", "gate_dbu", "gate")

    threshold_dbu: LevelDbu = Field(typical(-20.0), title="Compresses above")
    ratio: Ratio = Field(typical(4.0), title="Ratio, to 1")
    attack_s: Seconds = Field(typical(3e-3), title="Attack")
    release_s: Seconds = Field(typical(0.25), title="Release")
    gate: Literal["off", "on"] = Field("off", title="Noise gate")
    gate_dbu: LevelDbu = Field(typical(-55.0), title="Gate closes below")

    @model_validator(mode="after")
    def _does_not_expand(self) -> Self:
        if self.ratio.value < 1:
            raise PydanticCustomError("figure", "the ratio must be 1 (off) or more")
        return self

    def compression(self) -> Compression | None:
        """Its static curve, with how fast it takes hold and lets go."""
        gate = self.gate_dbu.value if self.gate == "on" else None
        if self.ratio_to_1() == 1 and gate is None:
            return super().compression()
        return Compression(
            self.threshold_dbu.value,
            self.ratio_to_1(),
            gate,
            attack_s=self.attack_s.value,
            release_s=self.release_s.value,
        )

    def uncompressed(self) -> Iterator[tuple[str, Any]]:
        """A ratio of 1."""
        yield "ratio", 1.0

    def ratio_to_1(self) -> float:
        """Input decibels for one of output, above the threshold."""
        return self.ratio.value

    def gated_below(self, level_dbu: float) -> tuple[str, float]:
        """The field that lets its gate close below a level at its output, and its value there."""
        return "gate_dbu", level_dbu


class CompressorStage(Compressor):
    """An outboard compressor, or an amplifier that has one inside."""

    kind: Literal["compressor"] = "compressor"


class MicrophoneAmplifier(Compressor):
    """An integrated microphone amplifier: one resistor sets its ratio, another its gate.

    ``ratio = 1 + R / ohm_per_ratio``; the gate closes 20 dB lower for ten times its resistor.
    """

    noun: ClassVar[str] = "integrated microphone amplifier"
    what: ClassVar[str] = "ratio and gate by a resistor each"
    choices: ClassVar[tuple[str, ...]] = (
        "gain_db",
        "ratio_ohm",
        "gate",
        "gate_ohm",
        "trim_db",
        "threshold_dbu",
    )

    kind: Literal["microphone-amplifier"] = "microphone-amplifier"
    expects: Literal["microphone", "line"] = Field("microphone", title="Input is for")
    ratio_ohm: Ohms = Field(typical(39e3), title="Ratio resistor")
    ohm_per_ratio: Ohms = Field(typical(20e3), title="Ohms for 1 more")
    gate_ohm: Ohms = Field(typical(2.2e3), title="Gate resistor")
    gate_at_1k_dbu: LevelDbu = Field(typical(-50.0), title="Gate with 1 kΩ")
    trim_db: Decibels = Field(typical(0.0), title="Output trimmer")

    def uncompressed(self) -> Iterator[tuple[str, Any]]:
        """As small a resistor as there is."""
        yield "ratio_ohm", 10.0

    def ratio_to_1(self) -> float:
        """By its resistor."""
        return 1.0 + self.ratio_ohm.value / self.ohm_per_ratio.value

    def total_gain_db(self) -> float:
        """Gain and output trimmer together."""
        return self.gain_db.value + self.trim_db.value

    def gated_below(self, level_dbu: float) -> tuple[str, float]:
        """Its resistor, of those that are sold."""
        lower_db = self.gate_at_1k_dbu.value + self.total_gain_db() - level_dbu
        return "gate_ohm", nearest(min(max(1e3 * ratio_from_db(lower_db), 100.0), 1e6), "E12")

    def idle_fields(self) -> tuple[str, ...]:
        """Its resistors stand for ratio and gate threshold."""
        return (*super().idle_fields(), "ratio", "gate_dbu")

    def compression(self) -> Compression | None:
        """The curve of its resistors; threshold and gate move with the trimmer."""
        curve = super().compression()
        if curve is None:
            return None
        gate = self.gate_at_1k_dbu.value - 20 * math.log10(self.gate_ohm.value / 1e3)
        return replace(
            curve,
            threshold_dbu=curve.threshold_dbu + self.trim_db.value,
            gate_dbu=gate + self.total_gain_db() if self.gate == "on" else None,
        )
