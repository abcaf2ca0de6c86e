"""A recording that is kept with a station: where it lies, and what it is of.

Without what it is of it is worth nothing later: what nobody said is missing, and said to be.
"""

from __future__ import annotations

import re
from typing import Literal

from pydantic import Field

from tonleiter.core.gear.base import Id, Name
from tonleiter.core.station.purpose import PurposeId
from tonleiter.core.station.value import Day, Shown, Value

MOST_RECORDINGS = 5_000
FILE_NAME = re.compile(r"^[a-z0-9][a-z0-9-]*\.flac$")
# the way from the transmitter to what recorded it
Taken = Literal[
    "monitor", "second-receiver", "remote-receiver", "friend", "simulated", "simulated-far"
]
TAKEN_WORDS: dict[Taken, str] = {
    "monitor": "the radio's own monitor",
    "second-receiver": "a second receiver beside the dummy load",
    "remote-receiver": "a remote receiver",
    "friend": "a friend on the air",
    "simulated": "simulated, on the dummy load",
    "simulated-far": "simulated, far away",
}


class Recording(Value):
    """Names are those of its day; ids lead to what is there now.

    ``file`` lies in ``recordings/`` beside the station, ``sha256`` is of its content; ``basis`` is
    the fingerprint of the chain with its voice, as a card has it.
    """

    id: Id
    name: Name
    file: str = Field(pattern=FILE_NAME.pattern, max_length=80)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    seconds: float = Field(gt=0, le=7_300)
    rate_hz: int = Field(ge=1_000, le=768_000)
    day: Day
    taken: Taken | None = None
    chain_id: Id | None = None
    variant_id: Id | None = None
    basis: str = Field("", max_length=64)
    chain: Name | None = None
    microphone: Name | None = None
    radio: Name | None = None
    voice: Name | None = None
    purpose: PurposeId | None = None
    distance_mm: float | None = Field(None, gt=0, le=10_000)
    power_w: float | None = Field(None, gt=0, le=100_000)
    card_id: Id | None = None
    slate: Shown | None = None
    """A line with the setting, as it was spoken or typed."""
    slate_s: float = Field(0.0, ge=0, le=600)
    """How much of it at the beginning is that line spoken: it is heard, and not measured."""

    def missing(self) -> tuple[str, ...]:
        """What nobody said, and what a fair comparison asks for."""
        asked = (
            ("taken", "how it was recorded"),
            ("chain", "of which chain it is"),
            ("distance_mm", "from which distance it was spoken"),
            ("power_w", "at which power"),
        )
        return tuple(words for name, words in asked if getattr(self, name) is None)
