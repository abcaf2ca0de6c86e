"""How transmit is keyed on a path: part of every plan, though it carries no audio."""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.parts import COINS, PENNIES, Part


@dataclass(frozen=True)
class Keying:
    """What to do, and the parts it takes."""

    says: str
    parts: tuple[Part, ...]


def keying(source: Gear, socket: Gear, isolated: bool) -> Keying | None:
    """The usual way to key for a source; None where nothing is transmitted."""
    if not socket.transmits:
        return None
    if source.acoustic:
        says = (
            "Transmit switch: in the microphone, under a foot, or on the panel; on a wire of its"
            " own to the radio's transmit pin and that pin's ground. Or the radio's voice control."
        )
        return Keying(says, (Part(1, "switch, momentary", "", COINS),))
    if source.is_on_battery:
        return Keying("Transmit by hand, or by the radio's voice control.", ())
    says = (
        "Transmit line: the computer's serial line through an opto-coupler, so that no ground comes"
        " in by it; or voice control on the tone, hang time at its shortest."
    )
    if not isolated:
        says = says.replace(", so that no ground comes in by it", "")
    parts = (
        Part(1, "opto-coupler", "", COINS),
        Part(1, "resistor", "1 kΩ", PENNIES),
        Part(1, "diode", "small signal", PENNIES),
    )
    return Keying(says, parts)
