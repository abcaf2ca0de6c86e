"""Where a radio's knobs stand for a chain: every knob and meter that there is, declared once.

A panel, a dial, a guide's move, a card and a column of a table all take title, ends, step and unit
from here; a set that has less of a scale says so where its panel is made.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.gear.base import Name
from tonleiter.core.station.value import Shown, Value

KnobId = Literal[
    "gain",
    "compression",
    "bass",
    "treble",
    "low",
    "high",
    "power",
    "deviation",
    "level",
    "tone",
    "program",
    "slider",
    "threshold",
    "hang",
    "volume",
    "squelch",
    "receive",
    "record",
]
MeterId = Literal[
    "alc",
    "compression",
    "power",
    "deviation",
    "carrier",
    "limiter",
    "down",
    "up",
    "sidebands",
    "spare",
    "strongest",
    "noise",
]
AlcSchool = Literal["barely", "middle"]
CompressionSchool = Literal["none", "three-to-five", "third", "half"]
ToneSchool = Literal["natural", "communicator"]
ProcessingSchool = Literal["radio", "outboard"]
# channels of 25 kHz, or of 12.5
System = Literal["wide", "narrow"]


@dataclass(frozen=True)
class Knob:
    """What is printed round a knob: its title, ends, where it comes, its step and unit.

    Gain and power are in hundredths of their way; a knob with ``signed`` shows a plus.
    """

    title: str
    low: float
    high: float
    usual: float
    step: float
    unit: str = ""
    signed: bool = False

    def held(self, value: float) -> float:
        """A figure within its ends."""
        return min(max(value, self.low), self.high)


@dataclass(frozen=True)
class Face:
    """What a meter is called, and its unit; its scale is the set's."""

    title: str
    unit: str


KNOBS: dict[KnobId, Knob] = {
    "gain": Knob("microphone gain", 0.0, 100.0, 50.0, 1.0),
    "compression": Knob("compression", 0.0, 12.0, 0.0, 0.5, "dB"),
    "bass": Knob("bass", -10.0, 10.0, 0.0, 0.5, "dB", signed=True),
    "treble": Knob("treble", -10.0, 10.0, 0.0, 0.5, "dB", signed=True),
    "low": Knob("low edge", 50.0, 500.0, 100.0, 10.0, "Hz"),
    "high": Knob("high edge", 1800.0, 5000.0, 2900.0, 10.0, "Hz"),
    "power": Knob("power", 1.0, 100.0, 100.0, 1.0, "%"),
    "deviation": Knob("deviation trimmer", 500.0, 6000.0, 4300.0, 50.0, "Hz"),
    "level": Knob("level from the computer", -60.0, 0.0, 0.0, 0.5, "dB"),
    "tone": Knob("transmit tone", 300.0, 2700.0, 1500.0, 5.0, "Hz"),
    # of the computer and its interface, out: against what the station says that the program sends
    "program": Knob("level in the program", -60.0, 0.0, 0.0, 0.5, "dB"),
    "slider": Knob("system slider", -60.0, 0.0, 0.0, 0.5, "dB"),
    "threshold": Knob("switch keys at", -70.0, 0.0, -40.0, 1.0, "dB"),
    "hang": Knob("hang time", 10.0, 3000.0, 600.0, 10.0, "ms"),
    # and in: against the volume that the station says
    "volume": Knob("radio's volume", -40.0, 20.0, 0.0, 1.0, "dB", signed=True),
    "squelch": Knob("squelch", 0.0, 100.0, 0.0, 1.0),
    "receive": Knob("receive knob", -40.0, 0.0, 0.0, 0.5, "dB"),
    "record": Knob("record slider", -60.0, 0.0, 0.0, 0.5, "dB"),
}
METERS: dict[MeterId, Face] = {
    "alc": Face("ALC", "dB"),
    "compression": Face("compression", "dB"),
    "power": Face("power", "W"),
    "deviation": Face("deviation at peaks", "kHz"),
    "carrier": Face("carrier is down by", "dB"),
    "limiter": Face("limiter", "dB"),
    "down": Face("negative peaks", "%"),
    "up": Face("positive peaks", "%"),
    "sidebands": Face("sidebands to carrier", "%"),
    "spare": Face("switch, to spare", "dB"),
    "strongest": Face("strongest, under full scale", "dB"),
    "noise": Face("noise, under full scale", "dB"),
}
assert set(KNOBS) == set(get_args(KnobId))
assert set(METERS) == set(get_args(MeterId))


def on_their_scales(knobs: dict[KnobId, float]) -> None:
    """Refuse figures that no knob shows. Raises PydanticCustomError."""
    for knob, value in knobs.items():
        low, high = KNOBS[knob].low, KNOBS[knob].high
        if not low <= value <= high:
            raise PydanticCustomError(
                "knob",
                "{knob} stands at {value}; {low} to {high} is on its scale",
                {"knob": knob, "value": f"{value:g}", "low": f"{low:g}", "high": f"{high:g}"},
            )


class Seen(Value):
    """What a meter of the user's own radio read, in its unit, while a knob stood somewhere."""

    meter: MeterId
    read: float
    knob: KnobId
    at: float


Shelf = Annotated[float, Field(ge=-10.0, le=10.0)]


class PanelState(Value):
    """Knobs that were turned, and the schools that were chosen; the rest stands as it comes."""

    knobs: dict[KnobId, float] = Field(default_factory=dict)
    alc: AlcSchool = "middle"
    compression: CompressionSchool = "three-to-five"
    tone: ToneSchool | None = None
    """None: as the purpose has it."""
    shelves_db: tuple[Shelf, Shelf] | None = None
    """Bass and treble found by trying for this voice; None: what is usual for such a voice."""
    processing: ProcessingSchool = "radio"
    system: System = "wide"
    """Of FM: chosen by the person, never guessed from where a trimmer stands."""
    readings: dict[Name, Shown] = Field(default_factory=dict, max_length=40)
    """What the meters of the user's own radio showed, as typed."""
    read_of: str = Field("", max_length=64)
    """The chain with its voice (``Basis.sound``) that they were read of; empty: nobody knows."""
    seen: tuple[Seen, ...] = Field((), max_length=8)
    """What they read before the knobs were turned last."""

    @model_validator(mode="after")
    def _on_their_scales(self) -> PanelState:
        on_their_scales(self.knobs)
        return self
