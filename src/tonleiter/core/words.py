"""Quoting what somebody typed or sent: one line, cut, with nothing in it that a screen obeys."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Sequence

MOST_QUOTED = 60
MOST_OF_A_LINE = 600
# control, format (direction marks), lone surrogate, line and paragraph separators
_UNSEEN = frozenset({"Cc", "Cf", "Cs", "Zl", "Zp"})


def visible(text: str) -> str:
    r"""The text with characters that cannot be seen, or cannot be written, as ``\x1b`` escapes."""
    if text.isascii() and text.isprintable():
        return text
    return "".join(_escaped(c) if unicodedata.category(c) in _UNSEEN else c for c in text)


def _escaped(character: str) -> str:
    short = {"\n": "\\n", "\t": "\\t", "\r": "\\r"}.get(character)
    return short or character.encode("unicode_escape", "surrogatepass").decode("ascii")


def cut(text: str, most: int) -> str:
    """The beginning of a text, with an ellipsis where something was left out."""
    return text if len(text) <= most else text[: most - 1] + "…"


def quoted(value: object, most: int = MOST_QUOTED) -> str:
    """A value in quotation marks, at most ``most`` characters of it."""
    # a text is cut before it is looked at: it may be a megabyte
    text = value if isinstance(value, str) else _plain(value)
    return f"“{cut(visible(cut(text, most)), most)}”"


def _plain(value: object) -> str:
    try:
        return str(value)
    except ValueError:  # whole numbers of more digits than Python cares to print
        return "a number of thousands of digits"


def one_line(text: str) -> str:
    """A message as one line of bearable length."""
    return cut(visible(cut(text, 4 * MOST_OF_A_LINE)), MOST_OF_A_LINE)


def sentence(phrase: str) -> str:
    """A phrase as the beginning of a sentence: its first letter large."""
    return phrase[:1].upper() + phrase[1:]


def within(phrase: str) -> str:
    """A title of ours in mid-sentence: its first letter small, unless an abbreviation begins it."""
    return phrase if phrase[1:2].isupper() else phrase[:1].lower() + phrase[1:]


def count_of(count: int, noun: str, many: str = "") -> str:
    """“1 knob”, “3 knobs”: a count with its noun; ``many`` where its plural is not with an s."""
    return f"{count} {noun if count == 1 else many or f'{noun}s'}"


def one_or(count: int, one: str, many: str) -> str:
    """The word that goes with a count: “is” with one, “are” with more or none."""
    return one if count == 1 else many


def listed(words: Sequence[str]) -> str:
    """“a, b and c”."""
    return " and ".join(filter(None, [", ".join(words[:-1]), *words[-1:]]))


# “my desk mike”, “Anna's mike”: a name that says itself which one is meant
_SAYS_WHICH = re.compile(
    r"(?:(?P<article>(?i:the|a|an|my|our|your|his|her|its|their|this|that))|[A-Z]\S*['’]s)\s"
)


def the(name: str) -> str:
    """A name that somebody gave in mid-sentence: “the desk mixer”, and “my mixer” as it stands."""
    found = _SAYS_WHICH.match(name)
    if found is None:
        return f"the {name}"
    return name if found["article"] is None else name[:1].lower() + name[1:]


def the_all(names: Iterable[str]) -> str:
    """“the mixer and my lead”: names that somebody gave, each with its article."""
    return " and ".join(the(name) for name in names)
