"""What a chain is for: the band it should carry, how deep its bass goes, how clean it must be."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from tonleiter.core.gear.signals import SignalId

PurposeId = Literal["ssb-chat", "ssb-weak", "fm-voice", "am-voice", "packet", "data-weak"]


@dataclass(frozen=True)
class Purpose:
    """Targets of one use of the radio.

    ``aim_db`` is where in an input's window the level belongs, against its middle: where nothing
    may work the automatic level control, below it. ``signal`` is what goes through.
    ``presence_db`` is the response wanted at 2 kHz against 500 Hz: none for a natural voice, some
    for being understood through noise.
    """

    id: PurposeId
    title: str
    band_hz: tuple[float, float]
    bass_corner_at_most_hz: float
    treble_corner_at_least_hz: float
    snr_at_least_db: float
    spoken: bool = True
    signal: SignalId = "speech"
    aim_db: float = 0.0
    presence_db: float = 0.0


_ALL = (
    Purpose("ssb-chat", "a long chat on SSB", (100.0, 3000.0), 150.0, 2700.0, 35.0),
    Purpose(
        "ssb-weak", "weak signals on SSB", (300.0, 2700.0), 300.0, 2400.0, 30.0, presence_db=6.0
    ),
    Purpose("fm-voice", "voice on FM", (300.0, 3000.0), 300.0, 2700.0, 35.0),
    Purpose("am-voice", "voice on AM", (100.0, 4000.0), 150.0, 3500.0, 40.0),
    # the two tones of a pair must arrive alike, and nothing may work the level control
    Purpose(
        "packet",
        "packet on FM",
        (1000.0, 2400.0),
        300.0,
        3000.0,
        30.0,
        spoken=False,
        signal="tone",
        aim_db=-1.0,
    ),
    # its modes send one tone at a time, or two: reckoned for two
    Purpose(
        "data-weak",
        "weak-signal data",
        (200.0, 3000.0),
        200.0,
        3000.0,
        40.0,
        spoken=False,
        signal="two-tone",
        aim_db=-2.0,
    ),
)
PURPOSES: dict[PurposeId, Purpose] = {p.id: p for p in _ALL}
assert set(PURPOSES) == set(get_args(PurposeId))
