"""A circuit in groups: what goes from a node into those behind it, and so impedances both ways.

Groups stand in a row, as in ``cascade``; a joint is the pair of nodes behind a group.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.ac import Linear
from tonleiter.core.circuit.dc import OperatingPoint
from tonleiter.core.circuit.readings import Pair, reading_vectors
from tonleiter.core.circuit.system import NOWHERE


@dataclass
class Onward:
    """What the groups behind a joint add to its hot row: entries as (column, value), DC of devices.

    ``g`` holds linear elements, ``devices`` the conductances of transistors and the like.
    """

    g: list[tuple[int, float]] = field(default_factory=list)
    devices: list[tuple[int, float]] = field(default_factory=list)
    c: list[tuple[int, float]] = field(default_factory=list)
    device_a: float = 0.0

    def direct_a(self, op: OperatingPoint) -> float:
        """DC in amperes from the joint's hot conductor into the groups behind it."""
        return float(sum(value * op.x[column] for column, value in self.g)) + self.device_a


def onwards(linear: Linear, groups: NDArray[np.intp], hots: Sequence[str]) -> list[Onward]:
    """For the hot node of each joint what the groups behind it add to its row.

    ``groups`` has the group of each element, shape (elements,); joint ``k`` lies behind group k.
    """
    system = linear.system
    joint_of = {system.row(hot): k for k, hot in enumerate(hots)}
    rows = [Onward() for _ in hots]
    wanted = list(joint_of)
    for name, entries in (("g", system.g_entries), ("c", system.c_entries)):
        for place in np.flatnonzero(np.isin(entries.rows, wanted)):
            k = joint_of[int(entries.rows[place])]
            if groups[entries.elements[place]] > k:
                entry = int(entries.columns[place]), float(entries.values[place])
                getattr(rows[k], name).append(entry)
    states = linear.op.states if linear.op else ()
    for placed, state in zip(system.devices, states, strict=True):
        for terminal, row in enumerate(placed.rows):
            k = joint_of.get(row, len(rows))
            if k < len(rows) and groups[placed.element] > k:
                rows[k].device_a += float(state.currents[terminal])
                rows[k].devices += [
                    (column, float(value))
                    for column, value in zip(placed.rows, state.conductances[terminal], strict=True)
                    if column != NOWHERE
                ]
    return rows


def split_currents(
    linear: Linear, f_hz: float, joints: Sequence[Pair], onward: Sequence[Onward]
) -> list[tuple[complex, complex]]:
    """For 1 A into each joint: its volts, and the part of the ampere that goes onwards."""
    tests = reading_vectors(linear.system, joints)
    x = linear.solve(np.array([f_hz]), tests)[0]
    omega = 2 * np.pi * f_hz
    found = []
    for k, row in enumerate(onward):
        v = complex(tests[:, k] @ x[:, k])
        i = sum(value * complex(x[column, k]) for column, value in (*row.g, *row.devices))
        i += sum(1j * omega * value * complex(x[column, k]) for column, value in row.c)
        found.append((v, i))
    return found
