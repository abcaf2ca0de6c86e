"""What all parts of a station's document are: frozen, and without keys that nobody knows."""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, StringConstraints
from pydantic_core import PydanticCustomError

from tonleiter.core.words import cut, quoted

Day = Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]
Shown = Annotated[str, StringConstraints(min_length=1, max_length=80)]


class Value(BaseModel):
    """An immutable part of the document. Figures are finite."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def but(self, **changes: object) -> Self:
        """A copy with fields replaced and checked. Raises pydantic's ValidationError."""
        fields = {name: getattr(self, name) for name in type(self).model_fields}
        return type(self).model_validate(fields | changes)


def unique(where: str, ids: list[str]) -> None:
    """Refuse an id that is there twice. Raises PydanticCustomError."""
    seen: set[str] = set()
    for i in ids:
        if i in seen:
            raise PydanticCustomError(
                "twice", "{where}: {id} is there twice", {"where": where, "id": quoted(i)}
            )
        seen.add(i)


def known(where: str, wanted: str, among: Collection[str], noun: str) -> None:
    """Refuse an id that is not among those there are. Raises PydanticCustomError."""
    if wanted not in among:
        raise PydanticCustomError(
            "missing_part",
            "{where}: there is no {noun} called {wanted}; known: {known}",
            {
                "where": where,
                "noun": noun,
                "wanted": quoted(wanted),
                "known": cut(", ".join(list(among)[:40]), 300) or "none",
            },
        )
