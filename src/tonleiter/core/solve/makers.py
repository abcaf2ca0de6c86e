"""Which capacitor or coil makes a corner: what taking it out of the solution would give back.

One solve forward and one from the reading back (Director and Rohrer, IEEE Trans. CT 16, 1969) tell
for every element at once how the response follows its value. For a high-pass of one element that is
S = d ln|H| / d ln C = 1 / (1 + (f/fc)²), from which its own corner fc follows; a coil across the
signal obeys the same. Nothing is assumed of what stands around it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from tonleiter.core.circuit.elements import Capacitor, Coupling, Inductor
from tonleiter.core.circuit.readings import reading_vectors
from tonleiter.core.solve.solution import ChainSolution

# an element of which the response takes less than this makes no corner near by
LEAST_SHARE = 0.02


@dataclass(frozen=True)
class Maker:
    """An element with the stage that it stands in, its share in the fall, its own corner."""

    stage: int
    element: Capacitor | Inductor
    share: float
    own_hz: float


def bass_makers(solution: ChainSolution, f_hz: float) -> list[Maker]:
    """Elements that take bass at a frequency, the one that takes most first.

    Windings that are coupled count as one: they have one core. Raises CircuitError.
    """
    system = solution.linear.system
    f = np.array([f_hz])
    x = solution.linear.solve(f, system.b_ac[:, None])[0, :, 0]
    reads = reading_vectors(system, solution.joints()[-1:])
    y = solution.linear.adjoint(f, reads)[0, :, 0]
    heard = complex(reads[:, 0] @ x)
    if heard == 0:
        return []
    entries = system.c_entries
    follows = -2j * math.pi * f_hz * entries.values * y[entries.rows] * x[entries.columns] / heard
    share = np.bincount(entries.elements, follows.real, len(system.circuit.elements))
    return sorted(_makers(solution, share, f_hz), key=lambda m: -m.share)


def _makers(solution: ChainSolution, share: np.ndarray, f_hz: float) -> Iterator[Maker]:
    elements = solution.linear.system.circuit.elements
    for k, stage in enumerate(solution.compiled.stages):
        wound = [n for n in stage.elements if isinstance(elements[n], Inductor | Coupling)]
        coupled = any(isinstance(elements[n], Coupling) for n in wound)
        for n in sorted(stage.elements):
            element = elements[n]
            if not isinstance(element, Capacitor | Inductor):
                continue
            takes = float(share[n])
            if coupled and isinstance(element, Inductor):
                takes = float(share[wound].sum())
            if LEAST_SHARE < takes < 1.0 - 1e-12:
                yield Maker(k, element, takes, f_hz / math.sqrt(1 / takes - 1))
