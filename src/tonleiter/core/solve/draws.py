"""Draws of uncertain figures: evenly between their ends, and only what a piece could be."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tonleiter.core.circuit.ac import Floats
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.words import the

SEED = 1926
# of the upper end of a range that begins at nothing
NEXT_TO_NOTHING = 1e-6
# field, what it accepts, its draws
Drawn = list[tuple[str, Quantity, Floats]]


@dataclass(frozen=True)
class Uncertain:
    """A figure with a range: where it stands, what it is called, and its draws, shape (draws,)."""

    stage: str
    field: str
    label: str
    draws: Floats


def draws_of(
    stages: tuple[PlacedStage, ...], rng: np.random.Generator, draws: int
) -> tuple[dict[int, Drawn], list[Uncertain]]:
    """Draws of every figure with a range, by stage, and as a list with their names."""
    by_stage: dict[int, Drawn] = {}
    figures: list[Uncertain] = []
    for k, stage in enumerate(stages):
        for field, (quantity, info) in stage.gear.figures().items():
            figure = stage.gear.figure(field)
            if figure.low is None or figure.high is None or figure.high <= figure.low:
                continue
            values = _draw(rng, quantity, figure, draws)
            if figure.draws:
                # learned with others: place by place they hang together
                values = np.resize(np.array(figure.draws), draws)
            by_stage.setdefault(k, []).append((field, quantity, values))
            label = f"{info.title or field} of {the(stage.gear.name)}"
            figures.append(Uncertain(stage.id, field, label, values))
    for k, fields in by_stage.items():
        if not any(stages[k].gear.figure(field).draws for field, _, _ in fields):
            _keep_the_rules(stages[k].gear, fields)
    return by_stage, figures


def _draw(rng: np.random.Generator, quantity: Quantity, figure: Figure, draws: int) -> Floats:
    low, high = figure.low, figure.high
    assert low is not None
    assert high is not None
    shares = rng.uniform(0.0, 1.0, draws)
    if 1 < draws < FEW:
        # few draws are spread from end to end, so that they reach both (Latin hypercube)
        shares = rng.permutation(np.linspace(0.0, 1.0, draws))
    return between(quantity, low, high, shares)


def between(quantity: Quantity, low: float, high: float, shares: Floats) -> Floats:
    """Values at these shares of the way between the ends, 0 to 1: evenly in ratio or in steps."""
    if quantity.unit.prefixed and low > 0:
        return np.asarray(low * (high / low) ** shares)
    drawn = low + (high - low) * shares
    # exactly nothing would be another circuit (no bias, no resistor for it): next to nothing is
    # the same to a meter
    return np.asarray(np.maximum(drawn, NEXT_TO_NOTHING * high) if low == 0 else drawn)


MOST_REDRAWS = 60
FEW = 30


def _keep_the_rules(gear: Gear, fields: list[tuple[str, Quantity, Floats]]) -> None:
    """Draw again, in place, what a piece of its kind could not be; it then stays as it is.

    A socket whose measured impedance includes its bias resistor, say, cannot have more than that
    resistor: such draws would be counted as if they could be.
    """
    if not type(gear).has_rules():
        return
    rng = np.random.default_rng(SEED)
    for draw in range(len(fields[0][2])):
        for _ in range(MOST_REDRAWS):
            if gear.could_be({f: Figure(value=float(values[draw])) for f, _, values in fields}):
                break
            for field, quantity, values in fields:
                values[draw] = _draw(rng, quantity, gear.figure(field), 1)[0]
        else:
            for field, _, values in fields:
                values[draw] = gear.figure(field).value
