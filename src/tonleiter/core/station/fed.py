"""Where a radio leads its bias out: the contact of its plug, and what stands on it."""

from __future__ import annotations

from tonleiter.core.gear.base import Gear
from tonleiter.core.station.contact_facts import Standing, standing
from tonleiter.core.station.devices import Contact
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import end_of

# a contact that gives nothing
NOTHING = Standing(0.0, 1e6, usual=True)


def bias_contact(station: Station, radio: Gear) -> Contact | None:
    """The contact that is there to supply a microphone; None where nobody entered one."""
    connector = end_of(station, radio, balanced=False).connector
    return next((c for c in connector.contacts if c.role == "bias"), None)


def bias_of(station: Station, radio: Gear) -> Standing:
    """What that contact gives with nothing plugged in; no volts where there is none."""
    contact = bias_contact(station, radio)
    found = None if contact is None else standing(contact, radio)
    return found or NOTHING
