"""What hands and the system do to a computer's sound settings: each an edit of the station.

Plugging in takes defaults, as systems do: the newest device becomes loudspeaker and microphone of
everything that chose nothing. What was taken from whom is kept.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from tonleiter.core.desk.devices import OUT_OF, boxes_at, devices_of, settings_of
from tonleiter.core.refused import RefusedError
from tonleiter.core.station import boxes
from tonleiter.core.station.computer import ALTERING_WORDS, Altering, Computer, SystemRole, Way
from tonleiter.core.station.devices import Device
from tonleiter.core.station.model import Station


class DeskEditError(RefusedError):
    """A change of sound settings that makes no sense; one line says why."""


def _changed(
    station: Station, computer_id: str, change: Callable[[Computer, Device], Computer]
) -> Station:
    computer = station.device_by_id.get(computer_id)
    if computer is None:
        raise DeskEditError("that computer is not in the station any more")
    made = change(settings_of(station, computer), computer)
    return boxes.change_device(station, computer_id, computer=made)


def plug_in(station: Station, computer_id: str, box_id: str, at: str | None = None) -> Station:
    """Plug a box's USB lead in: the system takes its defaults to it. ``at`` is the time of day."""

    def change(state: Computer, computer: Device) -> Computer:
        box = next((b for b in boxes_at(station, computer) if b.id == box_id), None)
        if box is None:
            raise DeskEditError("that box has no USB lead to this computer")
        rest = tuple(b for b in state.unplugged if b != box_id)
        plugged = boxes.change_device(station, computer_id, computer=state.but(unplugged=rest))
        return _taken(plugged, computer_id, box_id, at)

    return _changed(station, computer_id, change)


def _taken(station: Station, computer_id: str, box_id: str, at: str | None) -> Computer:
    """Its settings with every default that a box can serve taken by it."""
    computer = station.device_by_id[computer_id]
    state = settings_of(station, computer)
    known = {d.id: d for d in devices_of(station, computer)}
    roles, before = dict(state.roles), dict(state.before)
    for role, way in OUT_OF.items():
        if not known[box_id].goes(way):
            continue
        held = state.roles.get(role) or next(
            (d.id for d in known.values() if d.plugged and d.goes(way) and d.id != box_id), None
        )
        if held != box_id and held is not None:
            before[role] = held
        roles[role] = box_id
    return state.but(roles=roles, before=before, taken_at=at)


def pull_out(station: Station, computer_id: str, box_id: str) -> Station:
    """Pull a box's USB lead: what it held falls back to who had it before."""

    def change(state: Computer, computer: Device) -> Computer:
        if box_id not in {b.id for b in boxes_at(station, computer)}:
            raise DeskEditError("that box has no USB lead to this computer")
        roles = {
            role: state.before.get(role, "") if held == box_id else held
            for role, held in state.roles.items()
        }
        return state.but(
            unplugged=(*(b for b in state.unplugged if b != box_id), box_id),
            roles={role: held for role, held in roles.items() if held},
        )

    return _changed(station, computer_id, change)


def switch_box(station: Station, computer_id: str, box_id: str, on: bool) -> Station:
    """Switch a box on or off; its converters stay in the list, fed by USB."""

    def change(state: Computer, _: Device) -> Computer:
        rest = tuple(b for b in state.asleep if b != box_id)
        return state.but(asleep=rest if on else (*rest, box_id))

    return _changed(station, computer_id, change)


def give(
    station: Station, computer_id: str, roles: Iterable[SystemRole], device_id: str | None = None
) -> Station:
    """Give roles to a device; to None: back to who had them before, or what is built in."""
    wanted = tuple(roles)

    def change(state: Computer, computer: Device) -> Computer:
        own = {d.id: d.way for d in state.own}
        made = dict(state.roles)
        for role in wanted:
            to = device_id
            if to is None:
                had = state.before.get(role)
                first = next((i for i, way in own.items() if way == OUT_OF[role]), None)
                to = had if had in own and own[had] == OUT_OF[role] else first
            if to is None:
                raise DeskEditError("this computer has no sound device of its own to give it to")
            made[role] = to
        return state.but(
            roles=made, before={k: v for k, v in state.before.items() if k not in wanted}
        )

    return _changed(station, computer_id, change)


def choose(station: Station, computer_id: str, ways: dict[Way, str | None]) -> Station:
    """The devices that the data program names itself; None: it follows the default."""

    def change(state: Computer, _: Device) -> Computer:
        made = {**state.program, **ways}
        return state.but(program={k: v for k, v in made.items() if v is not None})

    return _changed(station, computer_id, change)


def alter(station: Station, computer_id: str, on: dict[Altering, bool]) -> Station:
    """Switch what alters or adds sound on or off."""

    def change(state: Computer, _: Device) -> Computer:
        kept = [a for a in ALTERING_WORDS if on.get(a, a in state.altering)]
        return state.but(altering=tuple(kept))

    return _changed(station, computer_id, change)


def call(station: Station, computer_id: str, device_id: str, name: str) -> Station:
    """Give a box another name in the system's list."""
    return _changed(
        station, computer_id, lambda state, _: state.but(called={**state.called, device_id: name})
    )
