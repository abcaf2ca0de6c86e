"""A chain's stages as groups of its circuit's elements, in the order of the chain."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.ac import Linear
from tonleiter.core.circuit.cascade import Cascade
from tonleiter.core.circuit.noise import noise_sources
from tonleiter.core.circuit.system import NoiseInjection, System
from tonleiter.core.solve.compiled import PlacedStage


def group_of_elements(stages: tuple[PlacedStage, ...], system: System) -> NDArray[np.intp]:
    """The stage that each element belongs to; the voice belongs to the first."""
    groups = np.zeros(len(system.circuit.elements), dtype=np.intp)
    for k, stage in enumerate(stages):
        groups[list(stage.elements)] = k
    return groups


def cascade_of(
    stages: tuple[PlacedStage, ...], linear: Linear, groups: NDArray[np.intp]
) -> Cascade:
    """The linearised chain as a cascade of its stages."""
    joints = [(s.outlet.hot, s.outlet.cold) for s in stages]
    return Cascade(linear.system, linear.g_entries, groups, joints)


def placed_sources(linear: Linear, groups: NDArray[np.intp]) -> list[tuple[int, NoiseInjection]]:
    """All noise sources of the chain with the stage that each stands in."""
    place = {e.name: k for k, e in enumerate(linear.system.circuit.elements)}
    found = []
    for source in noise_sources(linear):
        # a device's noises are called after it, a diode's resistance too: "q1.shot", "d1#rs"
        name = source.name if source.name in place else _owner(source.name, place)
        found.append((int(groups[place[name]]), source))
    return found


def _owner(name: str, place: dict[str, int]) -> str:
    for mark in ("#", "."):
        owner = name.rpartition(mark)[0]
        if owner in place:
            return owner
    raise KeyError(name)
