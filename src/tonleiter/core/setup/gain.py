"""Turning a set's gain by decibels: where it will stand, and the move in figures."""

from __future__ import annotations

from tonleiter.core.setup.onair import OnAir
from tonleiter.core.setup.panel import held, knob
from tonleiter.core.setup.step import Move
from tonleiter.core.station.settings import PanelState

USUAL = 50.0
# a turn of less than this is none
LEAST = 0.5


def gain_of(panel: PanelState) -> float:
    """Where the gain stands, in hundredths."""
    return knob(panel.knobs, "gain", USUAL)


def hundredths(case: OnAir, by_db: float) -> float:
    """How far the gain is turned for so many decibels."""
    return by_db * 100.0 / case.figures.gain_range_db


def turned(case: OnAir, panel: PanelState, by_db: float) -> float:
    """Where the gain will stand, in whole hundredths within its ends."""
    return held("gain", round(gain_of(panel) + hundredths(case, by_db)))


def marked(case: OnAir, gain: float) -> str:
    """The figure that is printed there."""
    at = gain / 100.0 * case.figures.marked_to
    return f"{at:.0f}" if case.figures.marked_to >= 20 else f"{at:.1f}"


def gain_move(case: OnAir, panel: PanelState, by_db: float, why: str) -> Move:
    """Up or down by decibels; where the knob has no way left the chain must change."""
    now, to = gain_of(panel), turned(case, panel, by_db)
    if abs(to - now) < LEAST:
        at_end = "its end" if to >= 100 else "its beginning"
        return Move(f"The gain stands at {at_end}: that is not enough.",
                    "the chain itself must change: see the Ladder (3)", at_end=True)  # fmt: skip
    word = "Up" if to > now else "Down"
    by = abs(to - now) / 100 * case.figures.gain_range_db
    return Move(f"{word} {by:.0f} dB: to about {marked(case, to)}.", why, {"gain": to})
