"""A potentiometer in its circuit: what its wiper gives with a source before it and a load behind.

    H(s) = (s R ∥ Zl) / (Zs + (1 − s) R + s R ∥ Zl), a voltage divider

A low load flattens it: half the turn is then far more than 6 dB down, and what is right is found
from the circuit, not from the share of the track.
"""

from __future__ import annotations

import math

# a wiper is set no finer than that by hand, and never reaches the very end of its track
BY, END = 0.01, 1e-3
HALVINGS = 30


def wiper_db(share: float, track_ohm: float, z_source_ohm: float, z_load_ohm: float) -> float:
    """Gain in dB of a wiper at a share from 0 to 1 of its track; below zero."""
    share = min(max(share, END), 1 - END)
    lower = share * track_ohm
    both = lower if math.isinf(z_load_ohm) else lower * z_load_ohm / (lower + z_load_ohm)
    return 20 * math.log10(both / (z_source_ohm + (1 - share) * track_ohm + both))


def wiper_moved_db(
    old: float, new: float, track_ohm: float, z_source_ohm: float, z_load_ohm: float
) -> float:
    """By how much the level moves when a wiper goes from one share of its track to another."""
    there, here = (wiper_db(s, track_ohm, z_source_ohm, z_load_ohm) for s in (new, old))
    return there - here


def wiper_at(
    now: float, up_db: float, track_ohm: float, z_source_ohm: float, z_load_ohm: float
) -> float:
    """Where a wiper stands for so many decibels more, to the nearest hundredth of its turn."""
    low, high = 0.0, 1.0
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        moved = wiper_moved_db(now, middle, track_ohm, z_source_ohm, z_load_ohm)
        low, high = (middle, high) if moved < up_db else (low, middle)
    return min(max(round((low + high) / 2 / BY) * BY, BY), 1.0)
