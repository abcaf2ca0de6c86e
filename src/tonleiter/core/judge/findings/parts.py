"""Parts that remedies add, named by their values."""

from __future__ import annotations

import math
from typing import Literal

from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.more_pads import SeriesPad
from tonleiter.core.gear.passives import LPad, SeriesCapacitor
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import Fix
from tonleiter.core.solve.solution import Impedances
from tonleiter.core.station.model import Station
from tonleiter.core.units.quantity import FARAD, OHM, format_quantity, format_short

# a level that is off by less needs no pad
LEAST_PAD_DB = 6.0


def l_pad(case: Case, series_ohm: float, shunt_ohm: float) -> LPad:
    """Two resistors, named by them."""
    values = f"{format_short(series_ohm)} / {format_short(shunt_ohm)}"
    return LPad(
        id=case.fresh_id("pad"),
        name=f"L-pad {values}",
        series_ohm=typical(series_ohm),
        shunt_ohm=typical(shunt_ohm),
    )


def pad_before(
    case: Case,
    index: int,
    loss_db: float,
    series_ohm: float,
    shunt_ohm: float,
    before: str = "it",
    why: str = "",
) -> Fix:
    """Two resistors before stage ``index``, which ``before`` names."""
    values = f"{format_quantity(series_ohm, OHM)} and {format_quantity(shunt_ohm, OHM)}"

    def apply(station: Station) -> Station:
        return case.insert(station, index, l_pad(case, series_ohm, shunt_ohm))

    return Fix(f"Add a pad of {loss_db:.0f} dB before {before}: {values}", apply, why)


def series_f(z: Impedances, corner_hz: float) -> float:
    """Capacitance in series with a corner at a joint: f = 1/(2π C (Zs + Zl))."""
    return 1 / (2 * math.pi * corner_hz * (z.source_ohm + z.load_ohm))


def blocker(case: Case, farad: float, plus_side: Literal["input", "output"]) -> SeriesCapacitor:
    """A capacitor against volts, named by its value."""
    return SeriesCapacitor(
        id=case.fresh_id("blocking-capacitor"),
        name=f"blocking capacitor {format_quantity(farad, FARAD)}",
        capacitance_f=typical(farad),
        plus_side=plus_side,
    )


def resistor_before(case: Case, index: int, ohm: float, title: str, why: str = "") -> Fix:
    """One resistor before stage ``index``."""

    def apply(station: Station) -> Station:
        gear = SeriesPad(
            id=case.fresh_id("pad"),
            name=f"series resistor {format_quantity(ohm, OHM)}",
            series_ohm=typical(ohm),
        )
        return case.insert(station, index, gear)

    return Fix(title, apply, why)


def less_by(ohm: float, loss_db: float) -> str:
    """What one resistor that takes level off is called."""
    return f"Add {format_quantity(ohm, OHM)} in series before it: {loss_db:.0f} dB less"
