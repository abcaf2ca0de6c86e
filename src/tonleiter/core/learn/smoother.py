"""An ensemble moved towards what was read, in several small steps (ES-MDA).

Emerick and Reynolds, Computers & Geosciences 55, 2013: the same readings are taken in ``STEPS``
times, each time with their error variance that many times as large; for a linear circuit that is
exactly one whole update, for another the small steps follow its bend. Parameters are standard
normal before anything was read, so that what they stand for keeps to its range however far they go.
What correlates with a reading by chance only is not moved by it.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.signal.arrays import Floats
from tonleiter.core.stop import checkpoint

Bools = NDArray[np.bool_]
# z, shape (draws, parameters), to what would be read, shape (draws, readings)
Forward = Callable[[Floats], Floats]

STEPS = 4
# a correlation of draws that have nothing to do with each other is larger than this once in a
# thousand times, in units of one over the root of their number
CHANCE = 3.3


def smoothed(
    z: Floats,
    forward: Forward,
    read: Floats,
    sd: Floats,
    seed: int = 7,
    first: Floats | None = None,
) -> Floats:
    """Draws after readings, shape (draws, parameters); ``read`` and ``sd`` of shape (readings,).

    ``first`` is what the draws given read, where that is known. Deterministic. Raises StoppedError.
    """
    rng = np.random.default_rng(seed)
    z = z.copy()
    if not read.size:
        return z
    for k in range(STEPS):
        checkpoint()
        told = first if k == 0 and first is not None else forward(z)
        z = z + step(z, told, read, np.sqrt(STEPS) * sd, rng)
    return z


def step(z: Floats, told: Floats, read: Floats, sd: Floats, rng: np.random.Generator) -> Floats:
    """One update of draws, shape (draws, parameters), from what each of them would read."""
    draws = z.shape[0]
    away_z, away_d = z - z.mean(axis=0), told - told.mean(axis=0)
    cross = away_z.T @ away_d / (draws - 1)
    among = away_d.T @ away_d / (draws - 1)
    cross = np.where(follows(z, told), cross, 0.0)
    noise = rng.normal(size=told.shape)
    # the mean of what is added is nothing, or few draws would move by it
    noise = (noise - noise.mean(axis=0)) * sd
    pulled = np.linalg.solve(among + np.diag(sd**2), (read + noise - told).T)
    made: Floats = (cross @ pulled).T
    return made


def follows(z: Floats, told: Floats) -> Bools:
    """Which reading goes with which parameter by more than chance: (parameters, readings)."""
    draws = z.shape[0]
    away_z, away_d = z - z.mean(axis=0), told - told.mean(axis=0)
    size = np.outer(away_z.std(axis=0), away_d.std(axis=0)) + 1e-300
    cross = away_z.T @ away_d / max(draws - 1, 1)
    made: Bools = np.abs(cross) / size >= CHANCE / np.sqrt(draws)
    return made
