"""A page of the manual, as data: whoever shows it decides how it looks.

Within a text ``[words](page)`` leads to another page, ``{Y}`` is a key and ``<<Does it go?>>`` a
button; a test looks for each of them in the window.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

LINK = re.compile(r"\[([^\]]+)\]\(([a-z0-9/-]+)\)")
KEY = re.compile(r"\{([^{}]+)\}")
BUTTON = re.compile(r"<<(.+?)>>")


@dataclass(frozen=True)
class Para:
    """A paragraph; ``caution`` is one that warns."""

    text: str
    caution: bool = False


@dataclass(frozen=True)
class Heading:
    """A heading within a page."""

    text: str


@dataclass(frozen=True)
class Table:
    """Rows of cells; ``head`` may be empty."""

    rows: tuple[tuple[str, ...], ...]
    head: tuple[str, ...] = ()


@dataclass(frozen=True)
class Steps:
    """Numbered things to do, or to see."""

    items: tuple[str, ...]


@dataclass(frozen=True)
class Shot:
    """A picture of the window, by the name of its file without ending."""

    name: str
    says: str


Block = Para | Heading | Table | Steps | Shot


@dataclass(frozen=True)
class Page:
    """``group`` is the heading that it stands under in the list of pages."""

    id: str
    title: str
    group: str
    blocks: tuple[Block, ...]

    def texts(self) -> Iterator[str]:
        """Every text of it, in order."""
        yield self.title
        for block in self.blocks:
            yield from _texts(block)

    def has(self, words: Iterable[str]) -> bool:
        """Whether all these words, in small letters, stand in it somewhere."""
        whole = " ".join(self.texts()).lower()
        return all(word in whole for word in words)


def _texts(block: Block) -> Iterator[str]:
    match block:
        case Para(text=text) | Heading(text=text):
            yield text
        case Table(rows=rows, head=head):
            yield from head
            for row in rows:
                yield from row
        case Steps(items=items):
            yield from items
        case Shot(says=says):
            yield says


def found(pages: Iterable[Page], typed: str) -> tuple[Page, ...]:
    """Pages that hold all words that were typed; those that have them in their title first."""
    words = typed.lower().split()
    hits = [p for p in pages if p.has(words)]
    return tuple(sorted(hits, key=lambda p: not all(w in p.title.lower() for w in words)))
