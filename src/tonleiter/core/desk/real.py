"""A real computer's sound devices as its system lists them: what happened, and the desk of that.

Nothing here asks a system; who does hands over what it saw. What no program can see (which device
another program uses, what a system does to sound) is told by whoever sits there.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from tonleiter.core.desk.devices import Desk, SoundDevice
from tonleiter.core.station.computer import Altering, Computer, SystemRole, Way

# what the page is told that it cannot see
TOLD = ("program", "off")
_ASSUMED: tuple[Altering, ...] = ("enhancements", "automatic-gain", "system-sounds")
_NOT_THERE = "the-radio"


@dataclass(frozen=True)
class Named:
    """A device: what the system knows it by, and what it calls it."""

    id: str
    name: str


@dataclass(frozen=True)
class System:
    """What a system lists: loudspeakers and microphones to it, and the default of each."""

    outputs: tuple[Named, ...] = ()
    inputs: tuple[Named, ...] = ()
    default_out: str | None = None
    default_in: str | None = None

    def listed(self, way: Way) -> tuple[Named, ...]:
        """One way."""
        return self.outputs if way == "out" else self.inputs

    def default(self, way: Way) -> Named | None:
        """Who is the default one way; None: nobody, or one that is not listed."""
        wanted = self.default_out if way == "out" else self.default_in
        return next((d for d in self.listed(way) if d.id == wanted), None)

    def called(self, way: Way, name: str) -> Named | None:
        """The first device of a name."""
        return next((d for d in self.listed(way) if d.name == name), None)


_WORDS: dict[Way, str] = {"out": "loudspeaker", "in": "microphone"}


def new_devices(before: System, now: System) -> tuple[tuple[Way, Named], ...]:
    """What is listed now and was not before."""
    ways: tuple[Way, ...] = ("out", "in")
    return tuple((way, d) for way in ways for d in now.listed(way) if d not in before.listed(way))


def happened(before: System, now: System, radio: Collection[str]) -> tuple[str, ...]:
    """What changed, a sentence each, what harms most first; ``radio`` are the radio's names."""
    said: list[str] = []
    ways: tuple[Way, ...] = ("out", "in")
    for way in ways:
        was, held = before.default(way), now.default(way)
        if held != was and held is not None:
            who = "Your radio" if held.name in radio else f"“{held.name}”"
            said.append(f"{who} has just become the default {_WORDS[way]}.")
        elif held is None and was is not None:
            said.append(f"There is no default {_WORDS[way]} any more.")
    for way, device in new_devices(before, now):
        said.append(f"“{device.name}” is new: a {_WORDS[way]} to the system.")
    for way, device in new_devices(now, before):
        said.append(f"“{device.name}” is gone from the {_WORDS[way]}s.")
    return tuple(sorted(said, key=lambda s: not s.startswith("Your radio")))


def real_desk(
    system: System, desk: Desk, radio_names: dict[Way, str], told: Collection[str]
) -> Desk:
    """The desk of a real system in front of the station's chain.

    ``desk`` is the station's own, for its computer and its radio's name; ``radio_names`` what the
    system calls the radio's devices, as far as somebody said so; ``told`` the steps that somebody
    who sits there has done and no program can see.
    """
    found: list[SoundDevice] = []
    mine: dict[Way, str] = {}
    ways: tuple[Way, ...] = ("out", "in")
    for way in ways:
        radio = system.called(way, radio_names.get(way, ""))
        for device in system.listed(way):
            key = f"{way}:{device.id}"
            is_radio = device == radio
            if is_radio:
                mine[way] = key
            found.append(SoundDevice(key, device.name, way == "out", way == "in", box=is_radio))
    out = mine.get("out", _NOT_THERE)
    if out == _NOT_THERE:
        called = radio_names.get("out", desk.sends.called)
        found.append(SoundDevice(_NOT_THERE, called, True, True, box=True, plugged=False))
    roles: dict[SystemRole, str] = {}
    for way in ways:
        if (held := system.default(way)) is not None:
            system_role: SystemRole = "system-out" if way == "out" else "system-in"
            calls_role: SystemRole = "calls-out" if way == "out" else "calls-in"
            roles[system_role] = roles[calls_role] = f"{way}:{held.id}"
    program: dict[Way, str] = {}
    if "program" in told:
        program["out"] = out
        if "in" in mine:
            program["in"] = mine["in"]
    state = Computer.model_construct(
        own=(),
        called={},
        unplugged=(),
        asleep=(),
        roles=roles,
        before={},
        taken_at=None,
        program=program,
        altering=() if "off" in told else _ASSUMED,
    )
    return Desk(desk.computer, state, tuple(found), out, mine.get("in"), desk.radio)
