"""What a chain is for: the band it should carry and how deep its bass should go."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

PurposeId = Literal["ssb-chat", "ssb-weak", "fm-voice", "am-voice"]


@dataclass(frozen=True)
class Purpose:
    """Targets of one use of the radio."""

    id: PurposeId
    title: str
    band_hz: tuple[float, float]
    bass_corner_at_most_hz: float


PURPOSES: dict[PurposeId, Purpose] = {
    p.id: p
    for p in (
        Purpose("ssb-chat", "a long chat on SSB", (100.0, 3000.0), 150.0),
        Purpose("ssb-weak", "weak signals on SSB", (300.0, 2700.0), 300.0),
        Purpose("fm-voice", "voice on FM", (300.0, 3000.0), 300.0),
        Purpose("am-voice", "voice on AM", (100.0, 4000.0), 150.0),
    )
}
assert set(PURPOSES) == set(get_args(PurposeId))
