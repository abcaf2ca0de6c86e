"""Stations as people have them, and what somebody with thirty years on the air accepts of a guide.

None of them is the demo. Each guide is followed literally, chain and knobs, until it asks for
nothing that can be done. ``right`` says whether it may end with everything where it should be;
``first`` what comes before anything is turned; ``asked`` and ``never`` are steps; ``says`` stands
somewhere in the last headline, guide or findings; ``zones`` hold meters or knobs at the end.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from tests.conftest import gear, station_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import PanelState

# of an ALC scale of 15 dB, the middle to two thirds, and barely moving
MIDDLE, BARELY = (0.44 * 15, 0.68 * 15), (0.01 * 15, 0.26 * 15)


@dataclass(frozen=True)
class Row:
    """One station; ``why`` is the practitioner's reason."""

    name: str
    station: Station
    why: str
    panel: PanelState = field(default_factory=PanelState)
    right: bool = True
    first: str = ""
    asked: tuple[str, ...] = ()
    never: tuple[str, ...] = ()
    says: str = ""
    zones: dict[str, tuple[float, float]] = field(default_factory=dict)
    most: int = 10


def dynamic(**of: Any) -> dict[str, Any]:
    return gear("dynamic-microphone", "mic", **of)


def electret(**of: Any) -> dict[str, Any]:
    return gear("electret-2-wire", "mic", **of)


def radio(**of: Any) -> dict[str, Any]:
    return gear("microphone-socket", "radio", **of)


def data(**of: Any) -> dict[str, Any]:
    return gear("data-socket", "radio", **of)


BIASED = {"bias_v": 8, "bias_ohm": 2200}
LAPTOP = {"full_scale_dbu": 0, "below_full_db": -12, "z_out_ohm": 100}

