"""A card of settings that is kept: every knob, what the meters read, what it was made with."""

from __future__ import annotations

from pydantic import Field, model_validator

from tonleiter.core.gear.base import Id, Name
from tonleiter.core.station.model import Speaks
from tonleiter.core.station.purpose import PurposeId
from tonleiter.core.station.settings import (
    AlcSchool,
    CompressionSchool,
    KnobId,
    MeterId,
    ProcessingSchool,
    ToneSchool,
    on_their_scales,
)
from tonleiter.core.station.value import Day, Shown, Value

MOST_CARDS = 2_000


class Schools(Value):
    """The schools that a card was set by; None where the mode has none."""

    alc: AlcSchool | None = None
    compression: CompressionSchool | None = None
    tone: ToneSchool | None = None
    processing: ProcessingSchool | None = None


class SettingsCard(Value):
    """Settings as they were on a day. Names are those of that day; ids lead to what is there now.

    ``basis`` is the fingerprint of the chain with its voice (``Basis.sound``): another one means
    that the chain was changed since; empty: nobody knows, the card is of an older version.
    ``meters`` are in each meter's own unit, ``said`` what a card of an older version says of them.
    """

    id: Id
    name: Name
    day: Day
    chain_id: Id
    variant_id: Id | None = None
    basis: str = Field("", max_length=64)
    chain: Name
    variant: Name
    radio: Name
    microphone: Name
    voice: Name
    purpose: PurposeId | None = None
    distance_mm: float | None = Field(None, gt=0, le=10_000)
    speaks: Speaks | None = None
    marked_to: float = Field(100.0, gt=0, le=1_000)
    """What is printed at the end of the gain's scale."""
    knobs: dict[KnobId, float]
    meters: dict[MeterId, float] = Field(default_factory=dict)
    said: dict[Name, Shown] = Field(default_factory=dict, max_length=40)
    schools: Schools = Schools()
    note: Shown | None = None

    @model_validator(mode="after")
    def _on_their_scales(self) -> SettingsCard:
        on_their_scales(self.knobs)
        return self
