"""The parts library: generic entries that a station may copy from."""

from __future__ import annotations

import json
from functools import cache
from importlib.resources import files

from pydantic import TypeAdapter

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.catalogue import AnyGear

_LIST: TypeAdapter[list[AnyGear]] = TypeAdapter(list[AnyGear])


def parts_library() -> dict[str, Gear]:
    """All entries by id, from the JSON files in ``tonleiter/library``."""
    return dict(_read())


@cache
def _read() -> dict[str, Gear]:
    entries: dict[str, Gear] = {}
    for file in sorted((files("tonleiter") / "library").iterdir(), key=lambda f: f.name):
        if file.name.endswith(".json"):
            for gear in _LIST.validate_python(json.loads(file.read_text("utf-8"))):
                entries[gear.id] = gear
    return entries
