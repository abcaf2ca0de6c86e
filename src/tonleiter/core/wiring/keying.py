"""The transmit switch: what it takes for each way, sized for the radio's line, and what it costs.

A line is pulled to its ground, down, or up where it stands negative. What it sinks follows from its
open volts and the resistance behind them; base and LED resistors follow from that and from the
volts of the serial port. Saturation: a base current of a tenth of the collector's, twice what a
gain of 20 asks for. Opto-coupler: a transfer ratio of 50 % at least, doubled for age.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.keyers import TRANSFER_RATIO, SerialOpto, SerialRelay, SerialTransistor
from tonleiter.core.gear.parts import COINS, Part
from tonleiter.core.safety.cautions import caution
from tonleiter.core.station.contact_facts import Standing
from tonleiter.core.station.transmit import is_wired
from tonleiter.core.station.wiring import SecondWay, TransmitWay
from tonleiter.core.units.preferred import at_most
from tonleiter.core.units.quantity import AMPERE, VOLT, format_quantity

# volts over a base, an LED; what a transistor leaves when it is on
BASE_V, LED_V, SATURATED_V = 0.7, 1.2, 0.2
FORCED_GAIN, AGE = 10.0, 2.0
BASE_OHM, LED_OHM, RELAY_OHM = 4.7e3, 680.0, 400.0
LEAST_BASE_A, LEAST_LED_A, MOST_PORT_A = 0.5e-3, 2e-3, 10e-3
# most volts and amperes that usual parts of each way bear
BEARS: dict[TransmitWay, tuple[float, float]] = {
    "microphone": (50.0, 0.1),
    "foot-switch": (50.0, 1.0),
    "push-button": (50.0, 0.5),
    "toggle": (125.0, 1.0),
    "serial-transistor": (40.0, 0.1),
    "serial-opto": (30.0, 0.02),
    "serial-relay": (125.0, 1.0),
}


@dataclass(frozen=True)
class Keying:
    """A way to transmit: its words, its parts, what keys it by accident, its cautions.

    ``line_v`` and ``line_a`` are what the switch must open and carry; ``gear`` is what a serial
    port drives, ``resistor_ohm`` the resistor it works through, None where there is none, or no
    preferred value can do it.
    """

    way: TransmitWay
    says: str
    parts: tuple[Part, ...]
    by_accident: str
    cautions: tuple[str, ...]
    line_v: float
    line_a: float
    resistor_ohm: float | None = None
    port_a: float = 0.0
    gear: Gear | None = None
    latches: bool = False

    @property
    def from_computer(self) -> bool:
        """Whether a serial port drives it."""
        return self.way in ("serial-transistor", "serial-opto", "serial-relay")

    @property
    def wired(self) -> bool:
        """Whether wires go to the radio's plug."""
        return is_wired(self.way)


_SAYS: dict[TransmitWay, str] = {
    "microphone": "a switch in the microphone's case",
    "foot-switch": "a foot switch on a lead of its own",
    "push-button": "a push button, pressed while transmitting",
    "toggle": "a toggle on the panel, which stays where it is put",
    "radio": "the button or switch on the radio itself",
    "vox": "the radio's voice control",
    "serial-transistor": "a serial line through a transistor",
    "serial-opto": "a serial line through an opto-coupler",
    "serial-relay": "a serial line through a transistor and a relay",
    "interface-vox": "the interface keys when it hears the transmit tone",
}
_WANDERS = "a computer that starts: its lines wander until the program opens the port"
_ACCIDENT: dict[TransmitWay, str] = {
    "microphone": "being put down on its switch; a strand between line and ground in the plug",
    "foot-switch": "a chair's wheel; a stereo plug in its socket, whose ring lies in the sleeve",
    "push-button": "something leaning on it",
    "toggle": "forgetting it: nothing ends the transmission but a hand",
    "radio": "nothing of the lead",
    "vox": "the room, the loudspeaker, a cough; hang time keeps it keyed after the last word",
    "serial-transistor": _WANDERS,
    "serial-opto": _WANDERS,
    "serial-relay": _WANDERS,
    "interface-vox": "system sounds, when the radio is the computer's default device",
}


