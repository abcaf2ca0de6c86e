"""Where a radio's knobs stand for a chain, and cards of settings that are kept."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field, StringConstraints, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.gear.base import Id, Name
from tonleiter.core.station.value import Value

KnobId = Literal[
    "gain", "compression", "bass", "treble", "low", "high", "power", "deviation", "level", "tone"
]
AlcSchool = Literal["barely", "middle"]
CompressionSchool = Literal["none", "three-to-five", "third", "half"]
ToneSchool = Literal["natural", "communicator"]
ProcessingSchool = Literal["radio", "outboard"]
# what each knob's figure may be, by any set's panel: gain and power in hundredths, hertz, decibels
KNOB_RANGES: dict[KnobId, tuple[float, float]] = {
    "gain": (0.0, 100.0),
    "compression": (0.0, 12.0),
    "bass": (-10.0, 10.0),
    "treble": (-10.0, 10.0),
    "low": (50.0, 500.0),
    "high": (1800.0, 5000.0),
    "power": (1.0, 100.0),
    "deviation": (500.0, 6000.0),
    "level": (-60.0, 0.0),
    "tone": (300.0, 2700.0),
}
assert set(KNOB_RANGES) == set(get_args(KnobId))
MOST_CARDS = 2_000
Shown = Annotated[str, StringConstraints(min_length=1, max_length=80)]


def _in_ranges(knobs: dict[KnobId, float]) -> None:
    for knob, value in knobs.items():
        low, high = KNOB_RANGES[knob]
        if not low <= value <= high:
            raise PydanticCustomError(
                "knob", "{knob} stands at {value}; {low} to {high} is on its scale",
                {"knob": knob, "value": f"{value:g}", "low": f"{low:g}", "high": f"{high:g}"},
            )  # fmt: skip


class PanelState(Value):
    """Knobs that were turned, and the schools that were chosen; the rest stands as it comes."""

    knobs: dict[KnobId, float] = Field(default_factory=dict)
    alc: AlcSchool = "middle"
    compression: CompressionSchool = "three-to-five"
    tone: ToneSchool | None = None
    """None: as the purpose has it."""
    processing: ProcessingSchool = "radio"
    readings: dict[Name, Shown] = Field(default_factory=dict, max_length=40)
    """What the meters of the user's own radio showed, as typed."""

    @model_validator(mode="after")
    def _on_their_scales(self) -> PanelState:
        _in_ranges(self.knobs)
        return self


class SettingsCard(Value):
    """A set of settings: every knob, what the meters showed, and what it was made with.

    ``made_with`` is the fingerprint of the chain: another one means that it was changed since.
    """

    id: Id
    name: Name
    day: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")
    chain: Name
    variant: Name
    purpose: Name
    radio: Name
    microphone: Name
    voice: Name
    distance: Shown
    knobs: dict[KnobId, float]
    meters: dict[Name, Shown] = Field(default_factory=dict, max_length=40)
    schools: dict[Name, Shown] = Field(default_factory=dict, max_length=10)
    chain_id: Id
    made_with: str = Field("", max_length=64)
    note: Shown | None = None

    @model_validator(mode="after")
    def _on_their_scales(self) -> SettingsCard:
        _in_ranges(self.knobs)
        return self
