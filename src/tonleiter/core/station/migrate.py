"""Bringing the data of older versions up to the current one, a version at a time."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from tonleiter.core.refused import RefusedError
from tonleiter.core.station.to_largest import never_over_the_largest
from tonleiter.core.station.to_records import apart
from tonleiter.core.station.tokens import station_with_tokens


class MigrationError(RefusedError):
    """A version that cannot be brought up to date any more."""


Migration = Callable[[dict[str, Any]], dict[str, Any]]

# version it starts from -> function that returns the data of the next version
MIGRATIONS: dict[int, Migration] = {
    # version 2 added a drawer, guests, usual distances and more kinds of gear; all have defaults
    1: lambda data: data,
    2: station_with_tokens,
    # version 4 added boxes and leads between them; a piece without a box becomes one when checked
    3: lambda data: data,
    # version 5 added what hands decide about the wiring of a variant, and what stands on contacts
    4: lambda data: data,
    # version 6 keeps readings and cards in records of their own, beside the station
    5: apart,
    # version 7 added a computer's sound settings, an interface's switch, and their knobs
    6: lambda data: data,
    # version 8 added instruments, and of which chain an own radio's readings are
    7: never_over_the_largest,
}


def migrate(
    data: dict[str, Any], current: int, migrations: Mapping[int, Migration] = MIGRATIONS
) -> dict[str, Any]:
    """Apply migrations until ``data`` is of version ``current``.

    Raises MigrationError if one lacks.
    """
    while (version := data["version"]) < current:
        if version not in migrations:
            raise MigrationError(
                f"version {version} is too old; from {min(migrations, default=current)}"
            )
        data = migrations[version](data) | {"version": version + 1}
    return data
