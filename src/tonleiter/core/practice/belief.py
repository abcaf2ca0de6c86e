"""Which cause explains what was seen, and what to look at next.

Belief by Bayes' rule over single causes; a look is worth the entropy that it is expected to take
away (Lindley, Ann. Math. Stat. 27, 1956), a minute.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from tonleiter.core.practice.look import Look, Seen
from tonleiter.core.signal.arrays import Floats

# what is expected to tell less than this, in bits, tells nothing
LEAST_BITS = 0.02


class Belief:
    """Over causes, from what each of them would show. ``shows`` has a row a cause."""

    def __init__(
        self,
        looks: Sequence[Look],
        shows: Sequence[Mapping[str, Seen]],
        priors: Sequence[float],
    ) -> None:
        self._looks = tuple(looks)
        self._shows = tuple(shows)
        self._priors: Floats = np.asarray(priors, float) / sum(priors)

    def after(self, seen: Mapping[str, Seen]) -> Floats:
        """The share of each cause, given what was seen; shape (causes,)."""
        weight = self._priors.copy()
        for look in self._looks:
            if look.id in seen:
                weight = weight * self._alike(look, seen[look.id])
        made: Floats = weight / weight.sum()
        return made

    def _alike(self, look: Look, seen: Seen) -> Floats:
        return np.array([look.likeness(seen, s[look.id]) for s in self._shows])

    def worth(self, look: Look, seen: Mapping[str, Seen]) -> float:
        """Bits that a look is expected to take away, given what was seen."""
        share = self.after(seen)
        before, left = _bits(share), 0.0
        for k in np.flatnonzero(share > 1e-4):
            then = share * self._alike(look, self._shows[k][look.id])
            left += share[k] * _bits(then / then.sum())
        return max(before - left, 0.0)

    def next(self, seen: Mapping[str, Seen]) -> Look | None:
        """The look that tells most a minute; None where nothing tells any more."""
        open_ = [x for x in self._looks if x.id not in seen]
        worth = {x.id: self.worth(x, seen) for x in open_}
        told = [x for x in open_ if worth[x.id] > LEAST_BITS]
        return max(told, key=lambda x: worth[x.id] / x.minutes, default=None)


def _bits(share: Floats) -> float:
    alive = share[share > 1e-12]
    return float(-np.sum(alive * np.log2(alive)))
