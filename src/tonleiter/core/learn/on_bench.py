"""What readings of a bring-up teach: the build on the bench, made of drawn figures.

A unit on the bench takes some milliseconds, and the smoother asks for thousands. So so many units
are measured once, figures and parts drawn together, and each reading is fitted to the figures that
it follows, with their squares and cubes; what the fit leaves over is the spread of all other parts,
and counts as error of the reading.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from tonleiter.core.bench.measure import at_rest, measure
from tonleiter.core.bench.reading import Reading as BenchReading
from tonleiter.core.bench.readings import readings_of
from tonleiter.core.bench.unit import unit_of
from tonleiter.core.gear.figure import Figure
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.learn.predict import Model
from tonleiter.core.learn.reading import Reading, ReadingError
from tonleiter.core.learn.smoother import CHANCE
from tonleiter.core.once import cached_property
from tonleiter.core.prove.prove import UNITS as UNITS_OF
from tonleiter.core.prove.prove import read_value
from tonleiter.core.prove.scale import Scale
from tonleiter.core.prove.spread import Units, elements_with, valued
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.station.proved import Proved
from tonleiter.core.stop import checkpoint
from tonleiter.core.units.quantity import format_quantity

UNITS, SEED = 90, 411
# the fit is held back by this much where so few units tell too little
RIDGE = 0.1
# a uniform error of a meter's class, as a standard deviation
OF_CLASS = 3**-0.5


@dataclass(frozen=True, eq=False)
class Fit:
    """A curve over the figures that a reading follows, and what it leaves over."""

    columns: tuple[int, ...]
    weights: Floats
    left: float

    @staticmethod
    def of(z: Floats, told: Floats, among: Sequence[int]) -> Fit:
        """Fitted to what units of shape (units, parameters) read, shape (units,)."""
        strong = [
            j
            for j in among
            if np.std(z[:, j]) > 0
            and np.std(told) > 0
            and abs(np.corrcoef(z[:, j], told)[0, 1]) > CHANCE / np.sqrt(told.size)
        ]
        features = _features(z[:, strong])
        held = RIDGE * np.eye(features.shape[1])
        held[0, 0] = 0.0
        weights = np.linalg.solve(features.T @ features + held, features.T @ told)
        away = told - features @ weights
        free = max(told.size - features.shape[1], 1)
        return Fit(
            tuple(strong), np.asarray(weights, dtype=np.float64), float(np.sqrt(away @ away / free))
        )

    def at(self, z: Floats) -> Floats:
        """What draws read, shape (draws,)."""
        made: Floats = _features(z[:, list(self.columns)]) @ self.weights
        return made


@dataclass(frozen=True, eq=False)
class OnBench:
    """Readings of one part, each with what it follows."""

    asked: tuple[BenchReading, ...]
    fits: tuple[Fit, ...]

    @cached_property
    def _places(self) -> dict[str, int]:
        return {r.id: k for k, r in enumerate(self.asked)}

    def reads(self, z: Floats, token: str) -> Floats:
        """What draws of shape (draws, parameters) read, in the scale of the bench: (draws,)."""
        return self.fits[self._places[token]].at(z)

    def says(self, token: str, value: float) -> str:
        """A value of the bench's scale with its unit; open where a meter shows nothing."""
        reading = self.asked[self._places[token]]
        plain = float(Scale((reading,)).plain(np.array([value]))[0])
        if not np.isfinite(plain):
            return "open"
        return format_quantity(plain, UNITS_OF[reading.unit], 3)


def _features(z: Floats) -> Floats:
    # even and odd bends: a range that somebody typed ends on both sides
    return np.hstack([np.ones((z.shape[0], 1)), z, z**2 - 1.0, z**3 - 3.0 * z])


def on_bench(
    found: Verdict, part: int, proved: Proved, model: Model
) -> tuple[OnBench, tuple[Reading, ...]]:
    """Readings of a part as they were kept, each with its error. Raises ReadingError, IndexError.

    What is no reading of this unit any more is left out.
    """
    unit = unit_of(found, part)
    span = found.build.spans[part]
    stages = found.assessment.solution.compiled.stages
    parameters = model.parameters
    columns = tuple(j for j, p in enumerate(parameters) if span.first <= p.stage <= span.last)
    known = {r.id: r for r in readings_of(unit)}
    asked = [known[token] for token in proved.readings if token in known]
    if not asked or not columns:
        raise ReadingError("nothing of this part hangs on a figure that is not known")
    scale = Scale(tuple(asked))
    rng = np.random.default_rng(SEED)
    units = Units(unit, found, part)
    near = at_rest(unit, unit.elements)
    z = model.valid(rng.normal(size=(UNITS, len(parameters))))
    rows = []
    for d, shares in enumerate(units.draw(rng, UNITS)):
        checkpoint()
        by_stage: dict[int, dict[str, Figure]] = {}
        for j in columns:
            p = parameters[j]
            value = Figure(value=float(p.values(z[d, j])))
            by_stage.setdefault(p.stage, {})[p.field] = value
        drawn = units.made(shares)
        moved = elements_with((stages[k], fields) for k, fields in by_stage.items())
        elements = [valued(e, moved[e.name]) if e.name in moved else e for e in drawn.elements]
        told = measure(replace(unit, bench=drawn.bench), elements, asked, near)
        rows.append(scale.scaled(told))
    told = np.array(rows)
    usable = np.asarray(np.isfinite(told).all(axis=0))
    told = np.where(usable, told, 0.0)
    fits = tuple(Fit.of(z, told[:, k], columns) for k in range(len(asked)))
    left = np.array([f.left for f in fits])
    middle = told.mean(axis=0)
    sd = np.sqrt(left**2 + scale.meter(middle) ** 2 + (OF_CLASS * scale.by_class(middle)) ** 2)
    full = np.full(len(asked), np.nan)
    typed: Mapping[str, str] = proved.readings
    for k, reading in enumerate(asked):
        full[k] = read_value(typed[reading.id], reading.unit, reading.step)
    read = scale.scaled(full)
    moves = np.asarray(told.std(axis=0) > 1e-9)
    made = tuple(
        Reading(
            "proved", None, float(read[k]), float(sd[k]), typed[r.id], part, r.id, r.says,
            source="prove",
        )
        for k, r in enumerate(asked)
        if usable[k] and moves[k] and np.isfinite(read[k])
    )  # fmt: skip
    return OnBench(tuple(asked), fits), made
