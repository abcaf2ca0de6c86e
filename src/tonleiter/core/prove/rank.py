"""What would explain these readings: every fault simulated, weighed by how well it fits them all.

One belief serves for all: percentages, the headline, and what to read next come from it. Units are
drawn as bought (`spread`), so that readings which hang together count once (`fit`).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from tonleiter.core.bench.reading import RAIL, SUPPLY, Reading
from tonleiter.core.bench.unit import Unit
from tonleiter.core.once import cached_property
from tonleiter.core.prove.closest import closest
from tonleiter.core.prove.fault import Fault, Weighed, both
from tonleiter.core.prove.fit import Fits
from tonleiter.core.prove.next_reading import next_reading
from tonleiter.core.prove.scale import KINDS
from tonleiter.core.prove.shapes import Shapes
from tonleiter.core.prove.simulated import Floats, Places, Predicted, Simulated
from tonleiter.core.prove.spread import Units
from tonleiter.core.stop import checkpoint

HEALTHY = "none"
# faults that come within this of the best, in natural logarithms, are looked at closely
CLOSE, MOST_CLOSE = 7.0, 6
# with fewer readings than these many faults are alike, and none is worth it
CLOSE_FROM = 8
# nearer than this, in standard deviations, no reading tells two faults apart
APART_Z = 2.0
# readings that lie so much farther than units do, in standard deviations of their distance
SUSPICIOUS_Z = 5.0
# a right build that is so far behind, in natural logarithms, is not looked for any more
FAR_BEHIND = 30.0
# one that is less ahead is looked for too: parts end somewhere, and what no right unit comes
# nearer than this, as a squared distance, is not right
BARELY, REACH = 3.0, 25.0
# pairs of faults that are simulated
PAIRS = 80
# a reading that a fault misses by so many standard deviations is named
MISSED_Z = 3.0
# what is shorted where volts would stand: ohms, and as a share of the least that should be there
SHORT_OHM, SHORT_SHARE = 100.0, 1 / 3
# how sure one must be to name a fault
SURE, LIKELY = 0.9, 0.5

# a current that is no short, however little is expected
LEAST_SHORT_A = 10e-3

Short = Literal["", "ohms", "current"]
Says = Literal["nothing read", "right", "unsure", "fault", "strange"]


@dataclass(frozen=True)
class Explained:
    """A fault with its share of the belief, and faults that no reading tells from it."""

    fault: Fault
    likelihood: float
    worst: str
    equals: tuple[str, ...]


@dataclass(frozen=True)
class Ranking:
    """Faults, likeliest first; how likely a right build is; whether nothing explains the readings.

    ``right`` counts what no reading tells from a right build; ``next`` is the reading to take next;
    ``short`` whether volts would stand on a short, and what says so.
    """

    explained: tuple[Explained, ...]
    right: float
    next: Reading | None
    suspicious: bool
    short: Short = ""
    read: int = 0

    def groups(self, least: float) -> tuple[tuple[float, Explained], ...]:
        """Faults that no reading tells apart, or that differ in degree, under the likeliest.

        With the share of all. Those whose first has less than ``least`` are left out.
        """
        share = {e.fault.id: e.likelihood for e in self.explained}
        family = {e.fault.id: e.fault.family for e in self.explained}
        said: set[str] = set()
        groups: list[tuple[float, Explained]] = []
        for explained in self.explained:
            if explained.fault.id in said or explained.likelihood < least:
                continue
            kin = [i for i in share if family[i] == explained.fault.family]
            same = [e for e in dict.fromkeys((*explained.equals, *kin)) if e not in said]
            said |= {explained.fault.id, *same}
            together = sum(share.get(e, 0.0) for e in {explained.fault.id, *same})
            groups.append((min(together, 1.0), explained))
        return tuple(sorted(groups, key=lambda g: -g[0]))

    @property
    def says(self) -> Says:
        """What all of it comes to, in one word: the headline and every sentence follow it."""
        if not self.read:
            return "nothing read"
        if self.suspicious:
            return "strange"
        together, first = self.groups(0.0)[0]
        if HEALTHY in (first.fault.id, *first.equals) or self.right >= LIKELY:
            return "right"
        return "fault" if together >= SURE else "unsure"


class Bench:
    """One unit with its faults, all simulated once."""

    def __init__(
        self, unit: Unit, readings: Sequence[Reading], faults: Sequence[Fault], units: Units
    ) -> None:
        self._start(Simulated(unit, readings, (_healthy(faults), *faults), units), {})
        self._start(self.simulated.only(self._that_matter()), {})

    def _start(self, simulated: Simulated, closely: dict[str, tuple[Floats, Floats]]) -> None:
        self.simulated, self._closely = simulated, closely
        self.shapes = Shapes(simulated, closely)
        self.faults, self.readings = simulated.faults, simulated.readings
        self._priors = np.log([f.prior for f in self.faults])
        self._far: dict[int, Floats] = {}

    def _that_matter(self) -> list[int]:
        """Another value or a dry joint that changes nothing is no fault, if a worse one would."""
        untold, worst = self.untold(), dict[str, int]()
        apart = self._apart(0, None)
        for k, f in enumerate(self.faults):
            if f.family not in worst or apart[k] > apart[worst[f.family]]:
                worst[f.family] = k
        return [k for k, f in enumerate(self.faults) if f.id not in untold or worst[f.family] == k]

    @cached_property
    def predicted(self) -> Predicted:
        """Brackets of every reading."""
        return self.simulated.predicted()

    # --- belief ----------------------------------------------------------------------------------

    def fits(self, readings: Mapping[str, float]) -> Fits:
        """How well each fault explains what was read."""
        places, read = self.simulated.scaled(readings)
        found = self.shapes.fits(places, read)
        logs = found.log + self._priors
        likely = np.argsort(-logs)[: MOST_CLOSE if len(readings) >= CLOSE_FROM else 0]
        near = [int(k) for k in likely if logs[k] > logs.max() - CLOSE]
        if far := [k for k in near if not self.shapes.is_close(k)]:
            for k in far:
                checkpoint()
                self.shapes.look_closely(k)
            found = self.shapes.fits(places, read)
            logs = found.log + self._priors
        if found.slip[0].any() or (len(readings) < CLOSE_FROM and logs[0] == logs.max()):
            return found
        others = np.delete(logs, self._equals(0))
        ahead = logs[0] - (others.max() if others.size else -math.inf)
        return self._looked_again(found, places, read) if -FAR_BEHIND < ahead < BARELY else found

    def _looked_again(self, found: Fits, places: Places, read: Floats) -> Fits:
        """Before a build is accused or cleared, a right one is looked for that reads like this."""
        s = self.simulated
        kinds = np.array([s.scale.kinds(k)[places] for k in KINDS])
        off = kinds * s.scale.by_class(s.nominal)[places]
        own = s.scale.meter(np.nan_to_num(s.nominal))[places] ** 2
        own = own + self.shapes.digits(places, read)
        right = closest(lambda at: s.right_at(at)[places], s.units.count, read, off, own)
        better, out_of_reach = right.log > found.log[0], right.chi2 > found.chi2[0] + REACH
        return found.with_first(right.log, right.chi2) if better or out_of_reach else found

    def _beliefs(self, found: Fits | None) -> Floats:
        """Share of the belief that each fault gets, shape (faults,)."""
        logs = self._priors + (found.log if found is not None else 0.0)
        share = np.exp(logs - logs.max())
        total: Floats = share / share.sum()
        return total

    def untold(self, readings: Sequence[str] | None = None) -> frozenset[str]:
        """Faults that nobody would believe if all readings, or these, showed them.

        What such a fault moves is less than parts and meters do: a right build is likelier.
        """
        behind = self._priors[0] - self._priors - 0.5 * self._apart(0, readings) ** 2
        return frozenset(f.id for k, f in enumerate(self.faults) if k and behind[k] > 0)

    def alike(self, fault_id: str, readings: Sequence[str] | None = None) -> tuple[str, ...]:
        """Faults that all readings, or these, do not tell from one."""
        k = next(k for k, f in enumerate(self.faults) if f.id == fault_id)
        near = np.flatnonzero(self._apart(k, readings) < APART_Z)
        return tuple(self.faults[j].id for j in near if j != k)

    def _apart(self, k: int, readings: Sequence[str] | None) -> Floats:
        if readings is None:
            if k not in self._far:
                self._far[k] = self.shapes.apart(k)
            return self._far[k]
        places, _ = self.simulated.scaled(dict.fromkeys(readings, 0.0))
        return self.shapes.apart(k, places)

    def _equals(self, k: int) -> list[int]:
        return [int(j) for j in np.flatnonzero(self._apart(k, None) < APART_Z)]

    # --- ranking ---------------------------------------------------------------------------------

    def rank(self, readings: Mapping[str, float]) -> Ranking:
        """Faults by how well each explains all readings, and what to read next."""
        found = self.fits(readings) if readings else None
        belief = self._beliefs(found)
        order = np.argsort(-belief, kind="stable")
        explained = [
            Explained(
                self.faults[k],
                float(belief[k]),
                self._worst(int(k), readings, found),
                tuple(self.faults[j].id for j in self._equals(int(k)) if j != k),
            )
            for k in order[:40]
        ]
        short = self._short(readings)
        return Ranking(
            tuple(explained),
            float(belief[self._equals(0)].sum()),
            self._next(belief, readings, short),
            found is not None and _too_far(found, int(order[0])),
            short,
            len(readings),
        )

    def _next(self, belief: Floats, readings: Mapping[str, float], short: Short) -> Reading | None:
        """Nothing where what is left is all alike."""
        alive = np.flatnonzero(belief > 1e-4)
        must = any(r.first and r.id not in readings for r in self.readings)
        if not must and set(alive.tolist()) <= set(self._equals(int(np.argmax(belief)))):
            return None
        return next_reading(self.shapes, belief, readings, bool(short))

    def _short(self, readings: Mapping[str, float]) -> Short:
        """Whether next to nothing lies where volts would stand, or far too much flows."""
        predicted = self.predicted
        for k, reading in enumerate(self.readings):
            read = readings.get(reading.id)
            if read is None:
                continue
            which = reading.id.partition(" ")[0]
            if which == RAIL and read < min(SHORT_OHM, SHORT_SHARE * predicted.low[k]):
                return "ohms"
            if which == SUPPLY and read > max(LEAST_SHORT_A, predicted.high[k] / SHORT_SHARE):
                return "current"
        return ""

    def _worst(self, k: int, readings: Mapping[str, float], found: Fits | None) -> str:
        """The reading that a fault explains least."""
        if found is None:
            return ""
        at = int(np.argmax(np.abs(found.z[k])))
        return list(readings)[at] if abs(found.z[k][at]) > MISSED_Z else ""

    def with_pairs(self, readings: Mapping[str, float]) -> Bench:
        """The same bench with those pairs of faults that may explain these readings."""
        places, read = self.simulated.scaled(readings)
        total = sum(f.prior for f in self.faults[1:])
        pairs: dict[frozenset[str], Fault] = {}
        for one, other in self.shapes.pairs(places, read):
            if len(pairs) == PAIRS:
                break
            a, b = self.faults[one], self.faults[other]
            if a.part != b.part:
                pairs.setdefault(frozenset((a.id, b.id)), both(a, b, total))
        made = Bench.__new__(Bench)
        found = self.simulated.with_more(tuple(pairs.values())) if pairs else self.simulated
        made._start(found, self._closely)
        return made


def _too_far(found: Fits, k: int) -> bool:
    """Whether even this one misses the readings by more than units and meters do.

    The cube root of a chi-squared over its count is nearly normal (Wilson and Hilferty 1931).
    """
    n = found.z.shape[1]
    z = ((found.chi2[k] / n) ** (1 / 3) - (1 - 2 / (9 * n))) / math.sqrt(2 / (9 * n))
    return bool(z > SUSPICIOUS_Z or found.slip[k].any())


def _healthy(faults: Sequence[Fault]) -> Fault:
    """A build that is right: as likely as all single faults together, before it is measured."""
    weight = sum(f.prior for f in faults) or 1.0
    return Weighed(HEALTHY, "nothing wrong", "dry", "", lambda elements: elements, likely=weight)
