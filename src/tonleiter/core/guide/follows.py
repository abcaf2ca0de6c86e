"""Whether an own radio's meter follows its knob: readings taken where the knob stood."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from tonleiter.core.station.settings import KnobId, MeterId, Seen

# so many readings that went nowhere, or the wrong way, and nobody turns again for that meter
ENOUGH = 2
# a turn of so many decibels moves a meter that follows; of a scale, what moves at all
LEAST_TURN_DB, MOVES = 2.0, 0.02

MEANS = (
    "it may be another meter (power, supply) or another menu's gain; the microphone may go in"
    " elsewhere, or something is broken: try another meter, then the chain on the bench (5)"
)


def lost(
    seen: Sequence[Seen], now: Seen, meter: MeterId, knob: KnobId, per_db: float, full: float
) -> bool:
    """Whether readings contradict the knob: up and not more, down and not less, ENOUGH times.

    ``per_db`` is how far the knob is turned for a decibel, ``full`` the end of the meter's scale. A
    meter that stays at either end may be right.
    """
    taken = [*(s for s in seen if (s.meter, s.knob) == (meter, knob)), now]
    wrong = 0
    for before, after in pairwise(taken):
        turned = (after.at - before.at) / per_db
        moved = (after.read - before.read) / full
        at_end = min(before.read, after.read) >= full or max(before.read, after.read) <= 0
        if abs(turned) < LEAST_TURN_DB or at_end:
            continue
        wrong += moved * (1 if turned > 0 else -1) < MOVES
    return wrong >= ENOUGH
