"""What usually stands behind a word of a report, each with the test that would confirm it.

A bench hand's table: how often it is so (in parts of what is usual for that word), what to do to
see it, how long that takes, where in the application it is done. What the chain itself is known for
weighs more.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.station.settings import KnobId

Place = Literal["ladder", "wire", "prove", "set", "listen", "gear"]


@dataclass(frozen=True)
class Usual:
    """``knob`` with ``above`` or ``below``: a knob of the panel that would explain it by itself."""

    says: str
    often: float
    test: str
    minutes: int
    where: Place
    knob: KnobId | None = None
    above: float | None = None
    below: float | None = None


def _knob(
    says: str, often: float, test: str, knob: KnobId, above: float | None = None,
    below: float | None = None,
) -> Usual:  # fmt: skip
    return Usual(says, often, test, 2, "set", knob, above, below)


_RF = Usual("radio frequency gets into the audio", 2.0,
            "Into a dummy load, at a tenth of the power: is it gone?", 5, "wire")  # fmt: skip
_PINNED = Usual("the level control is pinned", 3.0,
                "Does the ALC meter stand beyond its zone while you speak?", 2, "set")  # fmt: skip
_ROOM = Usual("the room: a fan, hard walls", 2.0,
              "Switch the fan off, hang a coat behind you: is it better?", 3, "listen")  # fmt: skip
_TWICE = Usual("compressed twice, or far too hard", 3.0,
               "Switch every compressor but one off: is it gone?", 3, "ladder")  # fmt: skip
_LEVEL = Usual("too little comes in before a gain that stands high", 3.0,
               "That gain down, the one before it up: is it better?", 5, "ladder")  # fmt: skip
_PIEZO = Usual("a piezo into too low a load", 2.0, "Into an input of a megohm: is it fuller?", 5,
               "ladder")  # fmt: skip

USUAL: Mapping[str, tuple[Usual, ...]] = {
    "muffled": (
        Usual("foam or a small hole before the capsule", 3.0,
              "Speak into the capsule outside its case: is it clear?", 5, "gear"),
        _knob("treble turned down", 2.0, "Turn treble to the middle: is it clear?", "treble",
              below=-1.0),
        _knob("the transmit filter is narrow", 2.0, "Widen its high edge to 2.9 kHz: is it clear?",
              "high", below=2500.0),
        Usual("a long lead at a high source", 1.0, "With a lead of a metre: is it clear?", 5,
              "ladder"),
    ),
    "tinny": (
        _knob("bass turned down, or the low edge high", 3.0,
              "Turn bass to the middle and the low edge to 100 Hz: is it fuller?", "low",
              above=220.0),
        Usual("a coupling capacitor that is too small", 2.0,
              "A larger one beside it, held with clips: is it fuller?", 10, "prove"),
        _PIEZO,
    ),
    "thin": (
        _knob("the low edge stands high", 2.0, "Turn it to 100 Hz: is it fuller?", "low",
              above=220.0),
        _knob("bass turned down", 2.0, "Turn bass to the middle: is it fuller?", "bass",
              below=-2.0),
        Usual("a coupling capacitor that is too small", 2.0,
              "A larger one beside it, held with clips: is it fuller?", 10, "prove"),
        _PIEZO,
    ),
    "bassy": (
        Usual("too close to a directional capsule", 3.0, "Two hands further off: is it gone?", 1,
              "set"),
        _knob("bass turned up", 2.0, "Turn bass to the middle: is it gone?", "bass", above=2.0),
    ),
    "harsh": (
        _knob("treble turned up", 3.0, "Turn treble to the middle: is it gone?", "treble",
              above=2.0),
        Usual("an empty case that rings", 2.0, "Fill it with wadding: is it gone?", 10, "gear"),
        Usual("a stage that clips a little", 2.0, "Speak at half the level: is it gone?", 2,
              "ladder"),
    ),
    "boxy": (
        Usual("the body of a case answers", 3.0,
              "Press a finger of putty between capsule and opening: is it gone?", 10, "gear"),
        _ROOM,
    ),
    "hum": (
        Usual("a loop of two earths", 4.0,
              "Pull the computer's audio lead, then its USB lead: does it go with one?", 3,
              "wire"),
        Usual("a screen that is open at one end", 2.0,
              "Touch the microphone's body: does it become louder or softer?", 1, "wire"),
        Usual("a supply with ripple", 2.0, "From a battery: is it gone?", 5, "gear"),
        Usual("a transformer's field", 1.0, "Turn or move the box by a hand: does it change?", 2,
              "gear"),
    ),
    "buzz": (
        Usual("a computer's USB", 4.0, "Pull the USB lead: is it gone?", 1, "wire"),
        _RF,
    ),
    "hiss": (_LEVEL, Usual("a capsule's own noise", 1.0, "With another microphone: is it gone?", 5,
                           "gear")),
    "noisy": (_ROOM, _TWICE, _LEVEL),
    "quiet": (
        _knob("the microphone gain stands low", 3.0,
              "Turn it up: do peaks reach the ALC's zone?", "gain", below=35.0),
        Usual("too far off", 2.0, "At three fingers: is it loud?", 1, "set"),
        Usual("a level that does not fit the socket", 2.0,
              "Measure it at the socket: is it a tenth of what is wanted?", 10, "ladder"),
        Usual("a battery or a bias that is gone", 2.0, "Measure it under load: is it low?", 5,
              "prove"),
        _knob("the power is turned down", 1.0, "Does the meter reach what the set gives?", "power",
              below=50.0),
    ),
    "loud": (_PINNED, _knob("the microphone gain stands high", 2.0,
                            "Turn it down by a fifth: is it as others?", "gain", above=70.0)),
    "distorted": (
        _PINNED,
        Usual("a first stage without room", 3.0,
              "Gain down by half, at the same distance: is it as rough as before?", 3, "ladder"),
        _RF,
        Usual("a battery or a supply that is low", 1.0, "Measure it under load: is it low?", 5,
              "prove"),
    ),
    "too wide": (
        _PINNED,
        _knob("compression far up", 2.0, "Turn it down to 3 dB: is it gone?", "compression",
              above=7.0),
        Usual("a first stage without room", 2.0,
              "Gain down by half, at the same distance: is it as wide as before?", 3, "ladder"),
    ),
    "squashed": (
        _TWICE,
        _knob("compression far up", 3.0, "Turn it down to 3 dB: is it gone?", "compression",
              above=7.0),
    ),
    "pumping": (_TWICE, _knob("compression far up", 3.0, "Turn it down to 3 dB: is it gone?",
                              "compression", above=7.0), _ROOM),
    "clicks": (
        Usual("a switch beside the capsule", 3.0, "Key by foot: is it gone?", 1, "gear"),
        Usual("a relay, or a cold joint", 2.0, "Move each lead while you listen: does it click?", 5,
              "prove"),
    ),
    "pops": (Usual("breath on the capsule", 5.0, "Speak across it: is it gone?", 1, "set"),),
    "echo": (
        Usual("a loudspeaker that monitors", 3.0, "Turn the monitor off: is it gone?", 1, "set"),
        Usual("a program that hears itself", 2.0, "Close every program but one: is it gone?", 2,
              "set"),
        _ROOM,
    ),
    "off frequency": (
        Usual("the clarifier or the dial", 5.0, "Clarifier off, dial to a whole kilohertz?", 1,
              "set"),
    ),
    "drop-outs": (
        Usual("a computer that has no time", 4.0, "Larger buffers, fewer programs: is it gone?", 3,
              "set"),
        Usual("a lead with a loose core", 2.0, "Move each lead while you listen: is it one?", 5,
              "prove"),
    ),
}  # fmt: skip
