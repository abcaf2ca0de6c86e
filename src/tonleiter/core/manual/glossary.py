"""Terms that a newcomer would not know, each in two sentences.

``also`` are other spellings under which the window prints it.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache, lru_cache

from tonleiter.core.manual.texts import table


@dataclass(frozen=True)
class Term:
    """A term, what it is, and how else it is written."""

    name: str
    says: str
    also: tuple[str, ...] = ()


@cache
def terms() -> tuple[Term, ...]:
    """All of them, as they stand in the table."""
    listed = table("glossary")["term"]
    return tuple(Term(t["name"], t["says"], tuple(t.get("also", ()))) for t in listed)


@cache
def _by_spelling() -> dict[str, Term]:
    return {s.lower(): t for t in terms() for s in (t.name, *t.also)}


@cache
def _pattern() -> re.Pattern[str]:
    spellings = sorted(_by_spelling(), key=len, reverse=True)
    # a unit right behind its number is read past: the figure is meant, and not the word
    return re.compile(
        r"(?<![\w-])(" + "|".join(re.escape(s) for s in spellings) + r")(?![\w-])", re.IGNORECASE
    )


def term(spelling: str) -> Term | None:
    """The term that is written like this, however its letters are; None for no such one."""
    return _by_spelling().get(spelling.lower())


@lru_cache(maxsize=4096)
def terms_in(text: str) -> tuple[tuple[int, int, Term], ...]:
    """Where terms stand in a text: from, to, and the term; each at its first place only.

    Capitals count where the term has nothing but capitals: "alc" is none, "Hot" is.
    """
    made: list[tuple[int, int, Term]] = []
    seen: set[str] = set()
    for hit in _pattern().finditer(text):
        known = _by_spelling()[hit.group(1).lower()]
        shouts = known.name.isupper() or known.name.startswith("dB")
        if known.name in seen or (shouts and hit.group(1) not in (known.name, *known.also)):
            continue
        before = text[: hit.start()].rstrip()
        if shouts and before[-1:].isdigit():
            continue
        seen.add(known.name)
        made.append((hit.start(), hit.end(), known))
    return tuple(made)
