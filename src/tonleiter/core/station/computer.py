"""A computer's sound as its system has it: which device stands for what, which program uses which.

To the computer a radio's receiver is a microphone and its transmitter a loudspeaker. A system makes
what was plugged in last its default: what it took, and from whom, is kept, so that it can be given
back.
"""

from __future__ import annotations

from typing import Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.gear.base import Id, Name
from tonleiter.core.gear.figure import Decibels, Seconds, typical
from tonleiter.core.station.value import Shown, Value

# what goes out of the computer, and what comes in
Way = Literal["out", "in"]
# what a system asks for by role: its own sounds and programs that choose nothing, and calls
SystemRole = Literal["system-out", "calls-out", "system-in", "calls-in"]
Altering = Literal["enhancements", "automatic-gain", "listen", "system-sounds"]
ROLES: dict[Way, tuple[SystemRole, ...]] = {
    "out": ("system-out", "calls-out"),
    "in": ("system-in", "calls-in"),
}
ALTERING_WORDS: dict[Altering, str] = {
    "enhancements": "enhancements",
    "automatic-gain": "automatic gain",
    "listen": "listen to this device",
    "system-sounds": "system sounds",
}
MOST_OWN, MOST_KEPT = 32, 64


class OwnDevice(Value):
    """A sound device that is built in, or always there."""

    id: Id
    name: Name
    way: Way


USUAL = (
    OwnDevice(id="own-loudspeakers", name="desk loudspeakers", way="out"),
    OwnDevice(id="own-screen", name="screen", way="out"),
    OwnDevice(id="own-desk-microphone", name="desk microphone", way="in"),
    OwnDevice(id="own-webcam", name="webcam", way="in"),
)


class Computer(Value):
    """What its sound settings say. Devices are built in, or boxes of the station at its USB.

    A role that is not named is held by the first device that is built in; a program that chose
    nothing (``program``) follows the default, wherever that goes.
    """

    own: tuple[OwnDevice, ...] = Field(USUAL, max_length=MOST_OWN)
    called: dict[Id, Name] = Field(default_factory=dict, max_length=MOST_KEPT)
    """What the system calls a box, where that is not what the station calls it."""
    unplugged: tuple[Id, ...] = Field((), max_length=MOST_KEPT)
    asleep: tuple[Id, ...] = Field((), max_length=MOST_KEPT)
    """Boxes that are switched off while USB still feeds their converters."""
    roles: dict[SystemRole, Id] = Field(default_factory=dict)
    before: dict[SystemRole, Id] = Field(default_factory=dict)
    """Who had a role before a device that was plugged in took it."""
    taken_at: Shown | None = None
    program: dict[Way, Id] = Field(default_factory=dict)
    """The data program's own choice."""
    altering: tuple[Altering, ...] = ("enhancements", "automatic-gain", "system-sounds")
    """What is switched on of what alters or adds sound."""


class VoiceSwitch(Value):
    """What in an interface keys the transmitter when something is sent (VOX); typical figures.

    It listens to what the computer gives, before the interface's own transmit knob.
    """

    keys_at_db: Decibels = Field(typical(-40.0), title="Its switch keys at, against full scale")
    threshold: Literal["knob", "fixed"] = Field("knob", title="That is set by")
    attack_s: Seconds = Field(typical(0.01), title="Its switch opens in")
    hang_least_s: Seconds = Field(typical(0.05), title="Its hang time, least")
    hang_most_s: Seconds = Field(typical(2.0), title="Its hang time, most")

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.hang_least_s.value >= self.hang_most_s.value:
            raise PydanticCustomError("figure", "its least hang time must be below its most")
        return self
