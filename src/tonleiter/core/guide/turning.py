"""Back to a card: what stands otherwise today, and the moves back, in a guide's order."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from tonleiter.core.guide.controls import at, in_school, with_knobs
from tonleiter.core.station import edits
from tonleiter.core.station.card import SettingsCard
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KNOBS, KnobId, PanelState
from tonleiter.core.units.levels import signed
from tonleiter.core.words import sentence

# what is turned first moves what comes after it: edges and tone before compression, the drive last
ORDER: tuple[KnobId, ...] = (
    "program", "slider", "level", "low", "high", "bass", "treble", "tone", "compression",
    "deviation", "gain", "power", "threshold", "hang", "volume", "squelch", "receive", "record",
)  # fmt: skip
NEAR = 1e-6


@dataclass(frozen=True)
class Turn:
    """One knob: where it stands, where the card has it."""

    knob: KnobId
    now: float
    then: float

    @property
    def title(self) -> str:
        """The knob."""
        return KNOBS[self.knob].title

    def said(self, value: float) -> str:
        """A figure as it is read."""
        return signed(value, 0 if value == round(value) else 1, plus=KNOBS[self.knob].signed)

    @property
    def move(self) -> str:
        """What the hand does."""
        unit = KNOBS[self.knob].unit
        way = "up" if self.then > self.now else "down"
        to = f"{self.said(self.then)}{f' {unit}' if unit else ''}"
        return f"{sentence(self.title)} {way} from {self.said(self.now)} to {to}"


def turns(station: Station, card: SettingsCard) -> tuple[Turn, ...] | None:
    """Knobs that stand otherwise than on a card, in the hand's order; None without its chain."""
    chain = next((c for c in station.chains if c.id == card.chain_id), None)
    if chain is None:
        return None
    made = []
    for knob in ORDER:
        if knob not in card.knobs:
            continue
        now, then = at(chain.panel, knob), card.knobs[knob]
        if abs(now - then) > NEAR:
            made.append(Turn(knob, now, then))
    return tuple(made)


def turned_back(card: SettingsCard) -> Callable[[Station], Station]:
    """The edit that puts every knob and school of a card's chain where the card has it."""

    def change(station: Station) -> Station:
        panel = _panel_of(station.chain(card.chain_id).panel, card)
        return edits.change_chain(station, card.chain_id, panel=panel)

    return change


def _panel_of(panel: PanelState, card: SettingsCard) -> PanelState:
    """A panel with every knob and school where a card has it."""
    chosen = {k: v for k, v in card.schools.model_dump().items() if v is not None}
    return in_school(with_knobs(panel, card.knobs), **chosen)
