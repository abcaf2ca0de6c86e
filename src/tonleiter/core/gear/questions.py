"""A few questions in plain words that lead to the kind of a piece.

Each answer leads to another question or to a kind with figures to begin with. What people do not
know becomes a range: the ladder then says whether it matters.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.catalogue import KINDS


@dataclass(frozen=True)
class Begin:
    """A kind of gear, a name to begin with, and figures that follow from the answers."""

    kind: str
    name: str
    figures: dict[str, Any] = field(default_factory=dict)

    def piece(self, new_id: str, name: str = "") -> Gear:
        """The piece, under an id of its own and its usual name or another one."""
        data = {"id": new_id, "name": name or self.name, "kind": self.kind, **self.figures}
        return KINDS[self.kind].model_validate(data)


@dataclass(frozen=True)
class Question:
    """A question and its answers, each with where it leads."""

    text: str
    answers: tuple[tuple[str, Question | Begin | BoxBegin], ...]


# figures of things whose papers are lost, for these questions and for the first evening
SOME_ELECTRET: dict[str, Any] = {"sensitivity_dbv_per_pa": "-46..-38", "current_a": "0.2m..0.5m"}
COMPUTER_PLAYS: dict[str, Any] = {
    "full_scale_dbu": 2.2,
    "z_out_ohm": 30,
    "supply": "double-insulated",
}
USB_PLAYS: dict[str, Any] = {"full_scale_dbu": 6.2, "z_out_ohm": 100, "supply": "usb-computer"}
MIXER_PLAYS: dict[str, Any] = {"z_out_ohm": 220}
UNSURE_PIN: dict[str, Any] = {"bias_v": "0..9", "bias_ohm": "2200..10k", "z_in_ohm": 600}
BIASED_PIN: dict[str, Any] = {"bias_v": "5..9", "bias_ohm": "2200..10k", "z_in_ohm": 600}
PLAIN_PIN: dict[str, Any] = {"z_in_ohm": "500..2k"}
VALVE_GRID: dict[str, Any] = {"z_in_ohm": 100e3, "wants_dbu": -29, "clip_dbu": -8, "ein_dbu": -96}

_DIRECTION = Question(
    "Does it hear all round, or mostly from the front?",
    (
        (
            "mostly from the front",
            Begin(
                "dynamic-microphone", "dynamic microphone, directional", {"pattern": "directional"}
            ),
        ),
        ("all round", Begin("dynamic-microphone", "dynamic microphone")),
        (
            "only what is close: it cancels noise",
            Begin(
                "dynamic-microphone", "noise-cancelling dynamic", {"pattern": "noise-cancelling"}
            ),
        ),
    ),
)

_PINS = Question(
    "How many pins carry its sound?",
    (
        ("one and the screen", _DIRECTION),
        (
            "two and the screen: three-pin plug",
            Begin(
                "dynamic-microphone",
                "dynamic microphone, three pins",
                {"output": "balanced", "pattern": "directional"},
            ),
        ),
        (
            "high-impedance type, with a small transformer inside",
            Begin(
                "dynamic-microphone",
                "dynamic microphone, 50 kΩ",
                {"coil_ohm": 50e3, "coil_h": 0.8, "sensitivity_mv_per_pa": 22},
            ),
        ),
    ),
)

_PASSIVE = Question(
    "What is inside?",
    (
        ("a coil and a magnet", _PINS),
        ("a crystal or a ceramic disc", Begin("piezo-microphone", "piezo microphone")),
        ("a ribbon of foil", Begin("ribbon-microphone", "ribbon microphone")),
        ("I do not know; it is old and heavy", _DIRECTION),
    ),
)

_CAPSULE = Question(
    "How many wires has the capsule?",
    (
        ("two", Begin("electret-2-wire", "electret microphone")),
        ("three", Begin("electret-3-wire", "electret, three wires")),
        (
            "I cannot see it: a headset or hand microphone",
            Begin(
                "electret-2-wire",
                "electret in a case",
                SOME_ELECTRET,
            ),
        ),
    ),
)

_MICROPHONE = Question(
    "Does it need a battery, DC or phantom power?",
    (
        ("no, nothing", _PASSIVE),
        ("a few volts on its own line", _CAPSULE),
        (
            "a battery inside, and it has a volume control",
            Begin("amplified-desk-microphone", "amplified desk microphone"),
        ),
        ("48 V phantom power", Begin("phantom-condenser", "studio condenser")),
        ("a real current, like an old telephone", Begin("carbon-microphone", "carbon microphone")),
    ),
)

_BRIDGE = Question(
    "Is either of its two loudspeaker wires joined to the case?",
    (
        ("yes, one is ground", Begin("loudspeaker-output", "loudspeaker output")),
        (
            "no: both are live",
            Begin("loudspeaker-output", "bridged loudspeaker output", {"output": "bridged"}),
        ),
        (
            "I do not know",
            Begin(
                "loudspeaker-output", "loudspeaker output, taken as bridged", {"output": "bridged"}
            ),
        ),
    ),
)

_SOURCE = Question(
    "What plays?",
    (
        (
            "a computer's headphone or line output",
            Begin(
                "line-source",
                "computer output",
                COMPUTER_PLAYS,
            ),
        ),
        (
            "a USB sound interface",
            Begin(
                "line-source",
                "USB interface output",
                USB_PLAYS,
            ),
        ),
        ("a mixer or a player", Begin("line-source", "mixer output", MIXER_PLAYS)),
        ("a radio's loudspeaker socket", _BRIDGE),
        (
            "a radio's fixed-level output",
            Begin(
                "line-source",
                "fixed-level output",
                {"full_scale_dbu": 2.2, "below_full_db": -16, "z_out_ohm": "1k..10k"},
            ),
        ),
    ),
)

_BETWEEN = Question(
    "What does it do?",
    (
        (
            "a lead",
            Question(
                "What is in the lead?",
                (
                    ("one core in a screen", Begin("cable", "screened lead")),
                    (
                        "two cores in a screen",
                        Begin("cable", "two-core lead", {"form": "two-core"}),
                    ),
                    (
                        "four cores: star-quad",
                        Begin("cable", "star-quad lead", {"form": "star-quad"}),
                    ),
                ),
            ),
        ),
        (
            "takes level off",
            Question(
                "How is it made?",
                (
                    ("two resistors", Begin("l-pad", "L-pad")),
                    ("one resistor in the line", Begin("series-pad", "series resistor")),
                    ("three resistors, a T", Begin("t-pad", "T-pad")),
                    ("a resistor in each leg and one across", Begin("u-pad", "U-pad")),
                    ("a potentiometer", Begin("trim-pot", "trim pot")),
                ),
            ),
        ),
        (
            "amplifies",
            Question(
                "What is it?",
                (
                    ("a box: mixer strip with tone controls", Begin("mixer-strip", "mixer strip")),
                    (
                        "a box: some preamp or mixer",
                        Begin(
                            "amplifier",
                            "preamp",
                            {
                                "expects": "microphone",
                                "gain_db": 30,
                                "gain_low_db": 0,
                                "gain_high_db": 60,
                            },
                        ),
                    ),
                    ("one transistor", Begin("bipolar-preamp", "transistor preamp")),
                    ("one FET", Begin("jfet-preamp", "FET preamp")),
                    ("an operational amplifier", Begin("opamp-preamp", "op-amp preamp")),
                    (
                        "an integrated microphone amplifier with compressor",
                        Begin("microphone-amplifier", "integrated microphone amplifier"),
                    ),
                    ("a valve", Begin("valve-stage", "valve stage")),
                ),
            ),
        ),
        (
            "shapes tone or compresses",
            Question(
                "Which?",
                (
                    ("an equaliser", Begin("graphic-equaliser", "equaliser")),
                    ("a compressor", Begin("compressor", "compressor")),
                ),
            ),
        ),
        ("parts the grounds, or matches: a transformer", Begin("transformer", "transformer")),
        ("a lead wound on a ring, against loops", Begin("common-mode-choke", "common-mode choke")),
        ("blocks DC: a capacitor", Begin("capacitor", "blocking capacitor")),
        (
            "feeds a microphone",
            Question(
                "With what?",
                (
                    ("a few volts", Begin("bias-feed", "bias feed")),
                    ("48 V phantom power", Begin("phantom-feed", "phantom feed")),
                ),
            ),
        ),
        ("divides the input inside an old radio", Begin("input-divider", "input divider")),
    ),
)

_PIN_DC = Question(
    "Does DC stand on the microphone pin?",
    (
        (
            "yes, it powers electret microphones",
            Begin(
                "microphone-socket",
                "radio, bias on the pin",
                BIASED_PIN,
            ),
        ),
        ("no", Begin("microphone-socket", "radio", PLAIN_PIN)),
        (
            "I do not know",
            Begin(
                "microphone-socket",
                "radio, taken as biased",
                UNSURE_PIN,
            ),
        ),
    ),
)

_INPUT = Question(
    "Which input is it?",
    (
        ("the microphone socket of a radio", _PIN_DC),
        ("a data or accessory socket of a radio", Begin("data-socket", "data socket")),
        (
            "the microphone socket of a valve transmitter",
            Begin(
                "microphone-socket",
                "valve transmitter",
                VALVE_GRID,
            ),
        ),
        ("the line input of a computer or recorder", Begin("line-input", "line input")),
        ("the headset input of a computer", Begin("headset-input", "headset input")),
    ),
)


@dataclass(frozen=True)
class Socket:
    """Something that can be plugged into a box: in words, the piece that it is, its shell.

    ``usual`` ones are there unless somebody says otherwise.
    """

    words: str
    begin: Begin
    shell: str
    usual: bool = True


@dataclass(frozen=True)
class BoxBegin:
    """A box, and what can be plugged into it."""

    kind: str
    name: str
    supply: str
    sockets: tuple[Socket, ...]


_RADIO_BOX = BoxBegin(
    "radio",
    "radio",
    "safety-earth",
    (
        Socket(
            "a microphone, at the front",
            Begin(
                "microphone-socket",
                "microphone socket",
                UNSURE_PIN,
            ),
            "round-8",
        ),
        Socket(
            "data: sound of a fixed level, at the back",
            Begin("data-socket", "data socket"),
            "mini-din-6",
        ),
        Socket(
            "a loudspeaker or headphones",
            Begin("loudspeaker-output", "loudspeaker socket"),
            "jack-3.5",
        ),
        Socket(
            "USB that carries sound into it",
            Begin("data-socket", "USB sound into it", {"clip_dbu": 6}),
            "usb",
            usual=False,
        ),
    ),
)

_COMPUTER_BOX = BoxBegin(
    "computer",
    "computer",
    "double-insulated",
    (
        Socket("headphones or loudspeakers", Begin("line-source", "headphone output"), "jack-3.5"),
        Socket("a microphone or a line", Begin("line-input", "line input"), "jack-3.5"),
        Socket(
            "a headset's microphone",
            Begin("headset-input", "headset input"),
            "jack-3.5",
            usual=False,
        ),
    ),
)

_INTERFACE_BOX = BoxBegin(
    "interface",
    "audio box",
    "lead",
    (
        Socket("what it plays: to the radio", Begin("line-source", "output"), "jack-6.35"),
        Socket("what it hears: from the radio", Begin("line-input", "input"), "jack-6.35"),
    ),
)

_TWO_OUTPUTS = BoxBegin(
    "microphone",
    "microphone of two outputs",
    "battery",
    (
        Socket(
            "its own plug, with three pins",
            Begin(
                "dynamic-microphone",
                "three-pin output",
                {"output": "balanced", "pattern": "directional"},
            ),
            "xlr-3",
        ),
        Socket("USB", Begin("line-source", "USB output", {"signal": "speech"}), "usb"),
    ),
)

_JOINING = BoxBegin("supply", "supply", "safety-earth", ())

_BOX = Question(
    "Which box is it?",
    (
        ("a radio", _RADIO_BOX),
        ("a computer", _COMPUTER_BOX),
        ("an audio box or interface", _INTERFACE_BOX),
        ("a microphone with two outputs", _TWO_OUTPUTS),
        ("a supply, a mast, a rack: nothing that carries sound", _JOINING),
    ),
)

FIRST = Question(
    "What do you want to put on the shelf?",
    (
        ("something I speak into", _MICROPHONE),
        ("something that plays or receives", _SOURCE),
        ("something that stands between", _BETWEEN),
        ("an input of a radio or a computer", _INPUT),
        ("a box with several sockets", _BOX),
    ),
)
