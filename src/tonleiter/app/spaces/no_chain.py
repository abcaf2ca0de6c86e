"""A station without a chain: what each space says of it, and where one is made."""

from __future__ import annotations

from tonleiter.core.words import sentence

SHOWS_LADDER = "Show its ladder"
MAKES_ONE = f"choose a microphone and a radio in Match (2); “{SHOWS_LADDER}” makes one"


def refuses(to: str) -> str:
    """There is none to ``to`` yet, and what makes one: a refusal in a line."""
    return f"there is no chain to {to} yet: {MAKES_ONE}"


def no_chain(to: str) -> str:
    """The same as the sentence on top of a page."""
    return f"{sentence(refuses(to))}."
