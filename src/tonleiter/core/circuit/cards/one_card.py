"""What all readers of element cards share: where a card stands, its fields, its shape."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from tonleiter.core.circuit.cards.lines import Card
from tonleiter.core.circuit.cards.requests import Requests
from tonleiter.core.circuit.cards.scope import Scope
from tonleiter.core.circuit.elements import GROUND, Element


@dataclass(frozen=True)
class Place:
    """Where cards are being expanded: name prefix, port nodes, scope, depth."""

    scope: Scope
    prefix: str = ""
    ports: dict[str, str] = field(default_factory=dict)
    depth: int = 0

    def node(self, name: str) -> str:
        """The node that a name means here: a port's, the ground, or one of its own."""
        lowered = name.lower()
        if lowered in (GROUND, "gnd"):
            return GROUND
        return self.ports.get(lowered, self.prefix + lowered)

    def name(self, name: str) -> str:
        """The name of an element in the whole circuit."""
        return self.prefix + name.lower()


class UsageError(Exception):
    """The card has too few or too many fields."""


def fields_of(card: Card, low: int, high: int) -> tuple[str, ...]:
    """Fields after the name, checked for their number; a value may be written name=value."""
    fields = tuple(card.tokens[1:])
    if not low <= len(fields) <= high:
        raise UsageError
    return fields


Reader = Callable[[Card, Place, Requests], Element]
