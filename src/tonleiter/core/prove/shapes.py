"""How the readings of units with each fault lie: their middle, and how they hang together."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from tonleiter.core.once import cached_property
from tonleiter.core.prove.fit import Fits, fits
from tonleiter.core.prove.simulated import Floats, Places, Simulated
from tonleiter.core.stop import checkpoint

# units that are drawn of a fault that is looked at closely
FEW_DRAWS = 16
# of a draw's spread so much is a reading's own: what is not in proportion (a curve, a limit)
OWN_SHARE = 0.2
# a fault makes a reading hang on parts on which it did not hang before: so much of what it moved
MOVED_SHARE, MOST_MOVED = 0.08, 1.0
# what no answer counts as, where two faults are compared
NO_ANSWER = 1e3
# a fault that misses three readings by so much more than another needs no closer look
HOPELESS = 120.0
# what one reading counts for at most, where only a rough order is wanted
MOST_MISSED = 50.0
# squared distance from which two faults are told apart by one reading
FAR_APART = 60.0


class Shapes:
    """Means and covariances of every fault's readings. ``closely`` are those that were drawn.

    ``common`` is how the readings of right units hang together, shape (readings, readings).
    """

    def __init__(self, simulated: Simulated, closely: dict[str, tuple[Floats, Floats]]) -> None:
        self.simulated = simulated
        self._closely = closely
        self.common = _covariance(simulated.rows)

    @cached_property
    def own(self) -> Floats:
        """What each reading of each fault has by itself, a variance; shape (faults, readings)."""
        s = self.simulated
        values = np.nan_to_num(s.values)
        moved = np.minimum(np.abs(values - np.nan_to_num(s.nominal)), MOST_MOVED)
        total: Floats = (
            (MOVED_SHARE * moved) ** 2
            + s.scale.meter(values) ** 2
            + (OWN_SHARE**2) * np.diag(self.common)
        )
        return total

    @cached_property
    def _middles(self) -> Floats:
        """Shape (faults, readings); of right units their mean."""
        values = self.simulated.values.copy()
        known = np.isfinite(self.simulated.rows)
        count = np.maximum(known.sum(axis=0), 1)
        values[0] = np.where(known, self.simulated.rows, 0.0).sum(axis=0) / count
        return values

    @cached_property
    def _degrees(self) -> dict[int, Floats]:
        """Faults of one family differ in how much: half the way to the next one is still it."""
        by_family: dict[str, list[int]] = {}
        for k, fault in enumerate(self.simulated.faults):
            by_family.setdefault(fault.family, []).append(k)
        found = {}
        values = self.simulated.values
        for members in by_family.values():
            for n, k in enumerate(members):
                near = [members[m] for m in (n - 1, n + 1) if 0 <= m < len(members)]
                if near:
                    away = np.nan_to_num(values[near] - values[k])
                    found[k] = away[int(np.argmin((away**2).sum(axis=1)))] / 2
        return found

    @cached_property
    def _degree2(self) -> Floats:
        """The squares of those, shape (faults, readings)."""
        found = np.zeros_like(self.simulated.values)
        for k, degree in self._degrees.items():
            found[k] = degree**2
        return found

    def of(self, which: Sequence[int], places: Places, read: Floats) -> tuple[Floats, Floats]:
        """Means and covariances of some readings of some faults, as the meter shows them there."""
        at, n = np.ix_(places, places), places.size
        rows = np.asarray(which, dtype=np.intp)[:, None]
        mean = self._middles[rows, places].copy()
        covariance = np.broadcast_to(self.common[at], (len(which), n, n)).copy()
        covariance[:, range(n), range(n)] += self.own[rows, places]
        for row, k in enumerate(which):
            if (close := self._closely.get(self.simulated.faults[k].id)) is not None:
                mean[row], covariance[row] = close[0][places], close[1][at]
            elif (degree := self._degrees.get(k)) is not None:
                covariance[row] += np.outer(degree[places], degree[places])
        covariance[:, range(n), range(n)] += self.digits(places, read)
        return mean, covariance

    def digits(self, places: Places, read: Floats) -> Floats:
        """The variance that the last digit has where it was read, if it is low on its range."""
        s = self.simulated
        full = np.full(len(s.readings), math.nan)
        full[places] = read
        here = s.scale.meter(np.nan_to_num(full))[places]
        usual = s.scale.meter(np.nan_to_num(s.nominal))[places]
        return np.maximum(here**2 - usual**2, 0.0)

    def fits(self, places: Places, read: Floats) -> Fits:
        """How every fault fits; those that miss by far are not reckoned finely."""
        count = len(self.simulated.faults)
        variance = np.diag(self.common) + self.own + self._degree2
        for k, fault in enumerate(self.simulated.faults):
            if (close := self._closely.get(fault.id)) is not None:
                variance[k] = np.diag(close[1])
        away = read - self._middles[:, places]
        z2 = np.where(np.isfinite(away), away, 0.0) ** 2
        z2 = z2 / (variance[:, places] + self.digits(places, read))
        # two readings may be slips; no distance is less than that of the worst of the others
        third = np.sort(z2, axis=1)[:, -3] if places.size > 2 else np.zeros(count)
        near = [int(k) for k in np.flatnonzero(third < third.min() + HOPELESS)]
        found = fits(*self.of(near, places, read), read)
        return found.among(near, count, -0.5 * third)

    def is_close(self, k: int) -> bool:
        """Whether units of this fault were drawn."""
        return k == 0 or self.simulated.faults[k].id in self._closely

    def look_closely(self, k: int) -> None:
        """Draw units of this fault; what they read hangs together in its own way."""
        s = self.simulated
        rows = s.units_of(k, FEW_DRAWS)
        common = self._moved(_covariance(rows) - self._few)
        own = s.scale.meter(np.nan_to_num(s.values[k])) ** 2 + OWN_SHARE**2 * np.diag(common)
        covariance = common + np.diag(own)
        if (degree := self._degrees.get(k)) is not None:
            covariance = covariance + np.outer(degree, degree)
        known = np.isfinite(rows).any(axis=0)
        middle = np.nanmedian(np.where(known, rows, 0.0), axis=0)
        self._closely[s.faults[k].id] = np.where(known, middle, math.nan), covariance

    @cached_property
    def _few(self) -> Floats:
        """How the readings of the same few units hang together without a fault."""
        return _covariance(self.simulated.units_of(0, FEW_DRAWS))

    def _moved(self, by: Floats) -> Floats:
        """How readings hang together, moved by what a fault changes in the same few units.

        Few units see few ways to spread; what both see alike cancels (control variates). What is
        below nothing then is nothing.
        """
        width = np.sqrt(np.diag(self.common)) + 1e-3
        values, vectors = np.linalg.eigh((self.common + by) / np.outer(width, width))
        kept = (vectors * np.maximum(values, 0.0)) @ vectors.T
        found: Floats = kept * np.outer(width, width)
        return found

    def pairs(self, places: Places, read: Floats) -> Iterator[tuple[int, int]]:
        """Two faults at a time, that first which may explain readings best.

        What both move is added up, in the scale: so rough that it only says which to simulate.
        """
        s = self.simulated
        moved = np.nan_to_num(s.values - s.nominal)[1:, places]
        left = read - np.nan_to_num(s.nominal)[places] - moved
        variance = np.diag(self.common)[places] + self.own[1:, places]
        rows = []
        for k in range(len(moved)):
            checkpoint()
            here = variance + variance[k]
            rows.append(np.minimum((left - moved[k]) ** 2 / here, MOST_MISSED).sum(axis=1))
        missed = np.triu(np.array(rows), 1)
        missed[np.tril_indices(len(missed))] = math.inf
        for place in np.argsort(missed, axis=None):
            one, other = divmod(int(place), len(missed))
            yield one + 1, other + 1

    def apart(self, k: int, places: Places | None = None) -> Floats:
        """How far each fault lies from one of them over all readings, or some: shape (faults,).

        In standard deviations; infinite where one reading alone tells them apart by far.
        """
        s = self.simulated
        at = np.arange(len(s.readings)) if places is None else places
        values = np.nan_to_num(s.values[:, at], nan=NO_ANSWER)
        away = values - values[k]
        own = np.maximum(self.own[:, at], self.own[k, at])
        common = self.common[np.ix_(at, at)]
        # no distance is less than that of the reading which tells most
        wide = own + np.diag(common)
        if k:
            wide = wide + self._degree2[:, at] + self._degree2[k, at]
        least = (away**2 / wide).max(axis=1, initial=0.0)
        near = np.flatnonzero(least < FAR_APART)
        covariance = np.broadcast_to(common, (near.size, *common.shape)).copy()
        covariance[:, range(at.size), range(at.size)] += own[near]
        # a joint is dry by any ohms, a value off by any factor: so far each is still itself
        for row, j in enumerate(near):
            for degree in (self._degrees.get(k), self._degrees.get(int(j))):
                if degree is not None and k and j:
                    covariance[row] += np.outer(degree[at], degree[at])
        far = np.full(len(values), math.inf)
        solved = np.linalg.solve(covariance, away[near][:, :, None])[:, :, 0]
        far[near] = np.sqrt(np.einsum("fi,fi->f", away[near], solved).clip(0))
        return far


def _covariance(rows: Floats) -> Floats:
    """Of draws, shape (draws, readings); what some draws leave open counts where it is known."""
    known = np.isfinite(rows)
    mean = np.where(known, rows, 0.0).sum(axis=0) / np.maximum(known.sum(axis=0), 1)
    off = np.where(known, rows - mean, 0.0)
    found: Floats = off.T @ off / max(len(rows) - 1, 1)
    return found
