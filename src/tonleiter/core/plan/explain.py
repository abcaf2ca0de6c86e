"""Why a plan stands where it does, and what it trades away, against the others on offer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from tonleiter.core.gear.parts import PRICE_WORDS
from tonleiter.core.plan.candidate import Candidate
from tonleiter.core.plan.weights import Figures
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import HERTZ, format_quantity

MOST_REASONS, MOST_COSTS = 2, 3
PLACES = ("First", "Second", "Third", "Fourth", "Fifth")
QUIET_ENOUGH_DB = 70.0


@dataclass(frozen=True)
class Words:
    """Reasons for a place in the ranking, and what is given up for it."""

    why: str
    costs: str


def explain(offered: Sequence[Candidate]) -> list[Words]:
    """Words for each plan on offer, in their order."""
    return [Words(_why(c, offered, k), _costs(c, offered)) for k, c in enumerate(offered)]


def _why(candidate: Candidate, offered: Sequence[Candidate], rank: int) -> str:
    f = candidate.figures
    others = [c.figures for c in offered if c is not candidate]
    reasons = []
    if others and f.parts < min(o.parts for o in others):
        count = "nothing to build" if f.parts == 0 else f"fewest parts, {f.parts}"
        reasons.append(count)
    if f.isolated and not any(o.isolated for o in others):
        reasons.append("the only one that parts the grounds")
    if others and f.snr_db > max(o.snr_db for o in others) + 0.5:
        reasons.append(f"least noise, {f.snr_db:.0f} dB under speech")
    if f.supplies == 0 and any(o.supplies for o in others):
        reasons.append("wants no supply")
    nearest = min((abs(o.off_middle_db) for o in others), default=0.0)
    if others and not f.has_knob and abs(f.off_middle_db) < nearest - 0.3:
        reasons.append(f"nearest the middle, {signed(f.off_middle_db, 1, plus=True)} dB")
    if f.bass_hz is None and all(o.bass_hz is not None for o in others) and others:
        reasons.append("deepest bass")
    if len(reasons) < MOST_REASONS:
        reasons.append(_where(candidate))
    if len(reasons) < MOST_REASONS:
        reasons.append(f"{f.snr_db:.0f} dB over the noise")
    return f"{PLACES[rank]}: {', '.join(reasons[:MOST_REASONS])}"


def _where(candidate: Candidate) -> str:
    """Where the radio's gain control will stand, or how the level lies in a fixed window."""
    knob, off = candidate.assessment.rows[-1].knob, abs(candidate.figures.off_middle_db)
    if knob is not None:
        return f"microphone gain at {knob.mark}" if knob.reaches else "out of the gain's reach"
    return "in the middle of the window" if off < 1 else f"{off:.0f} dB from the middle"


def _costs(candidate: Candidate, offered: Sequence[Candidate]) -> str:
    f = candidate.figures
    figures = [c.figures for c in offered]
    given = []
    noise = max(x.snr_db for x in figures) - f.snr_db
    if noise >= 1.5:
        given.append(f"{noise:.0f} dB more noise than the quietest")
    if f.supplies and any(x.supplies == 0 for x in figures):
        given.append("wants a supply")
    more = f.parts - min(x.parts for x in figures)
    if more >= 2:
        given.append(f"{more} parts more, the dearest {PRICE_WORDS.get(f.price_class, 'owned')}")
    if not f.isolated and any(x.isolated for x in figures):
        given.append("grounds stay joined")
    hum = f.hum_under_db
    if hum is not None and hum < QUIET_ENOUGH_DB:
        given.append(f"hum {hum:.0f} dB under speech")
    if f.bass_hz is not None and f.bass_hz > 2 * _deepest(figures) and f.bass_hz > 60:
        given.append(f"bass from {format_quantity(f.bass_hz, HERTZ, 2)}")
    if not f.has_knob and abs(f.off_middle_db) >= 1.5:
        given.append(f"{signed(f.off_middle_db, 1, plus=True)} dB off the middle")
    if f.outside_db > 0:
        given.append(_where(candidate))
    if not f.reversible:
        given.append("changes the radio: keep the old resistors")
    return "; ".join(given[:MOST_COSTS]) or "nothing worth a word"


def _deepest(figures: Sequence[Figures]) -> float:
    return min(f.bass_hz or 20.0 for f in figures)
