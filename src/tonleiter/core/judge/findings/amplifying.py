"""A stage more: a preamp, or a buffer, and what comes down again behind it."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.gear.active import AmplifierStage
from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.pads import design_l_pad
from tonleiter.core.judge.findings.adjusting import change_pad, pad_there
from tonleiter.core.judge.findings.case import Case, aim_dbu
from tonleiter.core.judge.findings.model import BUILD, Fix
from tonleiter.core.judge.findings.parts import LEAST_PAD_DB, l_pad
from tonleiter.core.judge.findings.suggestions import insert_pad
from tonleiter.core.station.model import Station
from tonleiter.core.units.preferred import at_least
from tonleiter.core.words import the, within

PREAMP_OUT_OHM = 100.0


def insert_preamp(case: Case, index: int, gain_db: float) -> Fix:
    """A small battery preamplifier that lifts the level behind it by ``gain_db``.

    What stands before it is no longer loaded by stage ``index``, which lifts its level already:
    where that alone is too much, by a pad behind it less.
    """
    z = case.solution.impedances[index - 1]
    z_in = at_least(max(2400.0, 10 * min(z.source_ohm, 1e5)), "E12")
    loaded_now = z.load_ohm / (z.load_ohm + z.source_ohm)
    loaded_then = z_in / (z_in + z.source_ohm) * z.load_ohm / (z.load_ohm + PREAMP_OUT_OHM)
    known = math.isfinite(z.load_ohm) and loaded_now > 0 and 0 < loaded_then < math.inf
    relief_db = 20 * math.log10(loaded_then / loaded_now) if known else 0.0
    # what is silent asks for more than any number of decibels
    gain = float(round(min(60.0, max(0.0, gain_db - relief_db))))
    less_db = relief_db - gain_db
    designs = design_l_pad(less_db, PREAMP_OUT_OHM, z.load_ohm) if less_db > LEAST_PAD_DB else []
    pad = next(iter(designs), None)

    def apply(station: Station) -> Station:
        gear = AmplifierStage(
            id=case.fresh_id("small-preamp"),
            name=f"small preamp {gain:.0f} dB",
            expects="microphone",
            gain_db=typical(gain),
            gain_low_db=typical(0.0),
            gain_high_db=typical(60.0),
            z_in_ohm=typical(z_in),
            z_out_ohm=typical(PREAMP_OUT_OHM),
            ein_dbu=typical(-118.0),
            clip_dbu=typical(8.0),
            works_from_dbu=typical(min(-50.0, case.rows[index - 1].speech_dbu + gain - 6)),
            works_to_dbu=typical(-4.0),
            supply="battery",
        )
        if pad is not None:
            station = case.insert(station, index, l_pad(case, pad.series_ohm, pad.shunt_ohm))
        return case.insert(station, index, gear)

    what = f"small preamp of {gain:.0f} dB" if gain else "buffer that does not load it"
    tail = "" if pad is None else f", and a pad of {pad.loss_db:.0f} dB behind that"
    return Fix(f"Add a {what} before it{tail}", apply, "", BUILD)


def up_and_down(case: Case, index: int, gain_db: float) -> Iterator[Fix]:
    """A preamp before a box that works at a higher level, and down again before the radio."""
    last = case.rows[-1]
    loss_db = last.speech_dbu + gain_db - aim_dbu(last)
    if index >= case.last or last.window is None or loss_db < LEAST_PAD_DB:
        return
    up = insert_preamp(case, index, gain_db)
    down, what = _down_again(case, loss_db)
    if down is not None:
        yield Fix(
            f"{up.title}, and {what}",
            # from behind: places before it stay what they were
            lambda station: up.apply(down.apply(station)),
            "up for the box, and down again",
            BUILD,
        )


def _down_again(case: Case, loss_db: float) -> tuple[Fix | None, str]:
    """The pad before the radio that is there already, made to take more, or a new one."""
    if (pad := pad_there(case, case.last)) is not None:
        fix = change_pad(case, pad, -loss_db)
        return fix, "" if fix is None else within(fix.title)
    return insert_pad(case, case.last, loss_db), (
        f"a pad of {loss_db:.0f} dB before {the(case.rows[-1].name)}"
    )
