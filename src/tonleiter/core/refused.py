"""The one family of refusals: one line says what cannot be, where, and what would be accepted.

The application and the commands each catch it at one place.
"""

from __future__ import annotations

from tonleiter.core.words import one_line


class RefusedError(Exception):
    """A refusal for the user. The message is one line, whatever was quoted in it."""

    def __init__(self, message: str) -> None:
        super().__init__(one_line(message))


class GoneError(RefusedError, KeyError):
    """What was asked for by its id is not there, or not any more: a chain, a piece, a person.

    A KeyError for who looks it up, and a refusal for the hand whose question it has outlived.
    """

    __str__ = Exception.__str__
