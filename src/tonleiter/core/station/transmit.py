"""How a transmission is keyed: which ways there are, and the usual one for a source."""

from __future__ import annotations

from tonleiter.core.gear.base import Gear
from tonleiter.core.station.wiring import TransmitWay, Wiring

# ways that take two wires to the radio's plug
_WIRED: tuple[TransmitWay, ...] = (
    "microphone",
    "foot-switch",
    "push-button",
    "toggle",
    "serial-transistor",
    "serial-opto",
    "serial-relay",
)
BY_COMPUTER: tuple[TransmitWay, ...] = (
    "serial-transistor",
    "serial-opto",
    "serial-relay",
    "interface-vox",
)


def is_wired(way: TransmitWay) -> bool:
    """Whether it takes wires to the radio's transmit contact."""
    return way in _WIRED


def way_of(wiring: Wiring, source: Gear, socket: Gear) -> TransmitWay | None:
    """The way that was chosen, or a usual one; None where nothing is transmitted."""
    if not socket.transmits:
        return None
    if wiring.transmit is not None:
        return wiring.transmit
    if source.acoustic:
        return "foot-switch"
    return "vox" if source.is_on_battery else "serial-opto"


def ways_for(source: Gear, socket: Gear) -> tuple[TransmitWay, ...]:
    """The ways that make sense for a source, the usual one first."""
    if not socket.transmits:
        return ()
    by_hand: tuple[TransmitWay, ...] = (
        "foot-switch",
        "microphone",
        "push-button",
        "toggle",
        "radio",
        "vox",
    )
    if source.acoustic:
        return by_hand
    return (
        "serial-opto",
        "serial-transistor",
        "serial-relay",
        "interface-vox",
        "vox",
        "radio",
        "push-button",
        "foot-switch",
    )
