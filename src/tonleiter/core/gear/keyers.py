"""What keys a transmitter from a serial port: a transistor, an opto-coupler, a relay.

They stand in no path of the sound: between the port's control line and the radio's transmit line.
A port swings both ways; a diode the other way round keeps its negative volts off a base or an LED.
"""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Cccs,
    Diode,
    DiodeModel,
    Resistor,
    VoltageSource,
)
from tonleiter.core.gear.base import Gear, Role
from tonleiter.core.gear.figure import Ohms, typical
from tonleiter.core.gear.net import StageNet
from tonleiter.core.gear.parts import COINS, OPTO_COUPLER, RELAY, Part

# an infrared LED: some 1.2 V at 5 mA; a small silicon transistor and diode
LED = DiodeModel(is_a=4e-13, n=2.0)
SMALL = BipolarModel(is_a=1e-14, bf=100.0)
SIGNAL = DiodeModel(is_a=2e-9, n=1.8)
# of the LED's current, in the collector; what usual parts give at least
TRANSFER_RATIO = 0.5


class SerialTransistor(Gear):
    """An NPN transistor that a serial port turns on; its emitter joins both grounds."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "transistor at a serial port"
    what: ClassVar[str] = "keys the transmitter"

    kind: Literal["serial-transistor"] = "serial-transistor"
    base_ohm: Ohms = Field(typical(4.7e3), title="Base")

    def build(self, net: StageNet) -> None:
        """Resistor, transistor, a diode across base and emitter."""
        base, ground = net.name("base"), net.inlet.chassis
        net.resistor("base_r", net.inlet.hot, base, self.base_ohm.value)
        net.add(Diode(net.name("reverse"), ground, base, SIGNAL))
        net.add(Bipolar(net.name("transistor"), net.outlet.hot, base, ground, SMALL))


class SerialOpto(Gear):
    """An opto-coupler that a serial port lights; nothing joins the two grounds."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "opto-coupler at a serial port"
    what: ClassVar[str] = "keys the transmitter, grounds apart"
    isolates: ClassVar[bool] = True
    passes_ground: ClassVar[bool] = False

    kind: Literal["serial-opto"] = "serial-opto"
    led_ohm: Ohms = Field(typical(680.0), title="LED")
    bears: str = ""

    def build(self, net: StageNet) -> None:
        """Resistor, LED with a diode across it; a transistor that its light turns on."""
        anode, cathode, lit = (net.name(x) for x in ("anode", "cathode", "lit"))
        ground, out = net.inlet.chassis, net.outlet
        net.resistor("led_r", net.inlet.hot, anode, self.led_ohm.value)
        net.add(Diode(net.name("reverse"), ground, anode, SIGNAL))
        net.add(Diode(net.name("led"), anode, cathode, LED))
        net.add(VoltageSource(net.name("sense"), cathode, ground))
        net.add(
            Cccs(net.name("light"), out.chassis, lit, net.name("sense"), TRANSFER_RATIO / SMALL.bf)
        )
        net.add(Bipolar(net.name("photo"), out.hot, lit, out.chassis, SMALL))
        part = Part(1, "opto-coupler, transistor output", "", COINS, self.bears)
        net.whole("opto", OPTO_COUPLER, part, "led", "sense", "light", "photo")


class SerialRelay(Gear):
    """A relay that a serial port pulls in through a transistor; its contact bears what it must."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "relay at a serial port"
    what: ClassVar[str] = "keys the transmitter by a contact of its own"
    isolates: ClassVar[bool] = True
    passes_ground: ClassVar[bool] = False

    kind: Literal["serial-relay"] = "serial-relay"
    base_ohm: Ohms = Field(typical(1.8e3), title="Base")
    coil_ohm: Ohms = Field(typical(400.0), title="Coil")
    bears: str = ""

    SUPPLY_V: ClassVar[float] = 12.0

    def build(self, net: StageNet) -> None:
        """Transistor in the coil's foot, a diode across the coil, a contact in the line."""
        base, foot, rail = (net.name(x) for x in ("base", "foot", "rail"))
        ground = net.inlet.chassis
        net.resistor("base_r", net.inlet.hot, base, self.base_ohm.value)
        net.add(Diode(net.name("reverse"), ground, base, SIGNAL))
        net.add(Bipolar(net.name("transistor"), foot, base, ground, SMALL))
        net.add_stray(VoltageSource(net.name("supply"), rail, ground, dc=self.SUPPLY_V))
        # what the coil gives back when it is let go runs round through this one
        net.add(Diode(net.name("catch"), foot, rail, SIGNAL))
        net.add(Resistor(net.name("coil"), rail, foot, self.coil_ohm.value, noisy=False))
        net.add(Resistor(net.name("contact"), net.outlet.hot, net.outlet.chassis, 1e9, noisy=False))
        note = f"coil of {self.coil_ohm.value:g} Ω or more, one contact that closes; {self.bears}"
        part = Part(1, "relay, 12 V", "", COINS, note.rstrip("; "))
        net.whole("relay", RELAY, part, "coil", "contact")
