"""A build on the simulated bench: what it reads as it is, with each fault, and in many units."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.measure import AtRest, at_rest, measure
from tonleiter.core.bench.reading import Reading
from tonleiter.core.bench.unit import Unit
from tonleiter.core.circuit.elements import Element
from tonleiter.core.prove.fault import Fault
from tonleiter.core.prove.scale import Scale, meters
from tonleiter.core.prove.spread import Drawn, Units
from tonleiter.core.stop import checkpoint

Floats = NDArray[np.float64]
Places = NDArray[np.intp]
# units that are drawn of the right build
DRAWS, SEED = 120, 20260314
# how far brackets reach over the units that were drawn, and over what the meter's last digit shows
WIDER, DIGITS = 0.15, 2.5


@dataclass(frozen=True)
class Predicted:
    """What the readings of a right unit are, and between which ends they lie; shape (readings,)."""

    nominal: Floats
    low: Floats
    high: Floats


class Simulated:
    """All faults, simulated once. Everything is in the scale of its reading.

    ``faults`` begins with none. ``nominal`` has shape (readings,), ``values`` (faults, readings),
    ``rows``, of right units through meters of their own, (units, readings).
    """

    def __init__(
        self, unit: Unit, readings: Sequence[Reading], faults: Sequence[Fault], units: Units
    ) -> None:
        self.unit, self.units = unit, units
        self.readings, self.faults = tuple(readings), tuple(faults)
        self.scale = Scale(self.readings)
        self._names = {r.id: k for k, r in enumerate(self.readings)}
        self._near: AtRest = at_rest(unit, unit.elements)
        rng = np.random.default_rng(SEED)
        self._drawn = [units.made(s) for s in units.draw(rng, DRAWS)]
        self.nominal = self._read(unit, unit.elements)
        self._bare = self._read_off(self._drawn, self.faults[0])
        self.rows = self._bare + meters(self.scale, self.nominal, rng, DRAWS)
        self.values = np.array([self._with(f) for f in self.faults])

    def _read(self, unit: Unit, elements: Sequence[Element]) -> Floats:
        return self.scale.scaled(measure(unit, elements, self.readings, self._near))

    def _with(self, fault: Fault) -> Floats:
        checkpoint()
        return self._read(self.unit, fault.change(self.unit.elements))

    def _read_off(self, drawn: Sequence[Drawn], fault: Fault) -> Floats:
        return np.array([self._of(one, fault) for one in drawn])

    def _of(self, drawn: Drawn, fault: Fault) -> Floats:
        checkpoint()
        return self._read(replace(self.unit, bench=drawn.bench), fault.change(drawn.elements))

    def with_more(self, faults: Sequence[Fault]) -> Simulated:
        """The same with more faults."""
        made = copy(self)
        made.faults = (*self.faults, *faults)
        made.values = np.vstack([self.values, *([self._with(f)] for f in faults)])
        return made

    def only(self, kept: Sequence[int]) -> Simulated:
        """The same with some of the faults."""
        made = copy(self)
        made.faults, made.values = tuple(self.faults[k] for k in kept), self.values[kept]
        return made

    def units_of(self, k: int, count: int) -> Floats:
        """What so many units with a fault read, shape (units, readings)."""
        off = meters(self.scale, np.nan_to_num(self.values[k]), np.random.default_rng(SEED), count)
        return self._read_off(self._drawn[:count], self.faults[k]) + off

    def right_at(self, shares: Floats) -> Floats:
        """What a right unit at these shares reads, shape (readings,)."""
        return self._of(self.units.made(shares), self.faults[0])

    def scaled(self, readings: Mapping[str, float]) -> tuple[Places, Floats]:
        """Places and values of what was read. Raises KeyError for a strange one."""
        places = np.array([self._names[i] for i in readings], dtype=np.intp)
        full = np.full(len(self.readings), math.nan)
        for i, value in readings.items():
            full[self._names[i]] = value
        return places, self.scale.scaled(full)[places]

    def predicted(self) -> Predicted:
        """Brackets of every reading: units as bought, read with a meter of its class."""
        known = np.where(np.isfinite(self.rows), self.rows, self.nominal)
        low, high = known.min(axis=0), known.max(axis=0)
        digits = DIGITS * self.scale.meter(self.nominal) + self.scale.by_class(self.nominal) / 2
        wide = WIDER * (high - low) + digits
        ends = (
            self.nominal,
            np.minimum(low, self.nominal) - wide,
            np.maximum(high, self.nominal) + wide,
        )
        return Predicted(*(self.scale.plain(x) for x in ends))
