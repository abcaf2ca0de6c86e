"""Designing pads from a wanted loss and the impedances they stand between."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from tonleiter.core.units.preferred import Series, between, nearest


@dataclass(frozen=True)
class PadDesign:
    """Resistors of an L-pad and the loss they give, in dB, from open source to loaded output."""

    series_ohm: float
    shunt_ohm: float
    loss_db: float


# a load that takes nothing is designed for as this one
OPEN_AS_OHM = 1e6
# a lead behind more than this picks up hum, and its noise is heard: a high load wants no high pad
HIGH_SHUNT_OHM, HIGH_SERIES_OHM = 10e3, 220e3
# nor does anybody solder less than this between hot and ground
LEAST_SHUNT_OHM = 10.0


def l_pad_loss_db(series_ohm: float, shunt_ohm: float, z_source: float, z_load: float) -> float:
    """Loss from the open-circuit source voltage to the loaded output: a plain voltage divider."""
    lower = shunt_ohm * z_load / (shunt_ohm + z_load)
    return 20 * math.log10((z_source + series_ohm + lower) / lower)


def series_for_loss(
    loss_db: float, shunt_ohm: float, z_source: float, z_load: float
) -> float | None:
    """Series resistor that gives ``loss_db`` with a given shunt; None if there is none above 0."""
    lower = shunt_ohm * z_load / (shunt_ohm + z_load)
    series = lower * 10 ** (loss_db / 20) - lower - z_source
    return series if series >= 1.0 else None


def shunt_for_loss(
    loss_db: float, series_ohm: float, z_source: float, z_load: float
) -> float | None:
    """Shunt that gives ``loss_db`` with a given series resistor; None if the load is too low."""
    lower = (z_source + series_ohm) / (10 ** (loss_db / 20) - 1)
    return None if lower >= z_load else 1 / (1 / lower - 1 / z_load)


def design_l_pad(
    loss_db: float,
    z_source: float,
    z_load: float,
    series: Series = "E12",
    drawer: Sequence[float] | None = None,
) -> list[PadDesign]:
    """L-pads from preferred values (or a drawer's) with a loss near ``loss_db``, best first.

    The shunt lies well below the load, so that the load does not set the loss, and the series
    resistor is at least 5 times the source, so that the source is bridged where that is possible.
    Neither is higher than that asks for.
    """
    if not (math.isfinite(loss_db) and math.isfinite(z_source)) or loss_db <= 0 or z_load <= 0:
        return []
    # nothing hangs on it: then any shunt will do, and one as for a usual load is taken
    z_load = z_load if math.isfinite(z_load) else OPEN_AS_OHM
    ideal_ohm = min(z_load / 6, HIGH_SHUNT_OHM)
    by_series = HIGH_SERIES_OHM / 10 ** (loss_db / 20)
    high = z_load / 2
    low = min(high, max(LEAST_SHUNT_OHM, min(0.3 * ideal_ohm, by_series)))
    shunts = [d for d in drawer if low <= d <= high] if drawer else between(low, high, series)
    designs = []
    for shunt in shunts:
        exact = series_for_loss(loss_db, shunt, z_source, z_load)
        if exact is None:
            continue
        value = (
            min(drawer, key=lambda d: abs(math.log(d / exact)))
            if drawer
            else nearest(exact, series)
        )
        designs.append(PadDesign(value, shunt, l_pad_loss_db(value, shunt, z_source, z_load)))

    def badness(design: PadDesign) -> float:
        bridging = max(0.0, math.log(5 * z_source / design.series_ohm)) if z_source > 0 else 0.0
        ideal_shunt = abs(math.log(design.shunt_ohm / ideal_ohm))
        too_high = max(0.0, math.log(design.series_ohm / HIGH_SERIES_OHM))
        return abs(design.loss_db - loss_db) + 0.5 * bridging + too_high + 0.3 * ideal_shunt

    return sorted(designs, key=badness)
