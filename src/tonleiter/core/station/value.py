"""What all parts of a station's document are: frozen, and without keys that nobody knows."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """An immutable part of the document."""

    model_config = ConfigDict(frozen=True, extra="forbid")
