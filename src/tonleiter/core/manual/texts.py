"""What people wrote for the manual, read from the tables beside this module."""

from __future__ import annotations

from functools import cache
from typing import Any


@cache
def table(name: str) -> dict[str, Any]:
    """A table of texts by its name. Raises FileNotFoundError."""
    # read when a text is wanted: a window stands before that
    import tomllib
    from importlib.resources import files

    found = files("tonleiter.core.manual") / "text" / f"{name}.toml"
    return tomllib.loads(found.read_text("utf-8"))
