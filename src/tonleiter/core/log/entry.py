"""One entry of the log: what it is about, what was said or done, what belongs to it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated, Literal

from pydantic import Field, field_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.gear.base import Id, Name
from tonleiter.core.log.photos import PHOTO_NAME
from tonleiter.core.log.report_words import KINDNESS, kindness
from tonleiter.core.once import cached_property
from tonleiter.core.station.value import Value

EntryKind = Literal[
    "report", "change", "card", "recording", "measurement", "trial", "build", "purchase", "note"
]
KIND_WORDS: dict[EntryKind, str] = {
    "report": "report",
    "change": "something was changed",
    "card": "settings card",
    "recording": "recording",
    "measurement": "measurement",
    "trial": "trial",
    "build": "build",
    "purchase": "purchase",
    "note": "note",
}
# longer than any line that somebody types while the other one still talks
Line = Annotated[str, Field(max_length=400)]
# a word or two that belong together: what is looked for by it
Tag = Annotated[str, Field(pattern=r"^[^,;#\s](?:[^,;#\n]{0,30}[^,;#\s])?$")]
Photo = Annotated[str, Field(pattern=PHOTO_NAME.pattern)]
Call = Annotated[str, Field(pattern=r"^[A-Z0-9/]{2,16}$")]


class LogEntry(Value):
    """``at`` is local time with its zone. ``changed`` are phrases of what differs.

    ``number`` is given by the store, below zero for what is kept elsewhere. What is ``sealed`` is
    never changed, only followed by another one that says which it ``replaces``.
    """

    number: int = 0
    at: str = Field(max_length=40)
    kind: EntryKind
    title: Line = ""
    text: Annotated[str, Field(max_length=4_000)] = ""
    chain_id: Id | None = None
    chain: Name | None = None
    microphone: Name | None = None
    radio: Name | None = None
    who: Call | None = None
    band: Annotated[str, Field(max_length=16)] | None = None
    strength: int | None = Field(None, ge=1, le=9)
    readability: int | None = Field(None, ge=1, le=5)
    words: tuple[Name, ...] = Field((), max_length=12)
    changed: tuple[Line, ...] = Field((), max_length=40)
    way_back: Annotated[str, Field(max_length=1_000)] = ""
    card_id: Id | None = None
    recording_id: Id | None = None
    tags: tuple[Tag, ...] = Field((), max_length=12)
    photos: tuple[Photo, ...] = Field((), max_length=12)
    sealed: bool = False
    replaces: int | None = Field(None, ge=1)
    other: dict[str, str] = Field(default_factory=dict, max_length=200)
    """Fields of other programs that were read with it, written back as they came."""

    @field_validator("at")
    @classmethod
    def _with_its_zone(cls, at: str) -> str:
        try:
            when = datetime.fromisoformat(at)
        except ValueError:
            when = None
        if when is None or when.tzinfo is None:
            raise PydanticCustomError(
                "at", "a time with its zone is wanted, 2026-05-14T20:15+02:00"
            )
        return at

    @field_validator("words")
    @classmethod
    def _known_words(cls, words: tuple[str, ...]) -> tuple[str, ...]:
        for word in words:
            if word not in KINDNESS:
                raise PydanticCustomError("word", f"“{word}” is none of the words of reports")
        return words

    @cached_property
    def when(self) -> datetime:
        """Its time."""
        return datetime.fromisoformat(self.at)

    @cached_property
    def utc(self) -> datetime:
        """The same in universal time."""
        return self.when.astimezone(UTC)

    @cached_property
    def kindness(self) -> float | None:
        """Of a report: how kind it is."""
        return kindness(self.words) if self.kind == "report" else None

    @property
    def signal(self) -> str:
        """Readability and strength as they are given, 59; empty where nobody gave them."""
        return "".join(str(x) for x in (self.readability, self.strength) if x is not None)

    @property
    def steps_back(self) -> tuple[str, ...]:
        """The way back, step by step: what somebody wrote between semicolons or on lines."""
        parts = self.way_back.replace("\n", ";").split(";")
        return tuple(p.strip(" .") for p in parts if p.strip(" ."))

    def says(self) -> str:
        """A few words for a line."""
        if self.kind == "report":
            return ", ".join(self.words) or self.text[:40] or "no words"
        return self.title or self.text[:60] or KIND_WORDS[self.kind]


@dataclass(frozen=True)
class Read:
    """What a file of entries holds: those that were valid, a line for each that was not."""

    entries: tuple[LogEntry, ...]
    refused: tuple[str, ...]


def tags_in(text: str) -> tuple[str, ...]:
    """What somebody typed as tags: between commas, each once; a # before one is left out."""
    parts = (" ".join(p.strip().lstrip("#").split()) for p in text.replace(";", ",").split(","))
    return tuple(dict.fromkeys(p for p in parts if p))


def now_local() -> str:
    """The present minute, with its zone."""
    return datetime.now().astimezone().isoformat(timespec="minutes")
