"""A diode tester held to junctions in a finished build: what it shows, parts around them included.

The tester gives 3 V behind 2.2 kΩ, about a milliampere through a junction. Newton runs in the
terminals of the devices alone: v = w − K (i0 + g (v − v0)), where w is what the tester drives there
through the linear part, and K what a current at one terminal does at another.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.ohms import passive
from tonleiter.core.bench.unit import Junction
from tonleiter.core.circuit.system import NOWHERE, PlacedDevice, System, linearise_into

Floats = NDArray[np.float64]
TESTER_V, TESTER_OHM, LEAK_S = 3.0, 2200.0, 1e-9
# above this the tester shows open
OPEN_V = 2.5
MOST_NEWTON, SETTLED_V = 60, 1e-4


@dataclass(frozen=True)
class Tested:
    """What the tester shows in volts: infinite for open, NaN if nothing was found.

    ``at`` has the devices' junction volts meanwhile: where a similar circuit may begin.
    """

    volts: float
    at: Mapping[str, Floats]


def tested(
    system: System,
    kept: Collection[int],
    junctions: Sequence[Junction],
    near: Sequence[Mapping[str, Floats]] = (),
) -> list[Tested]:
    """The tester at each junction. Of the system's elements those ``kept`` are there."""
    if not junctions:
        return []
    devices = [d for d in system.devices if d.element in kept]
    rows = [row for d in devices for row in d.rows]
    columns = np.zeros((system.size, len(rows) + len(junctions)))
    for k, row in enumerate(rows):
        if row != NOWHERE:
            columns[row, k] = 1.0
    for k, junction in enumerate(junctions, len(rows)):
        columns[:, k] = system.unit(junction.p, junction.n)
    try:
        k_all = columns.T @ np.linalg.solve(passive(system, kept, LEAK_S), columns)
    except np.linalg.LinAlgError:
        return [Tested(math.nan, {})] * len(junctions)
    count = len(rows)
    shown = []
    for number in range(len(junctions)):
        k = count + number
        # the tester's own resistance is part of what the devices see
        across, from_it, to_it = k_all[k, k], k_all[:count, k], k_all[k, :count]
        own = TESTER_OHM + across
        w = from_it * (TESTER_V / own)
        between = k_all[:count, :count] - np.outer(from_it, to_it) / own
        start = near[number] if number < len(near) else {}
        found = _settled(devices, w, between, start)
        if found is None:
            shown.append(Tested(math.nan, {}))
            continue
        currents, at = found
        volts = TESTER_V - TESTER_OHM * (TESTER_V + float(to_it @ currents)) / own
        shown.append(Tested(math.inf if volts > OPEN_V else volts, at))
    return shown


def _settled(
    devices: Sequence[PlacedDevice], w: Floats, between: Floats, near: Mapping[str, Floats]
) -> tuple[Floats, dict[str, Floats]] | None:
    """The devices' terminal currents, shape (terminals,), and junctions; None if unsettled."""
    junctions = [near.get(d.name, np.zeros_like(d.device.start())) for d in devices]
    count = w.size
    one, g, fixed = np.eye(count), np.zeros((count, count)), np.zeros(count)
    for _ in range(MOST_NEWTON):
        linearise_into(devices, junctions, g, fixed)
        try:
            v = np.asarray(np.linalg.solve(one + between @ g, w - between @ fixed), float)
        except np.linalg.LinAlgError:
            return None
        wanted, moved, k = [], 0.0, 0
        for placed, old in zip(devices, junctions, strict=True):
            n = k + len(placed.rows)
            new = placed.device.junctions(v[k:n])
            moved = max(moved, float(np.abs(new - old).max()))
            wanted.append(placed.device.limit(new, old))
            k = n
        junctions = wanted
        if moved < SETTLED_V:
            return fixed + g @ v, {d.name: j for d, j in zip(devices, junctions, strict=True)}
    return None
