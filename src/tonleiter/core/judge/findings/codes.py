"""Codes of findings: each is declared once, beside its rule, with what it means to others.

Match, the planner and the ranking of remedies ask for the meaning and never list codes.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

# what it takes to mend something, in the grid's terms
Mend = Literal["bias", "phantom", "current", "isolate", "block", "load"]
# where a finding counts: for the sound of the chain, for its wires and joints, for the build on the
# bench, for what is set on the radio
Where = Literal["chain", "wiring", "bench", "settings"]
# what somebody calls it who only listens
Sounds = Literal[
    "hum", "buzz", "hiss", "noisy", "thin", "bassy", "muffled", "boxy", "quiet", "distorted",
    "squashed", "clicks", "pops", "harsh", "pumping",
]  # fmt: skip


@dataclass(frozen=True)
class Meaning:
    """What a finding means beyond its own words.

    ``silent``: the microphone gives nothing or too little to be judged; ``level``: it is about the
    level alone; ``hum``: about hum; ``bass``: bass is lost; ``loaded``: a load takes too much.
    ``noise``: about noise. ``winding``: DC stands on a coil. ``first``: while it stands as a stop
    no level means anything, so it is mended first, and by what; ``first_words`` is how that is
    called. ``counts``: where it is said; a stop is said everywhere, unless it is ``local``: that
    one stops a hand that solders, and harms nothing that is plugged in already. ``sounds``: what
    a listener calls it beyond what follows from the rest.
    """

    silent: bool = False
    level: bool = False
    hum: bool = False
    bass: bool = False
    loaded: bool = False
    winding: bool = False
    noise: bool = False
    first: Mend | None = None
    first_words: str = ""
    counts: tuple[Where, ...] = ("chain",)
    local: bool = False
    sounds: tuple[Sounds, ...] = ()

    @property
    def heard_as(self) -> tuple[Sounds, ...]:
        """What somebody calls it who only listens."""
        follows: tuple[tuple[bool, tuple[Sounds, ...]], ...] = (
            (self.hum, ("hum",)),
            (self.noise, ("hiss", "noisy")),
            # what has no bass is all treble
            (self.bass, ("thin", "harsh")),
            (self.silent or self.loaded, ("quiet",)),
        )
        return (*self.sounds, *(s for holds, sounds in follows if holds for s in sounds))

    @property
    def comes_first(self) -> bool:
        """Whether no level could be judged while it stood: what shows once it is gone was there."""
        return self.silent or self.first is not None

    def stops(self, where: Where) -> bool:
        """Whether a stop with this meaning is one there."""
        return not self.local or where in self.counts

    @property
    def measured(self) -> bool:
        """Whether a plan weighs by figures of its own what the finding is about."""
        return self.level or self.hum or self.bass or self.noise


# what is mended with an iron, and what of that is heard as well
IRON: tuple[Where, ...] = ("wiring", "bench")
HEARD: tuple[Where, ...] = ("chain", "wiring", "bench")
_MEANINGS: dict[str, Meaning] = {}


def declare(code: str, meaning: Meaning = Meaning()) -> str:
    """Declare a code with its meaning and return it. Raises ValueError for one that is taken."""
    if code in _MEANINGS:
        raise ValueError(f"the code {code} is declared twice")
    _MEANINGS[code] = meaning
    return code


def meaning(code: str) -> Meaning:
    """What a code means. Raises KeyError for one that no rule has declared."""
    return _MEANINGS[code]


def known() -> tuple[str, ...]:
    """All codes, in the order they were declared."""
    return tuple(_MEANINGS)
