"""How a recording came about, as far as its judgement hangs on it: by air, with which tone set.

A far receiver's noise is not the station's, and a voice that was made thin on purpose is not ill.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.listen.words import Word
from tonleiter.core.station.recording import Taken
from tonleiter.core.station.settings import PanelState, ToneSchool

# by these ways the noise of a band comes with it
BY_AIR: tuple[Taken, ...] = ("remote-receiver", "friend", "simulated-far")
_AIR = "a far receiver has the band's noise as well: it tells nothing of the station's own"
_WANTED: dict[Word, str] = {
    "thin": "so wanted: a communicator's sound leaves the bass out",
    "squashed": "so wanted where words count more than the voice",
}


@dataclass(frozen=True)
class Circumstances:
    """``panel`` is what the radio's knobs stood at, where that is known."""

    by_air: bool = False
    panel: PanelState | None = None
    tone: ToneSchool | None = None

    def excuse(self, word: Word) -> str:
        """Why a word is no fault here; empty where it is one."""
        if self.by_air and word in ("hiss", "noisy"):
            return _AIR
        if self.tone == "communicator":
            return _WANTED.get(word, "")
        return ""


PLAIN = Circumstances()
