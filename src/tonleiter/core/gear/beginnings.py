"""What somebody speaks into and where it should go, in the words of a first evening.

Each leads to a kind with figures to begin with. What people do not know of their own things is a
range, so that the first answer says whether it matters.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.questions import Begin


@dataclass(frozen=True)
class Beginning:
    """A token, the words that follow "I speak into" or "it goes to", and the piece."""

    token: str
    words: str
    begin: Begin

    def piece(self, new_id: str) -> Gear:
        """The piece, under an id of its own."""
        data = {"id": new_id, "name": self.begin.name, **self.begin.figures}
        return KINDS[self.begin.kind].model_validate(data | {"kind": self.begin.kind})


# a headset's capsule cannot be seen, and its paper is lost: what such capsules are
_SOME_ELECTRET = {"sensitivity_dbv_per_pa": "-46..-38", "current_a": "0.2m..0.5m"}

SPEAKS: tuple[Beginning, ...] = (
    Beginning(
        "electret",
        "an electret capsule or headset",
        Begin("electret-2-wire", "electret microphone", _SOME_ELECTRET),
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
            {"full_scale_dbu": 2.2, "z_out_ohm": 30, "supply": "double-insulated"},
        ),
    ),
    Beginning(
        "usb",
        "a USB sound box",
        Begin(
            "line-source",
            "USB sound box output",
            {"full_scale_dbu": 6.2, "z_out_ohm": 100, "supply": "usb-computer"},
        ),
    ),
    Beginning(
        "mixer",
        "a mixer or a player",
        Begin("line-source", "mixer output", {"z_out_ohm": 220}),
    ),
)

GOES: tuple[Beginning, ...] = (
    Beginning(
        "radio",
        "a radio's microphone socket",
        Begin(
            "microphone-socket",
            "radio",
            {"bias_v": "0..9", "bias_ohm": "2200..10k", "z_in_ohm": 600},
        ),
    ),
    Beginning(
        "radio-biased",
        "a radio that feeds electrets on the pin",
        Begin(
            "microphone-socket",
            "radio with bias",
            {"bias_v": "5..9", "bias_ohm": "2200..10k", "z_in_ohm": 600},
        ),
    ),
    Beginning(
        "radio-plain",
        "a radio with no volts on the pin",
        Begin("microphone-socket", "radio", {"z_in_ohm": "500..2k"}),
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
            {"z_in_ohm": 100e3, "wants_dbu": -29, "clip_dbu": -8, "ein_dbu": -96},
        ),
    ),
    Beginning(
        "line",
        "a computer's or recorder's line input",
        Begin("line-input", "line input"),
    ),
)


def beginning(among: tuple[Beginning, ...], token: str) -> Beginning:
    """The one of that token. Raises KeyError."""
    return {one.token: one for one in among}[token]
