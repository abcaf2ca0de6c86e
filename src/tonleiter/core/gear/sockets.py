"""What a radio offers a microphone: its input, with or without bias volts on the pin."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any, ClassVar, Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.circuit.elements import PowerLaw, VoltageSource
from tonleiter.core.gear.active import input_noise_density
from tonleiter.core.gear.base import DeviceKind, Gear, Knob, Role, Surroundings, Window
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import Decibels, LevelDbu, Ohms, Ratio, Volts, typical
from tonleiter.core.gear.net import BiasRail, StageNet, Supply
from tonleiter.core.gear.signals import SIGNALS, SINE_CREST_DB, SPEECH, Signal, SignalId
from tonleiter.core.gear.transfer import Compression

# people work between these ends of a gain control: 15 and 85 of 100
KNOB_WORKS = 0.7
LEAST_WINDOW_DB = 3.0


class Socket(Gear):
    """An input, seen from its pins.

    ``z_in_ohm`` is what a meter at the pin finds, with the bias resistor in place.
    """

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "X"
    device: ClassVar[DeviceKind | None] = "radio"
    role: ClassVar[Role] = "input"
    stated_for: ClassVar[SignalId] = "speech"
    """The signal that its window is given for."""
    z_in_ohm: Ohms = Field(typical(600.0), title="Input impedance")
    bias_v: Volts = Field(typical(0.0), title="Bias on the pin")
    bias_ohm: Ohms = Field(typical(2200.0), title="Bias through")
    clip_dbu: LevelDbu = Field(typical(-30.0), title="Overloads at")
    ein_dbu: LevelDbu = Field(typical(-118.0), title="Input noise")
    supply: Supply = Field("safety-earth", title="Supply")

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if self.bias_v.value > 0 and self.bias_ohm.value <= self.z_in_ohm.value:
            raise PydanticCustomError(
                "figure",
                "z_in_ohm includes the bias resistor, as measured, so it must be below bias_ohm",
            )
        return self

    def build(self, net: StageNet) -> None:
        """Bias through its resistor onto the pin; behind a capacitor the first stage of the radio.

        The outlet is the radio's own input node, after its noise: what the modulator will hear.
        """
        pin, cold = net.inlet.hot, net.inlet.cold
        grid = net.name("grid")
        z_rest = self.z_in_ohm.value
        if self.bias_v.value > 0:
            rail = net.name("rail")
            net.add(VoltageSource(net.name("bias"), rail, cold, dc=self.bias_v.value))
            resistor = net.resistor("bias_r", rail, pin, self.bias_ohm.value)
            net.mark(BiasRail(net.name("bias"), resistor, self.bias_v.value))
            z_rest = 1 / (1 / self.z_in_ohm.value - 1 / self.bias_ohm.value)
        # the radio's own coupling, far below speech
        net.capacitor("c_in", pin, grid, 1 / (2 * math.pi * 5.0 * z_rest))
        net.resistor("z_in", grid, cold, z_rest, noisy=False)
        # a buffer of unity gain carries the equivalent input noise
        siemens = 1e-3
        net.transconductor("buffer", (net.outlet.hot, cold), (grid, cold), siemens)
        net.resistor("buffer_r", net.outlet.hot, cold, 1 / siemens, noisy=False, stray=True)
        noise = input_noise_density(self.ein_dbu.value) * siemens**2
        net.noise_current("noise", net.outlet.hot, cold, (PowerLaw(noise),))
        earth_path(net, cold, self.supply)

    def bias_on_pin_v(self) -> float:
        """Without a load."""
        return self.bias_v.value

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """First stage of the radio overloads."""
        return self.clip_dbu.value

    def window_for(self, signal: Signal) -> Window | None:
        """What drives a modulator alike has the same peaks: the window moves as a whole."""
        window = self.window()
        if window is None:
            return None
        shift = SIGNALS[self.stated_for].crest_db - signal.crest_db
        return Window(window.low_dbu + shift, window.high_dbu + shift, window.middle_dbu + shift)

    def idle_fields(self) -> tuple[str, ...]:
        """No bias, no resistor for it."""
        return () if self.bias_v.value > 0 else ("bias_ohm",)


class MicrophoneSocket(Socket):
    """A radio's microphone input, with a gain control and a speech processor behind it.

    ``wants_dbu`` is the speech that works its meter fully with the control in the middle. Its law
    is even in decibels over the range, marked from 0 to ``marked_to``.
    """

    noun: ClassVar[str] = "microphone socket"
    choices: ClassVar[tuple[str, ...]] = ("compressor", "works_on")
    what: ClassVar[str] = "the radio's input, at its pins"

    kind: Literal["microphone-socket"] = "microphone-socket"
    wants_dbu: LevelDbu = Field(typical(-53.0), title="Wants, gain in the middle")
    gain_range_db: Decibels = Field(typical(40.0), title="Microphone gain, range")
    marked_to: Ratio = Field(typical(100.0), title="marked from 0 to")
    compressor: Literal["off", "on"] = Field("off", title="Its own compressor")
    works_on: Literal["audio", "rf"] = Field("audio", title="It works on")
    compressor_threshold_dbu: LevelDbu = Field(typical(-56.0), title="Compresses above")
    compressor_ratio: Ratio = Field(typical(4.0), title="Ratio, to 1")

    @model_validator(mode="after")
    def _does_not_expand(self) -> Self:
        if self.compressor_ratio.value < 1:
            raise PydanticCustomError("figure", "compressor_ratio must be 1 or more")
        return self

    @model_validator(mode="after")
    def _can_be_turned(self) -> Self:
        if self.gain_range_db.value <= 0:
            raise PydanticCustomError("figure", "gain_range_db must be above 0 dB")
        return self

    def window(self) -> Window | None:
        """Speech for which the gain control stands where people work; peaks clear the ceiling."""
        middle, half = self.wants_dbu.value, self.gain_range_db.value / 2 * KNOB_WORKS
        low = middle - half
        high = min(middle + half, self.clip_dbu.value + SINE_CREST_DB - SPEECH.crest_db)
        high = max(high, low + LEAST_WINDOW_DB)
        return Window(low, high, min(middle, high))

    def knob(self, level_dbu: float, signal: Signal) -> Knob:
        """Where its gain control will stand for a level at the pin; beyond its ends, outside."""
        wants = self.wants_dbu.value + SPEECH.crest_db - signal.crest_db
        return Knob(0.5 + (wants - level_dbu) / self.gain_range_db.value, self.marked_to.value)

    def beyond_window_db(self) -> float:
        """From where people work to the ends of the control."""
        return self.gain_range_db.value * (1 - KNOB_WORKS) / 2

    def uncompressed(self) -> Iterator[tuple[str, Any]]:
        """By its switch."""
        yield "compressor", "off"

    def input_for(self) -> Literal["microphone"]:
        """A microphone, whatever its window."""
        return "microphone"

    def compression(self) -> Compression | None:
        """The speech processor inside the radio, when it is on."""
        if self.compressor == "off":
            return None
        return Compression(self.compressor_threshold_dbu.value, self.compressor_ratio.value)

    def idle_fields(self) -> tuple[str, ...]:
        """Nor the processor's figures while it is off."""
        off = ("compressor_threshold_dbu", "compressor_ratio") if self.compressor == "off" else ()
        return (*super().idle_fields(), *off)


