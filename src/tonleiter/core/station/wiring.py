"""What hands decide about a build: where a wire is soldered, its colour, the plug, the switch.

It belongs to a variant of a chain. What is not said here follows from the chain and the pinouts;
what is said of an end or a wire that the chain has no more stays, and is named.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BeforeValidator, Field
from pydantic_core import PydanticCustomError

from tonleiter.core.gear.base import Name
from tonleiter.core.gear.figure import Metres, Volts, typical
from tonleiter.core.station.shells import Shell
from tonleiter.core.station.value import Value
from tonleiter.core.words import quoted

MOST_MADE, MOST_CORES = 400, 64

# a wire of the sound, or of the transmit line
WireLeg = Literal["hot", "cold", "screen", "transmit", "transmit-ground"]
TransmitWay = Literal[
    "microphone",
    "foot-switch",
    "push-button",
    "toggle",
    "radio",
    "vox",
    "serial-transistor",
    "serial-opto",
    "serial-relay",
    "interface-vox",
]

# switches that can stand beside another one
SecondWay = Literal["foot-switch", "push-button", "toggle"]

# colours of insulation by their names (IEC 60757); a wire of two has both, with a stroke between
COLOUR_WORDS = (
    "white",
    "yellow",
    "red",
    "black",
    "green",
    "blue",
    "brown",
    "orange",
    "grey",
    "violet",
    "pink",
    "turquoise",
    "bare",
    "bare braid",
    "any",
)


def _colour(raw: str) -> str:
    word = " ".join(raw.lower().split())
    halves = [half.strip() for half in word.split("/")]
    if len(halves) > 2 or any(half not in COLOUR_WORDS for half in halves):
        raise PydanticCustomError(
            "colour",
            "{typed} is no colour's word; known: {known}, or two with a stroke (white/blue)",
            {"typed": quoted(raw), "known": ", ".join(COLOUR_WORDS)},
        )
    return "/".join(halves)


Colour = Annotated[Name, AfterValidator(_colour)]


def _two(raw: Any) -> Any:  # noqa: ANN401 - a validator sees anything
    if not isinstance(raw, list | tuple) or len(raw) != 2 or raw[0] == raw[1]:
        raise PydanticCustomError("bridge", "two different contacts are wanted")
    return tuple(raw)


class Landing(Value):
    """A wire that was soldered to another contact than the pinouts say; None: to nothing.

    ``end`` is a connector, as ``box.connector``.
    """

    end: Name
    leg: WireLeg
    contact: Name | None = None


class Bridge(Value):
    """Two contacts of a plug that are joined: by solder, on purpose or not."""

    end: Name
    contacts: Annotated[tuple[Name, Name], BeforeValidator(_two)]


class Plug(Value):
    """The plug that was put on the lead where the box's socket is of another form."""

    end: Name
    shell: Shell


class Dress(Value):
    """A wire's colour and length, as it was cut."""

    wire: Name
    colour: Colour | None = None
    length_m: Metres | None = None


class Wiring(Value):
    """Everything that was decided by hand about one build."""

    landings: tuple[Landing, ...] = Field((), max_length=MOST_MADE)
    bridges: tuple[Bridge, ...] = Field((), max_length=MOST_MADE)
    plugs: tuple[Plug, ...] = Field((), max_length=MOST_MADE)
    dresses: tuple[Dress, ...] = Field((), max_length=MOST_MADE)
    insulated: tuple[Name, ...] = Field((), max_length=MOST_MADE)
    """Live contacts that nothing uses, and that somebody has seen to."""
    transmit: TransmitWay | None = None
    also: SecondWay | None = None
    """A second switch beside the first, in parallel: either keys."""
    switch_place: Literal["away", "beside-capsule"] = "away"
    switch_returns: Literal["own-wire", "audio-ground"] = "own-wire"
    serial_v: Volts = typical(5.0)
    box: Literal["metal", "plastic"] = "metal"
    case_to: Literal["screen", "nothing"] = "screen"
    cores: int | None = Field(None, ge=1, le=MOST_CORES)

    def touches(self, end: str) -> bool:
        """Whether anything at an end is otherwise than its pinout says."""
        ends = {x.end for x in self.landings} | {b.end for b in self.bridges}
        return end in ends or any(p.end == end for p in self.plugs)

    def landing(self, end: str, leg: str) -> Landing | None:
        """Where a wire was put by hand, if it was."""
        return next((x for x in self.landings if (x.end, x.leg) == (end, leg)), None)

    def dress(self, wire: str) -> Dress | None:
        """A wire's colour and length, if they were chosen."""
        return next((d for d in self.dresses if d.wire == wire), None)

    def plug(self, end: str) -> Shell | None:
        """The plug on the lead, where it is not of the socket's own form."""
        return next((p.shell for p in self.plugs if p.end == end), None)


AS_DERIVED = Wiring()
