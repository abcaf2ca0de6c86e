"""What a source carries: how far its peaks stand over its level, and where its power lies.

Speech: ITU-T P.50 spectrum, peaks 12 to 15 dB over the active level (14 here). A sine's peak is
3.01 dB over its RMS; two equal tones add up to twice the peak of one, 6.02 dB over theirs. Data
like noise 9 to 10 dB after its filter; music 12 to 18 dB.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal, get_args

SignalId = Literal["speech", "tone", "two-tone", "noise-like", "music"]
Carries = Literal["by-purpose", "speech", "tone", "two-tone", "noise-like", "music"]

SINE_CREST_DB = 20 * math.log10(math.sqrt(2.0))


@dataclass(frozen=True)
class Signal:
    """A kind of signal. ``noun`` follows a level: “0.9 mV of speech”."""

    id: SignalId
    noun: str
    crest_db: float


SIGNALS: dict[SignalId, Signal] = {
    s.id: s
    for s in (
        Signal("speech", "speech", 14.0),
        Signal("tone", "tone", SINE_CREST_DB),
        Signal("two-tone", "two-tone signal", 2 * SINE_CREST_DB),
        Signal("noise-like", "data", 9.5),
        Signal("music", "music", 15.0),
    )
}
assert set(SIGNALS) == set(get_args(SignalId))
SPEECH = SIGNALS["speech"]


def clear_db(ceiling_dbu: float, peak_dbu: float) -> float:
    """How far peaks stay under a ceiling that is a sine's RMS: its own peaks stand 3 dB higher."""
    return ceiling_dbu + SINE_CREST_DB - peak_dbu
