"""Why nothing can be heard or recorded here, and what would help, in one line."""

from __future__ import annotations

from importlib.util import find_spec

NO_EXTRA = (
    "sound needs the extra of this program that plays and records: install tonleiter[audio]"
    " (on Debian the package tonleiter-sound), and start it again"
)
NO_SERVER = "the system has no sound devices: is its sound server running?"


def why_silent() -> str:
    """What is missing: the extra, or a device."""
    return NO_SERVER if find_spec("PySide6.QtMultimedia") is not None else NO_EXTRA
