"""The one family of refusals: one line says what cannot be, where, and what would be accepted.

The application and the commands each catch it at one place.
"""

from __future__ import annotations

from tonleiter.core.words import one_line


class RefusedError(Exception):
    """A refusal for the user. The message is one line, whatever was quoted in it."""

    def __init__(self, message: str) -> None:
        super().__init__(one_line(message))
