"""From a file's text to logical lines: title, comments, continuations, tokens."""

from __future__ import annotations

import re
from dataclasses import dataclass

from tonleiter.core.refused import RefusedError
from tonleiter.core.words import quoted

MOST_CHARACTERS = 1_000_000


class CardError(RefusedError):
    """A card cannot be read. ``line`` counts from 1; the message says what would be accepted."""

    def __init__(self, line: int, message: str) -> None:
        super().__init__(f"line {line}: {message}")
        self.line = line


@dataclass(frozen=True)
class Card:
    """One logical line: where it starts, its text without comments, its tokens."""

    line: int
    text: str
    tokens: tuple[str, ...]

    @property
    def head(self) -> str:
        """First token, lower case."""
        return self.tokens[0].lower()

    def error(self, message: str) -> CardError:
        """An error at this card."""
        return CardError(self.line, message)


_TOKEN = re.compile(r"\{[^}]*\}|'[^']*'|[^\s(),=]+(?:\s*=\s*(?:\{[^}]*\}|'[^']*'|[^\s(),=]+))?|=")


def split_cards(text: str) -> tuple[str, list[Card]]:
    """Title and cards of a netlist. The first line is always the title.

    Raises CardError for a continuation with nothing before it.
    """
    if len(text) > MOST_CHARACTERS:
        raise CardError(1, f"more than {MOST_CHARACTERS} characters, which is the most read")
    lines = text.splitlines()
    title = lines[0].strip() if lines else ""
    joined: list[tuple[int, str]] = []
    for number, raw in enumerate(lines[1:], start=2):
        body = raw.split(";", 1)[0].strip()
        if not body or body.startswith("*"):
            continue
        if body.startswith("+"):
            if not joined:
                raise CardError(number, "a continuation (+) with no card before it")
            start, before = joined[-1]
            joined[-1] = (start, f"{before} {body[1:].strip()}")
        else:
            joined.append((number, body))
    return title, [Card(n, body, _tokens(n, body)) for n, body in joined]


def _tokens(line: int, body: str) -> tuple[str, ...]:
    tokens = tuple(re.sub(r"\s*=\s*", "=", t) for t in _TOKEN.findall(body))
    if not tokens:
        raise CardError(line, f"{quoted(body)} is not a card")
    return tokens
