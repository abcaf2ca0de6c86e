"""A reading that hangs on several figures at once, as it was typed: of which chain, where, when."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tonleiter.core.gear.base import Id
from tonleiter.core.station.proved import Typed
from tonleiter.core.station.value import Day, Shown, Value

MOST_READINGS = 2_000
# open: at the radio's contact with nothing plugged in; volts and speech: at a stage's input with
# everything plugged in; gain: decibels from the microphone's contacts to there, by a tone; knob:
# where the gain control stands with the meter as it should be; noise: under speech, of a recording
ReadingKind = Literal["open", "volts", "speech", "gain", "knob", "noise"]


class KeptReading(Value):
    """``basis`` is the fingerprint of the chain with its voice: of another one it does not count.

    ``struck`` says why somebody struck it out; then it does not count either.
    """

    id: Id
    chain_id: Id
    variant_id: Id
    basis: str = Field("", max_length=64)
    kind: ReadingKind
    stage: Id | None = None
    typed: Typed
    day: Day
    struck: Shown | None = None
