"""Sets of things that are joined, such as nodes by wires: who is joined to whom, step by step."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Generic, TypeVar

T = TypeVar("T", bound=Hashable)


class Joined(Generic[T]):
    """Disjoint sets with a representative each (Galler and Fischer, Comm. ACM 7, 1964).

    Small and without an import that costs: the ones in large libraries bring those along.
    """

    def __init__(self) -> None:
        self._parent: dict[T, T] = {}

    def of(self, thing: T) -> T:
        """The representative of everything that a thing is joined to; itself at first."""
        parent = self._parent
        parent.setdefault(thing, thing)
        while parent[thing] != thing:
            parent[thing] = parent[parent[thing]]
            thing = parent[thing]
        return thing

    def join(self, one: T, other: T) -> None:
        """Join two, and with them all that each was joined to."""
        self._parent[self.of(one)] = self.of(other)

    def are(self, one: T, other: T) -> bool:
        """Whether two are joined."""
        return self.of(one) == self.of(other)
