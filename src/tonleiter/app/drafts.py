"""What was typed and could not be taken over: kept until it is right, or Escape drops it.

A field is known by what it is about (a piece and a field of it), so that the text is there again
when its panel was built anew, or stands in another space.
"""

from __future__ import annotations

from dataclasses import dataclass

Key = tuple[str, ...]


@dataclass(frozen=True)
class Draft:
    """A text, the field's name for people, and why it was refused."""

    text: str
    name: str
    why: str


class Drafts:
    """Drafts by field."""

    def __init__(self) -> None:
        self._of: dict[Key, Draft] = {}

    def keep(self, key: Key, draft: Draft) -> None:
        """Keep a refused text."""
        self._of[key] = draft

    def drop(self, key: Key) -> None:
        """It was taken over, or given up."""
        self._of.pop(key, None)

    def get(self, key: Key) -> Draft | None:
        """What was typed into a field and refused."""
        return self._of.get(key)

    def forget_all(self) -> None:
        """Give everything up."""
        self._of.clear()

    @property
    def words(self) -> str:
        """What is not taken over and why, in one line; empty if nothing is."""
        if not self._of:
            return ""
        first, *more = self._of.values()
        rest = f" (and {len(more)} more)" if more else ""
        return f"{first.name}: {first.why}{rest}"
