"""Where practitioners disagree: each school by its aim. What a school costs is measured, not said.

ALC by its meter's scale; everyone agrees that pinned at its end is distortion. Compression by what
its meter shows at peaks. Tone by the edges of the band and two shelves.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.guide.controls import Zone
from tonleiter.core.sound.voices import Pitch
from tonleiter.core.station.purpose import PurposeId
from tonleiter.core.station.settings import (
    AlcSchool,
    CompressionSchool,
    PanelState,
    ProcessingSchool,
    System,
    ToneSchool,
)

# of the level control's scale
ALC: dict[AlcSchool, Zone] = {"barely": (0.08, 0.25), "middle": (0.45, 0.67)}
ALC_WORDS: dict[AlcSchool, str] = {
    "barely": "barely moving",
    "middle": "middle to two thirds",
}
# the compressor's meter at peaks, in dB; its range is twelve
COMPRESSION: dict[CompressionSchool, Zone] = {
    "none": (0.0, 0.0),
    "three-to-five": (3.0, 5.0),
    "third": (3.3, 4.7),
    "half": (5.2, 6.8),
}
COMPRESSION_WORDS: dict[CompressionSchool, str] = {
    "none": "none",
    "three-to-five": "3 to 5 dB",
    "third": "a third",
    "half": "half",
}
PROCESSING_WORDS: dict[ProcessingSchool, str] = {
    "radio": "the radio",
    "outboard": "a box before it",
}
TONE_WORDS: dict[ToneSchool, str] = {"natural": "natural", "communicator": "communicator"}
SYSTEM_WORDS: dict[System, str] = {"wide": "5 kHz, wide", "narrow": "2.5 kHz, narrow"}
# a meter past this share of its scale is pinned
PINNED = 0.8


@dataclass(frozen=True)
class Offered:
    """A choice on a panel: its field there, its words by token, the token that holds.

    ``against`` says what the cost of a choice is told against, ``called`` what is called so there
    where that is not its title.
    """

    kind: str
    title: str
    words: tuple[tuple[str, str], ...]
    chosen: str
    against: str = ""
    called: str = ""


@dataclass(frozen=True)
class ToneAim:
    """Edges of the band and shelves for a voice, each as a zone."""

    low_hz: Zone
    high_hz: Zone
    bass_db: Zone
    treble_db: Zone


# a deep voice wants less bass and a little treble, a high one the reverse
_SHELVES: dict[Pitch, tuple[float, float]] = {
    "deep": (-3.0, 2.0),
    "middle": (-1.0, 1.0),
    "high": (2.0, -1.0),
}
_EDGES: dict[ToneSchool, tuple[Zone, Zone, float, float]] = {
    "natural": ((80.0, 150.0), (2700.0, 3000.0), 0.0, 0.0),
    "communicator": ((250.0, 320.0), (2600.0, 2800.0), -2.0, 3.0),
}
WIDE_DB = 1.5


def tone_aim(
    school: ToneSchool, pitch: Pitch, tried_db: tuple[float, float] | None = None
) -> ToneAim:
    """Where edges and shelves belong; what was found by trying stands before what is usual."""
    low, high, bass, treble = _EDGES[school]
    b, t = _SHELVES[pitch]
    b, t = tried_db or (b + bass, t + treble)
    return ToneAim(low, high, (b - WIDE_DB, b + WIDE_DB), (t - WIDE_DB, t + WIDE_DB))


def tone_school(panel: PanelState, purpose: PurposeId) -> ToneSchool:
    """The one that was chosen; else a communicator's where signals are weak, or a natural one."""
    return panel.tone or ("communicator" if purpose == "ssb-weak" else "natural")
