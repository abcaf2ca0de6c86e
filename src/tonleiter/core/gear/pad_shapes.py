"""Designing pads of every shape for a loss, from preferred values or a drawer's.

Losses run from the open source to the loaded output. Matched T: Terman, Radio Engineers' Handbook
(1943), sec. 3: R3 = 2√(N Z1 Z2)/(N−1), R1 = Z1 (N+1)/(N−1) − R3, likewise R2; N is the power ratio.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from tonleiter.core.gear.pads import design_l_pad, l_pad_loss_db
from tonleiter.core.units.preferred import Series, nearest

LEAST_OHM = 1.0
TRACKS_OHM = (1e3, 2.2e3, 4.7e3, 10e3, 22e3, 47e3, 100e3, 220e3, 470e3, 1e6)


@dataclass(frozen=True)
class ShapedPad:
    """Values of a pad by field, and the loss they give in dB."""

    kind: str
    values: tuple[tuple[str, float], ...]
    loss_db: float

    def value(self, field: str) -> float:
        """The value of one field. Raises KeyError."""
        return dict(self.values)[field]


Rounded = Callable[[float], float]


def _rounding(series: Series, drawer: Sequence[float] | None) -> Rounded:
    if drawer:
        return lambda ohm: min(drawer, key=lambda d: abs(math.log(d / ohm)))
    return lambda ohm: nearest(ohm, series)


def design_pad(
    kind: str,
    loss_db: float,
    z_source: float,
    z_load: float,
    series: Series = "E12",
    drawer: Sequence[float] | None = None,
) -> list[ShapedPad]:
    """Pads of ``kind`` near a loss, best first; empty where that kind cannot give it.

    A kind that is not of ``SHAPES`` is built as it is, and not designed for a loss.
    """
    if kind not in SHAPES or loss_db <= 0 or z_load <= 0 or not math.isfinite(z_load):
        return []
    return SHAPES[kind](Wanted(loss_db, z_source, z_load, series, drawer))


@dataclass(frozen=True)
class Wanted:
    """What a pad is designed for: its loss, what it stands between, the values to be had."""

    loss_db: float
    z_source: float
    z_load: float
    series: Series
    drawer: Sequence[float] | None


def _l_pads(wanted: Wanted) -> list[ShapedPad]:
    """A series resistor and a shunt."""
    w = wanted
    return [
        ShapedPad("l-pad", (("series_ohm", p.series_ohm), ("shunt_ohm", p.shunt_ohm)), p.loss_db)
        for p in design_l_pad(w.loss_db, w.z_source, w.z_load, w.series, w.drawer)
    ]


def _u_pads(wanted: Wanted) -> list[ShapedPad]:
    """An L-pad whose series resistor is shared by both legs."""
    found = []
    loss_db, z_source, z_load = wanted.loss_db, wanted.z_source, wanted.z_load
    rounded = _rounding(wanted.series, wanted.drawer)
    for pad in design_l_pad(loss_db, z_source, z_load, wanted.series, wanted.drawer):
        leg = rounded(pad.series_ohm / 2)
        loss = l_pad_loss_db(2 * leg, pad.shunt_ohm, z_source, z_load)
        found.append(ShapedPad("u-pad", (("leg_ohm", leg), ("shunt_ohm", pad.shunt_ohm)), loss))
    return sorted(found, key=lambda p: abs(p.loss_db - loss_db))


def _series(loss_db: float, z_source: float, z_load: float, rounded: Rounded) -> ShapedPad | None:
    exact = z_load * 10 ** (loss_db / 20) - z_load - z_source
    if exact < LEAST_OHM:
        return None
    ohm = rounded(exact)
    loss = 20 * math.log10((z_source + ohm + z_load) / z_load)
    return ShapedPad("series-pad", (("series_ohm", ohm),), loss)


def _t_pad(loss_db: float, z_source: float, z_load: float, rounded: Rounded) -> ShapedPad | None:
    """Matched to source and load; None below the least loss that can match both."""
    if z_source <= 0:
        return None
    n = (10 ** (loss_db / 20) / 2) ** 2 * z_load / z_source
    if n <= 1:
        return None
    shunt = 2 * math.sqrt(n * z_source * z_load) / (n - 1)
    spread = (n + 1) / (n - 1)
    first, second = z_source * spread - shunt, z_load * spread - shunt
    if min(first, second, shunt) < LEAST_OHM:
        return None
    first, shunt, second = rounded(first), rounded(shunt), rounded(second)
    values = (("first_ohm", first), ("shunt_ohm", shunt), ("second_ohm", second))
    return ShapedPad("t-pad", values, t_pad_loss_db(first, shunt, second, z_source, z_load))


def t_pad_loss_db(
    first_ohm: float, shunt_ohm: float, second_ohm: float, z_source: float, z_load: float
) -> float:
    """Loss from the open source to the loaded output of a T."""
    behind = second_ohm + z_load
    lower = shunt_ohm * behind / (shunt_ohm + behind)
    return 20 * math.log10((z_source + first_ohm + lower) / lower * behind / z_load)


def trim_pot_loss_db(track_ohm: float, share: float, z_source: float, z_load: float) -> float:
    """Loss of a potentiometer turned up by ``share``."""
    lower = share * track_ohm * z_load / (share * track_ohm + z_load)
    return 20 * math.log10((z_source + (1 - share) * track_ohm + lower) / lower)


def _trim_pot(loss_db: float, z_source: float, z_load: float, _: Rounded) -> ShapedPad | None:
    """A track of at least five times the source, its wiper found by halving."""
    track = next((t for t in TRACKS_OHM if t >= 5 * z_source), TRACKS_OHM[-1])
    if trim_pot_loss_db(track, 0.999, z_source, z_load) > loss_db:
        return None
    low, high = 1e-3, 0.999
    for _step in range(50):
        middle = math.sqrt(low * high)
        if trim_pot_loss_db(track, middle, z_source, z_load) > loss_db:
            low = middle
        else:
            high = middle
    share = float(f"{math.sqrt(low * high):.3g}")
    loss = trim_pot_loss_db(track, share, z_source, z_load)
    return ShapedPad("trim-pot", (("track_ohm", track), ("turned_up", share)), loss)


def _single(
    design: Callable[[float, float, float, Rounded], ShapedPad | None],
) -> Callable[[Wanted], list[ShapedPad]]:
    """A shape with one answer, or none."""

    def designed(wanted: Wanted) -> list[ShapedPad]:
        rounded = _rounding(wanted.series, wanted.drawer)
        pad = design(wanted.loss_db, wanted.z_source, wanted.z_load, rounded)
        return [pad] if pad else []

    return designed


# kinds of pads that are designed for a loss, in the order in which a plan tries them
SHAPES: dict[str, Callable[[Wanted], list[ShapedPad]]] = {
    "l-pad": _l_pads,
    "series-pad": _single(_series),
    "t-pad": _single(_t_pad),
    "u-pad": _u_pads,
    "trim-pot": _single(_trim_pot),
}
