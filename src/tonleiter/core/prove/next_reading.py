"""Which reading to take next: the most telling one, a minute, of the step that is due.

Ohms come before there is power, volts before current, and a tone last; what must be read before
power is read first. What a reading tells is the entropy of where it is expected to fall, given all
that was read (Lindley, Ann. Math. Stat. 27, 1956).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from tonleiter.core.bench.reading import Reading
from tonleiter.core.prove.shapes import Shapes
from tonleiter.core.prove.simulated import Floats, Places

# faults that still count, and how many of them are reckoned with
ALIVE, MOST_ALIVE = 1e-4, 40
# bits under which a step has nothing more to tell, to turn back for; under which nothing has
ENOUGH_BITS, BACK_BITS, LEAST_BITS = (0.03, 0.03, 0.03, 0.01), 0.3, 1e-3


def next_reading(
    shapes: Shapes, belief: Floats, readings: Mapping[str, float], short: bool
) -> Reading | None:
    """The reading to take; None where nothing more is told apart.

    After a ``short`` where volts would stand none is taken under power.
    """
    every = shapes.simulated.readings
    wanted = [k for k, r in enumerate(every) if _is_open(r, every, readings)]
    if not wanted:
        return None
    bits = _bits(shapes, belief, readings, wanted)
    steps = (0,) if short else (0, 1, 2, 3)
    # nobody turns back to a step that is done for a little more
    came_to = max((r.order for r in every if r.id in readings), default=0)
    for step in steps:
        here = [k for k in wanted if every[k].order == step]
        must = [k for k in here if every[k].first]
        enough = BACK_BITS if step < came_to else ENOUGH_BITS[step]
        told = [k for k in here if bits[k] > enough]
        if chosen := must or told:
            return every[max(chosen, key=lambda k: bits[k] / every[k].minutes)]
    on = [k for k in wanted if every[k].order in steps and every[k].order >= came_to]
    left = [k for k in on if bits[k] > LEAST_BITS]
    return every[max(left, key=lambda k: bits[k] / every[k].minutes)] if left else None


def _is_open(reading: Reading, every: Sequence[Reading], readings: Mapping[str, float]) -> bool:
    """Whether it is still to be taken: one of many that must not beep, only if one of them does."""
    if reading.id in readings:
        return False
    rest = next((r for r in every if reading.id in r.of), None)
    return rest is None or (rest.id in readings and np.isfinite(readings[rest.id]))


def _bits(
    shapes: Shapes, belief: Floats, readings: Mapping[str, float], wanted: Sequence[int]
) -> dict[int, float]:
    """What each reading is expected to tell, in bits."""
    order = np.argsort(-belief)[:MOST_ALIVE]
    alive = [int(k) for k in order if belief[k] > ALIVE]
    share = belief[alive] / belief[alive].sum()
    places, read = shapes.simulated.scaled(readings)
    every = np.arange(len(shapes.simulated.readings))
    full = np.full(every.size, np.nan)
    full[places] = read
    mean, covariance = shapes.of(alive, every, full)
    mean = np.nan_to_num(mean, nan=0.0)
    if places.size:
        mean, covariance = _given(mean, covariance, places, read)
    sigma = np.sqrt(np.maximum(np.diagonal(covariance, axis1=1, axis2=2), 1e-12))
    return {k: _information(mean[:, k], sigma[:, k], share) for k in wanted}


def _given(mean: Floats, covariance: Floats, at: Places, read: Floats) -> tuple[Floats, Floats]:
    """What all readings are expected to be, given some (conditional normal distribution)."""
    cross = covariance[:, :, at]
    gain = np.swapaxes(np.linalg.solve(cross[:, at], np.swapaxes(cross, 1, 2)), 1, 2)
    moved = np.einsum("frp,fp->fr", gain, read - mean[:, at])
    return mean + moved, covariance - gain @ np.swapaxes(cross, 1, 2)


def _information(values: Floats, sigma: Floats, share: Floats) -> float:
    """Bits that a reading is expected to tell: entropy of where it falls, in bins of its spread."""
    order = np.argsort(values)
    v, s, p = values[order], sigma[order], share[order]
    # neighbours closer than twice their spread fall together
    cuts = np.flatnonzero(np.diff(v) > 2.5 * np.maximum(s[1:], s[:-1])) + 1
    parts = np.array([chunk.sum() for chunk in np.split(p, cuts)])
    parts = parts[parts > 0]
    return float(-(parts * np.log2(parts)).sum())