ROWS = (
    Row(
        "a dynamic on a set without bias",
        station_of(dynamic(), radio()),
        "the usual pair: the gain a little over the middle, the meter half way",
        zones={"alc": MIDDLE, "gain": (35, 85)},
        never=("pad",),
        most=6,
    ),
    Row(
        "the same, a bar or two of ALC",
        station_of(dynamic(), radio()),
        "the other school wants the needle barely moving: some decibels less gain",
        panel=PanelState(alc="barely"),
        zones={"alc": BARELY},
        most=6,
    ),
    Row(
        "a dynamic on a biased pin",
        station_of(dynamic(coil_ohm=300), radio(**BIASED)),
        "DC through the coil: a capacitor comes before any knob",
        first="dc-through-winding",
        zones={"alc": MIDDLE},
    ),
    Row(
        "an electret on the set's own bias",
        station_of(electret(), radio(**BIASED)),
        "made for each other: gain below the middle",
        zones={"alc": MIDDLE, "gain": (10, 60)},
        never=("mend-0",),
    ),
    Row(
        "an electret without bias",
        station_of(electret(), radio()),
        "dead until it is fed: nothing is turned before",
        first="electret-no-bias",
        zones={"alc": MIDDLE},
    ),
    Row(
        "spoken into the capsule",
        station_of(electret(), radio(**BIASED), speaks="into-it"),
        "plosives first: across it",
        asked=("distance",),
        zones={"alc": MIDDLE},
    ),
    Row(
        "at arm's length",
        station_of(dynamic(), radio(), distance_mm=300),
        "20 dB of room are won by coming closer; no knob wins them",
        asked=("distance",),
        zones={"alc": MIDDLE},
    ),
    Row(
        "lips on the grille",
        station_of(dynamic(), radio(), distance_mm=8),
        "breath and bass win: back off before the gain is set for it",
        asked=("distance",),
        zones={"alc": MIDDLE},
    ),
    Row(
        "a set marked from 0 to 10",
        station_of(dynamic(), radio(marked_to=10)),
        "its own marking: nobody can set 64 on it",
        zones={"alc": MIDDLE, "gain": (35, 85)},
    ),
    Row(
        "too weak for what the knob reaches",
        station_of(dynamic(sensitivity_mv_per_pa=0.12), radio(wants_dbu=-40, gain_range_db=20)),
        "the knob at its end and 15 dB short: an amplifier, or another microphone",
        right=False,
        says="at its end",
    ),
    Row(
        "a pad of 50 dB left in the lead",
        station_of(dynamic(), gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=33), radio()),
        "the pad belongs out or smaller; then it is a usual pair",
        asked=("gain",),
        zones={"alc": MIDDLE, "gain": (40, 85)},
    ),
    Row(
        "a mixer at microphone level through a pad",
        station_of(
            dynamic(),
            gear("mixer-strip", "mixer", gain_db=40),
            gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100),
            radio(),
        ),
        "the box before the radio first, in its window; then the way down; then the knob",
        asked=("gain",),
        zones={"alc": MIDDLE},
    ),
    Row(
        "a mixer straight into the microphone socket",
        station_of(dynamic(), gear("mixer-strip", "mixer", gain_db=46), radio(clip_dbu=-30)),
        "line level into a first stage: a pad before any knob, the fader is no pad",
        first="line-into-mic",
        zones={"alc": MIDDLE},
    ),
    Row(
        "a carbon capsule on a transistor set",
        station_of(gear("carbon-microphone", "mic"), radio()),
        "no current, no sound",
        first="carbon",
    ),
    Row(
        "a piezo on 600 ohms",
        station_of(gear("piezo-microphone", "mic"), radio()),
        "600 ohms beside a nanofarad: thin and 40 dB down; it wants a megohm",
        right=False,
        says="Bass is lost",
    ),
    Row(
        "an amplified desk microphone",
        station_of(gear("amplified-desk-microphone", "desk"), radio()),
        "its own volume and the radio's gain share the work; neither stands at an end",
        zones={"alc": MIDDLE, "gain": (15, 85)},
    ),
    Row(
        "a desk microphone turned nearly off",
        station_of(gear("amplified-desk-microphone", "desk", turned_up=0.05), radio()),
        "its own volume first: the gain would end at 96, with nothing left for a quieter word",
        asked=("gain",),
        zones={"alc": MIDDLE, "gain": (35, 85)},
    ),
    Row(
        "a compressor before a radio that compresses too",
        station_of(
            dynamic(),
            gear(
                "amplifier",
                "amp",
                expects="microphone",
                gain_db=45,
                gain_low_db=0,
                gain_high_db=80,
                z_in_ohm=2000,
            ),
            gear("compressor", "box", threshold_dbu=-25),
            gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=430),
            radio(clip_dbu=-20),
        ),
        "one of two: the radio's is asked to be off where the box works",
        panel=PanelState(processing="outboard", knobs={"compression": 6.0}),
        zones={"compression": (0, 0.1)},
    ),
    Row(
        "compression for a chat",
        station_of(dynamic(), radio()),
        "3 to 5 dB at peaks, and the gain is read again after it",
        asked=("gain", "compression"),
        zones={"alc": MIDDLE, "compression": (2.7, 5.3)},
    ),
    Row(
        "no compression",
        station_of(dynamic(), radio()),
        "a long chat among friends: none, and the guide does not ask for any",
        panel=PanelState(compression="none", knobs={"compression": 6.0}),
        zones={"compression": (0, 0.3), "alc": MIDDLE},
    ),
    Row(
        "edges left wide open",
        station_of(dynamic(), radio()),
        "100 to 4000 Hz is a neighbour's trouble: about 3 kHz is what SSB gets",
        panel=PanelState(knobs={"low": 50.0, "high": 4000.0}),
        zones={"high": (2500, 3050), "low": (75, 330)},
    ),
    Row(
        "for a weak signal",
        station_of(dynamic(), radio(), purpose="ssb-weak"),
        "lows cut, emphasis near 2 kHz, 300 to 2700 Hz",
        zones={"low": (240, 330), "high": (2550, 2850), "alc": MIDDLE},
    ),
    Row(
        "an electret on an FM set, 25 kHz channels",
        station_of(electret(), radio(**BIASED), purpose="fm-voice"),
        "peaks at four fifths of 5 kHz and never over it",
        zones={"deviation": (3.5, 5.0)},
    ),
    Row(
        "the same in 12.5 kHz channels",
        station_of(electret(), radio(**BIASED), purpose="fm-voice"),
        "half of everything; the trimmer comes down, the gain is not the way",
        panel=PanelState(system="narrow"),
        zones={"deviation": (1.7, 2.5)},
    ),
    Row(
        "a quiet dynamic on FM",
        station_of(dynamic(), radio(), purpose="fm-voice"),
        "gain up until the limiter is touched on peaks",
        panel=PanelState(knobs={"gain": 10.0}),
        asked=("limiter",),
        zones={"deviation": (3.5, 5.0)},
    ),
    Row(
        "a dynamic on AM",
        station_of(dynamic(), radio(), purpose="am-voice"),
        "negative peaks over 80 % and short of 100",
        zones={"down": (78, 97)},
    ),
    Row(
        "AM much too loud",
        station_of(dynamic(), radio(), purpose="am-voice"),
        "the carrier is cut off: down first",
        panel=PanelState(knobs={"gain": 100.0}),
        zones={"down": (78, 97)},
    ),
    Row(
        "a laptop on a data socket, weak-signal data",
        station_of(gear("line-source", "pc", **LAPTOP), data(), purpose="data-weak"),
        "no ALC, no compression, tone at 1.5 kHz or more; the level is the computer's",
        panel=PanelState(knobs={"compression": 6.0}),
        zones={"alc": (0, 0.01)},
        never=("gain", "distance"),
    ),
    Row(
        "a laptop on a microphone socket, weak-signal data",
        station_of(
            gear("line-source", "pc", **LAPTOP),
            gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=47),
            radio(),
            purpose="data-weak",
        ),
        "through a pad it is a quiet microphone; no ALC all the same",
        zones={"alc": (0, 0.01)},
    ),
    Row(
        "packet in 25 kHz channels",
        station_of(gear("line-source", "pc", **LAPTOP), data(), purpose="packet"),
        "3.0 to 3.5 kHz on the tone that deviates most",
        zones={"deviation": (2.95, 3.55)},
    ),
    Row(
        "packet in 12.5 kHz channels",
        station_of(gear("line-source", "pc", **LAPTOP), data(), purpose="packet"),
        "half of that",
        panel=PanelState(system="narrow"),
        zones={"deviation": (1.45, 1.8)},
    ),
    Row(
        "a voice on a data socket without a gain",
        station_of(
            gear("amplified-desk-microphone", "desk"),
            data(window_low_dbu=-30, window_high_dbu=-10),
        ),
        "no gain in this path: its own volume, or nothing; not a knob that is not there",
        right=False,
        zones={"compression": (0, 0.1)},
        says="no gain control",
    ),
    Row(
        "a mixer with its own safety earth",
        station_of(
            dynamic(),
            gear("mixer-strip", "mixer", gain_db=40, supply="safety-earth"),
            gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100),
            gear("cable", "lead", length_m=5),
            radio(supply="safety-earth"),
        ),
        "a loop of two earths hums over its lead: it is opened before the set is set",
        first="earth-loop",
        zones={"alc": MIDDLE},
    ),
)
