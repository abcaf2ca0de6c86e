"""Parts that remedies add, named by their values."""

from __future__ import annotations

from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.more_pads import SeriesPad
from tonleiter.core.gear.passives import LPad
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import Fix
from tonleiter.core.station.model import Station
from tonleiter.core.units.quantity import OHM, format_quantity, format_short

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
