"""How far a figure may lie from what is written of it, by where it comes from.

A range that somebody typed stays a range. Else a typical figure spreads as units of its kind do,
one from a manual as its tolerance, a measured one as its meter. Spreads are one standard deviation.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Basis, Figure, Quantity
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.draws import between
from tonleiter.core.words import the

# of a figure with a unit that takes prefixes, as a share; of one in decibels, in decibels
SHARE: Mapping[Basis, float] = {"typical": 0.20, "manual": 0.06, "measured": 0.015}
DECIBELS: Mapping[Basis, float] = {"typical": 3.0, "manual": 1.0, "measured": 0.3}
# kinds of figures that spread more or less than the rest while they are typical, with the reason
OWN: Mapping[str, float] = {
    "bias_v": 0.08,  # a supply behind a regulator, its drop by the maker's taste
    "bias_ohm": 0.40,  # makers take 1k to 4k7
    "z_in_ohm": 0.35,
    "current_a": 0.35,  # of one type from 0.15 to 0.5 mA (sheets of electret capsules)
    "pinch_off_v": 0.30,
    "coil_ohm": 0.08,
    "beta": 0.45,  # a decade from least to most of one type
    "wants_dbu": 5.0,
    "sensitivity_dbv_per_pa": 2.5,  # sheets give ± 3 to ± 4 dB
    "sensitivity_mv_per_pa": 0.30,
    "clip_dbu": 4.0,
}


@dataclass(frozen=True)
class Parameter:
    """A figure of a stage that is not known for certain. ``spread`` is zero for a typed range."""

    stage: int
    field: str
    label: str
    quantity: Quantity
    figure: Figure
    spread: float

    def values(self, z: Floats) -> Floats:
        """What standard normal draws stand for, of the same shape."""
        figure = self.figure
        if figure.low is not None and figure.high is not None and figure.high > figure.low:
            return between(self.quantity, figure.low, figure.high, ndtr(z))
        if _in_ratio(self.quantity, figure):
            return np.asarray(figure.value * np.exp(self.spread * z))
        return np.asarray(figure.value + self.spread * z)


def _in_ratio(quantity: Quantity, figure: Figure) -> bool:
    return quantity.unit.prefixed and figure.value > 0


def parameters(stages: tuple[PlacedStage, ...]) -> tuple[Parameter, ...]:
    """Figures of a chain that may differ from what is written; not what somebody has chosen."""
    made = []
    for k, stage in enumerate(stages):
        gear = stage.gear
        idle = {*gear.idle_fields(), *type(gear).choices}
        for field, (quantity, info) in gear.figures().items():
            figure = gear.figure(field)
            if field in idle or not math.isfinite(figure.value):
                continue
            spread = _spread(field, quantity, figure)
            ranged = figure.low is not None and figure.high is not None
            if spread == 0 and not ranged:
                continue
            label = f"{info.title or field} of {the(gear.name)}"
            made.append(Parameter(k, field, label, quantity, figure, spread))
    return tuple(made)


def _spread(field: str, quantity: Quantity, figure: Figure) -> float:
    if quantity.unit.prefixed and figure.value <= 0:
        return 0.0  # what is not there has no spread: a socket without bias is another circuit
    if field in OWN and figure.basis == "typical":
        return OWN[field]
    if _in_ratio(quantity, figure):
        return SHARE[figure.basis]
    if "dB" in quantity.unit.symbol:
        return DECIBELS[figure.basis]
    return 0.0


def could_be(gear: Gear, figures: Mapping[str, float]) -> bool:
    """Whether a piece of its kind may have these figures together."""
    return gear.could_be({f: Figure(value=v) for f, v in figures.items()})