def keying_of(way: TransmitWay, line: Standing | None, serial_v: float) -> Keying:
    """The switch for a line; without figures of the line, for a usual one."""
    volts = line.volts if line is not None else 5.0
    amps = abs(volts) / line.ohm if line is not None else abs(volts) / 4700.0
    parts: list[Part] = []
    cautions = [caution("rf")]
    resistor: float | None = None
    port_a = 0.0
    gear: Gear | None = None
    if way in ("foot-switch", "push-button", "microphone"):
        what = {
            "foot-switch": "foot switch, momentary",
            "push-button": "push button, momentary",
            "microphone": "switch, momentary, quiet",
        }[way]
        parts.append(Part(1, what, "", COINS, _bears(volts, amps)))
        if way == "foot-switch":
            parts.append(Part(1, "6.35 mm jack and socket, 2 contacts", "", COINS))
    elif way == "toggle":
        parts.append(Part(1, "toggle switch, panel", "", COINS, _bears(volts, amps)))
        cautions.append("It latches: use the radio's time-out, or a momentary switch.")
    elif way == "serial-transistor":
        base_a = max(amps / FORCED_GAIN, LEAST_BASE_A)
        # a port whose lines rest negative would hold a negative line keyed
        resistor, port_a = _driven(serial_v - BASE_V, base_a) if volts >= 0 else (None, base_a)
        gear = SerialTransistor(
            id="keyer", name="transistor", base_ohm=typical(resistor or BASE_OHM)
        )
        cautions.append("It joins the computer's ground to the radio's: a loop may hum.")
    elif way == "serial-opto":
        led_a = max(amps / TRANSFER_RATIO * AGE, LEAST_LED_A)
        resistor, port_a = _driven(serial_v - LED_V, led_a)
        gear = SerialOpto(
            id="keyer",
            name="opto-coupler",
            led_ohm=typical(resistor or LED_OHM),
            bears=_bears(volts, amps),
        )
        toward = "collector to the line, emitter to its ground"
        if volts < 0:
            toward = "emitter to the line, collector to its ground: the line stands negative"
        cautions.append(f"Output transistor: {toward}.")
    elif way == "serial-relay":
        coil_a = SerialRelay.SUPPLY_V / RELAY_OHM
        resistor, port_a = _driven(serial_v - BASE_V, coil_a / FORCED_GAIN)
        gear = SerialRelay(
            id="keyer",
            name="relay",
            base_ohm=typical(resistor or BASE_OHM),
            coil_ohm=typical(RELAY_OHM),
            bears=_bears(volts, amps),
        )
        cautions.append(
            "12 V for the coil from the radio's supply, through a fuse of its own; its minus joins"
            " the computer's ground: a loop may hum."
        )
    elif way == "vox":
        cautions.append("Headphones on, loudspeaker down, or it keys itself.")
    elif way == "interface-vox":
        cautions.append("Hang time at its shortest: a tail hides the reply.")
    return Keying(
        way,
        _SAYS[way],
        tuple(parts),
        _ACCIDENT[way],
        tuple(cautions),
        volts,
        amps,
        resistor,
        port_a,
        gear=gear,
        latches=way == "toggle",
    )


def second_switch(way: SecondWay, first: Keying) -> tuple[Part, ...]:
    """What a switch beside the first one takes; it bears the same."""
    what = {
        "foot-switch": "foot switch, momentary",
        "push-button": "push button, momentary",
        "toggle": "toggle switch, panel",
    }[way]
    return (Part(1, what, "", COINS, f"{_bears(first.line_v, first.line_a)}, beside the first"),)


def _driven(volts: float, amps: float) -> tuple[float | None, float]:
    """The largest preferred resistor that still gives ``amps``, and what it gives then."""
    if volts <= 0 or amps > MOST_PORT_A:
        return None, amps
    ohm = at_most(volts / amps, "E12")
    return ohm, volts / ohm


def _bears(volts: float, amps: float) -> str:
    """What it must bear, with a margin of two."""
    most_v = format_quantity(max(2 * abs(volts), 1.0), VOLT, 2)
    most_a = format_quantity(max(2 * amps, 1e-3), AMPERE, 2)
    return f"bears {most_v} and {most_a}"