class HeadsetInput(MicrophoneSocket):
    """A computer's microphone input: some volts on its pin, a slider in its system, no radio."""

    device: ClassVar[DeviceKind | None] = "computer"
    noun: ClassVar[str] = "headset input"
    choices: ClassVar[tuple[str, ...]] = ()
    what: ClassVar[str] = "a computer's input for a microphone"
    transmits: ClassVar[bool] = False

    kind: Literal["headset-input"] = "headset-input"  # type: ignore[assignment]
    z_in_ohm: Ohms = Field(typical(1500.0), title="Input impedance")
    bias_v: Volts = Field(typical(2.2), title="Bias on the pin")
    bias_ohm: Ohms = Field(typical(2200.0), title="Bias through")
    wants_dbu: LevelDbu = Field(typical(-44.0), title="Wants, slider in the middle")
    gain_range_db: Decibels = Field(typical(40.0), title="Its slider, range")
    clip_dbu: LevelDbu = Field(typical(-24.0), title="Full scale at, slider down")
    supply: Supply = Field("double-insulated", title="Supply")

    def idle_fields(self) -> tuple[str, ...]:
        """There is no speech processor behind it."""
        return (*super().idle_fields(), "compressor", "works_on")


class FixedSocket(Socket):
    """An input without a gain control of its own: its window is a fact about it."""

    window_low_dbu: LevelDbu = Field(typical(-26.0), title="Wants at least")
    window_high_dbu: LevelDbu = Field(typical(-14.0), title="Wants at most")

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.window_low_dbu.value >= self.window_high_dbu.value:
            raise PydanticCustomError("figure", "window_low_dbu must be below window_high_dbu")
        return self

    def window(self) -> Window | None:
        """As given."""
        return Window(self.window_low_dbu.value, self.window_high_dbu.value)


class DataSocket(FixedSocket):
    """A radio's data or accessory socket: fixed-level audio in, no gain control before it."""

    noun: ClassVar[str] = "data socket"
    what: ClassVar[str] = "fixed-level audio into a radio"
    stated_for: ClassVar[SignalId] = "tone"

    kind: Literal["data-socket"] = "data-socket"
    z_in_ohm: Ohms = Field(typical(10e3), title="Input impedance")
    window_low_dbu: LevelDbu = Field(typical(-26.0), title="Wants at least")
    window_high_dbu: LevelDbu = Field(typical(-14.0), title="Wants at most")
    clip_dbu: LevelDbu = Field(typical(2.0), title="Overloads at")
    ein_dbu: LevelDbu = Field(typical(-95.0), title="Input noise")


class LineInput(FixedSocket):
    """A line input: of a computer or a recorder, its ceiling the level of full scale."""

    device: ClassVar[DeviceKind | None] = "computer"
    noun: ClassVar[str] = "line input"
    what: ClassVar[str] = "a converter's input"
    transmits: ClassVar[bool] = False

    kind: Literal["line-input"] = "line-input"
    z_in_ohm: Ohms = Field(typical(20e3), title="Input impedance")
    window_low_dbu: LevelDbu = Field(typical(-32.0), title="Wants at least")
    window_high_dbu: LevelDbu = Field(typical(-16.0), title="Wants at most")
    clip_dbu: LevelDbu = Field(typical(2.2), title="Full scale at")
    ein_dbu: LevelDbu = Field(typical(-88.0), title="Input noise")
    supply: Supply = Field("usb-computer", title="Supply")
