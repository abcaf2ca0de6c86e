"""At the lips: how near one speaks, before anything is turned or built."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.voice import distance_for_mm
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import MOVE, TURN, Fix
from tonleiter.core.station import edits

# closer than this breath and lips are in the way; from farther off, moving is the first thing
NEAREST_MM, FAR_MM = 25.0, 100.0


def nearest_mm(microphone: Gear) -> float:
    """How near lips should come: a directional capsule booms at less than its bass was made for."""
    if not isinstance(microphone, SpokenInto) or microphone.hears == "all-round":
        return NEAREST_MM
    return microphone.lips_mm


def nearer_mm(now_mm: float, wanted_mm: float, microphone: Gear) -> float | None:
    """How near to come, no nearer than one should; None where that is a few millimetres only."""
    near = max(nearest_mm(microphone), wanted_mm)
    return near if near <= now_mm - 5 else None


def closer(case: Case, delta_db: float) -> Iterator[Fix]:
    """Move up to the microphone, as far as that gets; it lifts speech over the room as well.

    From far away it is the first thing to do. One moves once: as near as everything wants it that
    is too little for now.
    """
    now, last = case.distance_mm, case.rows[-1]
    if not case.solution.compiled.acoustic:
        return
    over_noise_db = case.purpose.snr_at_least_db - last.snr_db
    delta_db = max(delta_db, over_noise_db)
    if last.window is not None and last.speech_dbu < last.window.low_dbu:
        missed_db = last.window.low_dbu - last.speech_dbu
        delta_db = max(delta_db, missed_db + last.window.inside_db)
    # in half centimetres; a little too near gets there, a little too far does not
    near = nearer_mm(now, 5 * math.floor(distance_for_mm(now, delta_db) / 5), case.rows[0].gear)
    if near is None:
        return
    yield Fix(
        f"Speak closer, at {near / 10:g} cm",
        lambda station: edits.change_chain(station, case.chain_id, distance_mm=near),
        "also lifts speech over the room",
        TURN if now >= FAR_MM else MOVE,
    )


def farther(case: Case, index: int, delta_db: float) -> Iterator[Fix]:
    """Back off: where it is the microphone itself, or a pad would take it its bias from behind.

    And where lips are nearer than they should be anyhow: as far as that, before any pad.
    """
    now, fed = case.distance_mm, case.feeds_capsule(index)
    if not case.solution.compiled.acoustic:
        return
    far = 5.0 * math.ceil(distance_for_mm(now, -delta_db) / 5)
    if index == 0 or fed:
        why = "a pad would take its bias" if fed else "nothing behind it helps"
    else:
        far, why = nearest_mm(case.rows[0].gear), "so close breath and bass win"
    if now + 5 <= far <= FAR_MM:
        yield Fix(
            f"Speak from {far / 10:g} cm",
            lambda station: edits.change_chain(station, case.chain_id, distance_mm=far),
            why,
            MOVE,
        )
