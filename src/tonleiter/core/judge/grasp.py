"""Taking hold of a stage: which of its values a drag or an arrow key moves, and to what."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tonleiter.core.gear.active import Amplifier, BiasFeed
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.pads import l_pad_loss_db, series_for_loss
from tonleiter.core.gear.passives import Cable, LPad, SeriesCapacitor
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.units import preferred

VOICE_INDEX = -1
NEAREST_MM, FARTHEST_MM = 10.0, 600.0
GAIN_STEP_DB = 0.5


@dataclass(frozen=True)
class Move:
    """A new value for a field of a stage; stage −1 is the voice, its field ``distance_mm``."""

    stage: int
    field: str
    value: float


def pull(start: Assessment, stage: int, up_db: float) -> Move | None:
    """The value that lifts the level behind ``stage`` by ``up_db`` from where it was at ``start``.

    Pads and feeds move along preferred values. None where nothing can be pulled.
    """
    if stage == VOICE_INDEX:
        now = start.solution.compiled.chain.distance_mm.value
        wanted = (now + 10) / 10 ** (min(max(up_db, -200.0), 200.0) / 20) - 10
        return Move(stage, "distance_mm", round(min(max(wanted, NEAREST_MM), FARTHEST_MM)))
    gear = start.rows[stage].gear
    match gear:
        case Amplifier():
            wanted = gear.gain_db.value + up_db
            wanted = round(wanted / GAIN_STEP_DB) * GAIN_STEP_DB
            wanted = min(max(wanted, gear.gain_low_db.value), gear.gain_high_db.value)
            return Move(stage, "gain_db", wanted)
        case LPad():
            return _pull_pad(start, stage, gear, up_db)
        case BiasFeed():
            return Move(stage, "resistor_ohm", _along(gear.resistor_ohm.value, up_db, "E12"))
        case SeriesCapacitor():
            # no level to pull: the bass corner moves instead, an E6 place for every 2 dB of travel
            steps = round(up_db / 2)
            return _held(gear, stage, "capacitance_f", "E6", steps)
        case Cable():
            metres = gear.length_m.value + round(up_db)
            return Move(stage, "length_m", float(min(max(metres, 0.5), 100.0)))
    return None


def _pull_pad(start: Assessment, stage: int, pad: LPad, up_db: float) -> Move | None:
    source = start.solution.impedances[stage - 1].source_ohm
    load = start.solution.impedances[stage].load_ohm
    loss_db = l_pad_loss_db(pad.series_ohm.value, pad.shunt_ohm.value, source, load)
    series = series_for_loss(loss_db - up_db, pad.shunt_ohm.value, source, load)
    if series is None or not math.isfinite(series):
        series = 10.0
    return Move(stage, "series_ohm", preferred.nearest(min(max(series, 10.0), 1e7), "E24"))


# a wheel that is spun, or a hand that runs off the screen, asks for no more places than this
MOST_STEPS = 60


def _held(gear: Gear, stage: int, field: str, series: preferred.Series, steps: int) -> Move:
    """Places along preferred values, stopped where such parts end."""
    now = gear.figure(field).value
    wanted = preferred.step(now, min(max(steps, -MOST_STEPS), MOST_STEPS), series)
    quantity, _ = gear.figures()[field]
    return Move(stage, field, quantity.held(wanted, now))


def _along(value: float, up_db: float, series: preferred.Series) -> float:
    target = min(max(value * 10 ** (min(max(up_db, -200.0), 200.0) / 20), 100.0), 1e6)
    return preferred.nearest(target, series)


def nudge(now: Assessment, stage: int, steps: int) -> Move | None:
    """The value ``steps`` places up or down from the present one: arrow keys and wheel."""
    if stage == VOICE_INDEX:
        distance = now.solution.compiled.chain.distance_mm.value - 5.0 * steps
        return Move(stage, "distance_mm", min(max(distance, NEAREST_MM), FARTHEST_MM))
    gear = now.rows[stage].gear
    match gear:
        case Amplifier():
            return pull(now, stage, steps * 1.0)
        case LPad():
            # louder is up, so up is a smaller series resistor
            return _held(gear, stage, "series_ohm", "E24", -steps)
        case BiasFeed():
            return _held(gear, stage, "resistor_ohm", "E12", steps)
        case SeriesCapacitor():
            return pull(now, stage, steps * 2.0)
        case Cable():
            return pull(now, stage, float(steps))
    return None
