"""Words of reports from the air: how kind each is, and how it is found in what somebody says.

The words that Listen measures are all here, and those that only people say.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

# a negation reaches over so many words
REACH = 3


@dataclass(frozen=True)
class ReportWord:
    """``kind`` from -2 (cannot be left so) to 2; ``also`` are other ways to say it."""

    word: str
    kind: int
    also: tuple[str, ...] = ()


WORDS: tuple[ReportWord, ...] = (
    ReportWord("muffled", -2, ("dull", "woolly", "blanket", "no treble", "no highs", "muddy")),
    ReportWord("distorted", -2, ("distortion", "overdriven", "rough", "clipping", "breaking up")),
    ReportWord("hum", -2, ("humming", "ac on your audio", "mains")),
    ReportWord("off frequency", -2, ("off-frequency", "off the frequency", "donald duck")),
    ReportWord("drop-outs", -2, ("dropouts", "dropping out", "choppy", "stuttering")),
    ReportWord("too wide", -2, ("splatter", "splattering", "wide")),
    ReportWord("echo", -2, ("hear myself", "reverb", "bathroom")),
    ReportWord("buzz", -2, ("buzzing", "whine", "whining")),
    ReportWord("quiet", -1, ("low audio", "weak audio", "soft", "low level", "faint")),
    ReportWord("loud", -1, ("too loud", "hot", "blasting")),
    ReportWord("boxy", -1, ("hollow", "barrel", "nasal", "in a box")),
    ReportWord("tinny", -1, ("telephone", "like a phone")),
    ReportWord("thin", -1, ("no bass", "no body", "lacks bass")),
    ReportWord("bassy", -1, ("boomy", "booming", "too much bass", "rumbling")),
    ReportWord("harsh", -1, ("sharp", "shrill", "piercing", "sibilant", "hissy s")),
    ReportWord("squashed", -1, ("compressed", "flat", "no dynamics")),
    ReportWord("pumping", -1, ("breathing", "room comes up")),
    ReportWord("hiss", -1, ("hissing", "hissy")),
    ReportWord("noisy", -1, ("noise", "fan", "background", "room noise")),
    ReportWord("clicks", -1, ("click", "clicking", "crackle", "crackling")),
    ReportWord("pops", -1, ("pop", "popping", "breath", "plosives")),
    ReportWord("good", 1, ("nice", "fine", "fb", "armchair")),
    ReportWord("warm", 1, ("mellow", "like the old days")),
    ReportWord("crisp", 1, ("punchy", "sparkling", "presence")),
    ReportWord("clear", 2, ("clean", "loud and clear", "natural", "excellent", "broadcast")),
)
KINDNESS = {w.word: w.kind for w in WORDS}
# where a denial ends
_PART = re.compile(r"[,.;:!?]| but | rather | though ")
_NOT = r"(?:no|not|never|without|gone|less|isn't|wasn't|no longer|free of)"


def found_in(text: str) -> tuple[str, ...]:
    """Words that a text says, in the table's order; what it denies is not said by it."""
    plain = " ".join(text.lower().replace("’", "'").split())
    made = []
    for entry in WORDS:
        for phrase in (entry.word, *entry.also):
            if _says(plain, phrase):
                made.append(entry.word)
                break
    # loud and clear is praise
    if "clear" in made and "loud and clear" in plain:
        made = [w for w in made if w != "loud"]
    return tuple(made)


def _says(text: str, phrase: str) -> bool:
    for match in re.finditer(rf"(?<![\w-]){re.escape(phrase)}(?![\w-])", text):
        before = _PART.split(text[: match.start()])[-1]
        near = " ".join(before.split()[-REACH:])
        after = text[match.end() :].strip().split(" ")[:2]
        denied = re.search(rf"\b{_NOT}\b", near) is not None
        gone = "gone" in after or after[:2] == ["is", "gone"]
        if not denied and not gone:
            return True
    return False


def worst(words: Iterable[str]) -> str | None:
    """The unkindest of some words; None where none of them is unkind."""
    bad = [w for w in words if KINDNESS.get(w, 0) < 0]
    return min(bad, key=lambda w: KINDNESS[w], default=None)


def kindness(words: Iterable[str]) -> float | None:
    """How kind a report is, from -2 to 2: its worst word, or else its best; None without any."""
    known = [KINDNESS[w] for w in words if w in KINDNESS]
    if not known:
        return None
    return float(min(known) if min(known) < 0 else max(known))
