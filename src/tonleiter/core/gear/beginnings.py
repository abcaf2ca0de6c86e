"""What somebody speaks into and where it should go, in the words of a first evening.

Each leads to a kind with figures to begin with. What people do not know of their own things is a
range, so that the first answer says whether it matters.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.questions import (
    BIASED_PIN,
    COMPUTER_PLAYS,
    MIXER_PLAYS,
    PLAIN_PIN,
    SOME_ELECTRET,
    UNSURE_PIN,
    USB_PLAYS,
    VALVE_GRID,
    Begin,
)


@dataclass(frozen=True)
class Beginning:
    """A token, the words that follow "I speak into" or "it goes to", and the piece."""

    token: str
    words: str
    begin: Begin

    def piece(self, new_id: str) -> Gear:
        """The piece, under an id of its own."""
        return self.begin.piece(new_id)


SPEAKS: tuple[Beginning, ...] = (
    Beginning(
        "electret",
        "an electret capsule or headset",
        Begin("electret-2-wire", "electret microphone", SOME_ELECTRET),
    ),
    Beginning(
        "dynamic-xlr",
        "a stage dynamic with a three-pin plug",
        Begin(
            "dynamic-microphone",
            "stage dynamic",
            {"output": "balanced", "pattern": "directional"},
        ),
    ),
    Beginning(
        "dynamic",
        "a dynamic hand or desk microphone",
        Begin("dynamic-microphone", "dynamic microphone"),
    ),
    Beginning(
        "amplified",
        "a desk microphone with a battery in it",
        Begin("amplified-desk-microphone", "amplified desk microphone"),
    ),
    Beginning(
        "piezo",
        "a crystal or ceramic microphone",
        Begin("piezo-microphone", "piezo microphone"),
    ),
    Beginning(
        "carbon",
        "a carbon microphone, as in a field telephone",
        Begin("carbon-microphone", "carbon microphone"),
    ),
    Beginning("ribbon", "a ribbon microphone", Begin("ribbon-microphone", "ribbon microphone")),
    Beginning(
        "studio",
        "a studio microphone on 48 V",
        Begin("phantom-condenser", "studio condenser"),
    ),
    Beginning(
        "unknown",
        "some old microphone; I do not know what is in it",
        Begin(
            "dynamic-microphone",
            "old microphone",
            {"coil_ohm": "150..600", "sensitivity_mv_per_pa": "0.8..3"},
        ),
    ),
    Beginning(
        "computer",
        "a computer's headphone output",
        Begin(
            "line-source",
            "computer output",
            COMPUTER_PLAYS,
        ),
    ),
    Beginning(
        "usb",
        "a USB sound box",
        Begin(
            "line-source",
            "USB sound box output",
            USB_PLAYS,
        ),
    ),
    Beginning(
        "mixer",
        "a mixer or a player",
        Begin("line-source", "mixer output", MIXER_PLAYS),
    ),
)

GOES: tuple[Beginning, ...] = (
    Beginning(
        "radio",
        "a radio's microphone socket",
        Begin(
            "microphone-socket",
            "radio",
            UNSURE_PIN,
        ),
    ),
    Beginning(
        "radio-biased",
        "a radio that feeds electrets on the pin",
        Begin(
            "microphone-socket",
            "radio with bias",
            BIASED_PIN,
        ),
    ),
    Beginning(
        "radio-plain",
        "a radio with no volts on the pin",
        Begin("microphone-socket", "radio", PLAIN_PIN),
    ),
    Beginning(
        "data",
        "a radio's data or accessory socket",
        Begin("data-socket", "data socket"),
    ),
    Beginning(
        "valve",
        "an old valve transmitter",
        Begin(
            "microphone-socket",
            "valve transmitter",
            VALVE_GRID,
        ),
    ),
    Beginning(
        "line",
        "a computer's or recorder's line input",
        Begin("line-input", "line input"),
    ),
    Beginning(
        "headset",
        "a computer's headset input",
        Begin("headset-input", "headset input"),
    ),
)


def beginning(among: tuple[Beginning, ...], token: str) -> Beginning:
    """The one of that token. Raises KeyError."""
    return {one.token: one for one in among}[token]
