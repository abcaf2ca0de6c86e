"""Whether two recordings may be held against each other: what else differs, what nobody said."""

from __future__ import annotations

from collections.abc import Sequence

from tonleiter.core.station.recording import TAKEN_WORDS, Recording

# distances and powers that differ by less are alike
DISTANCE_ALIKE, POWER_ALIKE = 1.2, 1.26


def unfair(one: Recording | None, other: Recording | None) -> Sequence[str]:
    """What differs besides what is compared, and what is not known; empty where it is fair.

    ``None`` is a recording of which nobody said anything.
    """
    lacks = [f"of {s} nobody said {_first_missing(r)}" for s, r in (("A", one), ("B", other))
             if r is None or r.missing()]  # fmt: skip
    if one is None or other is None:
        return tuple(lacks)
    made: list[str] = []
    if one.taken and other.taken and one.taken != other.taken:
        made.append(f"another way: A by {TAKEN_WORDS[one.taken]}, B by {TAKEN_WORDS[other.taken]}")
    if _apart(one.distance_mm, other.distance_mm, DISTANCE_ALIKE):
        made.append(f"another distance: {one.distance_mm:.0f} and {other.distance_mm:.0f} mm")
    if _apart(one.power_w, other.power_w, POWER_ALIKE):
        made.append(f"another power: {one.power_w:.3g} and {other.power_w:.3g} W")
    if one.voice and other.voice and one.voice != other.voice:
        made.append(f"another voice: {one.voice} and {other.voice}")
    return (*made, *lacks)


def _first_missing(recording: Recording | None) -> str:
    return "anything" if recording is None else recording.missing()[0]


def _apart(one: float | None, other: float | None, alike: float) -> bool:
    if one is None or other is None:
        return False
    return max(one, other) > alike * min(one, other)
