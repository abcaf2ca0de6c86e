"""What stands on a contact of a box with nothing plugged in: said, or usual for its role."""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.station.devices import Contact, Role

# volts and the resistance behind them, by role; typical, shown as such until somebody measured
_USUAL: dict[Role, tuple[float, float]] = {
    "bias": (8.0, 470.0),
    "transmit": (5.0, 4700.0),
    "up-down": (5.0, 10e3),
    "squelch": (5.0, 10e3),
    "audio-out": (0.0, 1000.0),
    "data-out": (0.0, 1000.0),
    "data-in": (0.0, 10e3),
}
GROUND_ROLES: tuple[Role, ...] = (
    "microphone-ground",
    "transmit-ground",
    "audio-ground",
    "data-ground",
    "screen",
)
# roles by which a box gives direct current
FED: tuple[Role, ...] = ("bias", "transmit", "up-down", "squelch")


@dataclass(frozen=True)
class Standing:
    """Volts against the box's ground, the ohms behind them, and whether somebody said so."""

    volts: float
    ohm: float
    usual: bool


def standing(contact: Contact, gear: Gear) -> Standing | None:
    """What a contact gives by itself; None for grounds, free and unknown ones."""
    usual = _USUAL.get(contact.role)
    if usual is None and contact.open_v is None:
        return None
    volts, ohm = usual or (0.0, 10e3)
    if contact.role == "bias":
        # the rail that biases the microphone's contact is led out, as a rule
        volts = gear.bias_on_pin_v() or volts
    said = contact.open_v is not None
    if contact.open_v is not None:
        volts = contact.open_v.value
    if contact.through_ohm is not None:
        ohm = contact.through_ohm.value
    return Standing(-volts if contact.negative else volts, ohm, not said)
