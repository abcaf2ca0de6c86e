"""What an ohmmeter finds on a finished build, unplugged at both ends and without its batteries.

The meter is one of low volts, so that no junction conducts: coils, windings and resistors count,
capacitors are open after their kick. Every pair of contacts comes from one inverse.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.unit import Unit
from tonleiter.core.circuit.elements import (
    GROUND,
    Capacitor,
    Circuit,
    CircuitError,
    Element,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import NOWHERE, System
from tonleiter.core.station.contacts import At
from tonleiter.core.units.quantity import OHM, format_quantity

Floats = NDArray[np.float64]
# what a meter shows as open; what gives every node a potential; a wire in a capacitor's place
OPEN_OHM, DAMP_S, WIRE_OHM = 20e6, 1e-12, 1e-3
# a switch that is closed
CLOSED_OHM = 0.1
# what charges so quickly that no needle moves
KICKS_FROM_F = 1e-8
BEEPS_BELOW_OHM = 50.0


def unpowered(elements: Sequence[Element], plugged: Collection[str] = ()) -> frozenset[int]:
    """Places of the elements that are there with the batteries out and nothing plugged in."""
    return frozenset(
        k
        for k, e in enumerate(elements)
        if not isinstance(e, VoltageSource) and e.name not in plugged
    )


def passive(system: System, kept: Collection[int], leak_s: float) -> Floats:
    """G of some elements of a system, by their places, a leak at every node; shape (size, size).

    What else stands in the system hangs on its leaks alone.
    """
    matrix = np.zeros((system.size, system.size))
    for row, column, value, element in system.conductances:
        if element in kept:
            matrix[row, column] += value
    nodes = len(system.node_row)
    matrix[range(nodes), range(nodes)] += leak_s
    for row in system.branch_row.values():
        if not matrix[row].any():
            matrix[row, row] = 1.0
    return matrix


def resistances(
    system: System,
    kept: Collection[int],
    nodes: Sequence[str],
    closed: tuple[str, str] | None = None,
) -> Floats:
    """Ohms between every two of ``nodes``, from R = Zaa + Zbb − 2 Zab; shape (nodes, nodes).

    Of the system's elements those ``kept`` are there, and a switch held ``closed`` between two
    nodes. Infinite where a meter shows open; NaN where there is no solution.
    """
    matrix = passive(system, kept, DAMP_S)
    if closed is not None:
        across = system.unit(*closed)
        matrix += np.outer(across, across) / CLOSED_OHM
    for placed in system.devices:
        if placed.element in kept:
            state = placed.device.evaluate(np.zeros_like(placed.device.start()))
            placed.add_to(matrix, state.conductances)
    columns = np.zeros((system.size, len(nodes)))
    for k, node in enumerate(nodes):
        row = system.row(node)
        if row != NOWHERE:
            columns[row, k] = 1.0
    try:
        z = columns.T @ np.linalg.solve(matrix, columns)
    except np.linalg.LinAlgError:
        return np.full((len(nodes), len(nodes)), math.nan)
    own = np.diag(z)
    ohm: Floats = np.maximum(own[:, None] + own[None, :] - 2 * z, 0.0)
    ohm[ohm > OPEN_OHM] = math.inf
    return ohm


@dataclass(frozen=True)
class Resistance:
    """Between two contacts: ohms, None for open; ``kick`` if a capacitor is charged on the way."""

    one: At
    other: At
    ohm: float | None
    kick: bool = False

    @property
    def tells_a_part(self) -> bool:
        """Whether a part lies between: ohms, or a capacitor that is charged on the way."""
        return self.kick or self.ohm is not None

    def words(self) -> str:
        """As somebody would say it who reads it off."""
        if self.ohm is None:
            return "open, after a capacitor's kick" if self.kick else "open"
        if self.ohm < 1.0:
            return "beeps, under 1 Ω"
        said = format_quantity(self.ohm, OHM, 2)
        return f"{said}, beeps" if self.ohm < BEEPS_BELOW_OHM else said


class Ohmmeter:
    """Measures one part of a chain's build, from box to box."""

    def __init__(self, unit: Unit) -> None:
        self._contacts: Mapping[At, int] = {ref: k for k, ref in enumerate(unit.contacts)}
        nodes = tuple(unit.contacts.values())
        kept = [e for e in unit.elements if e.name not in unit.plugged]
        self._ohm = _between(kept, nodes)
        charged = [
            Resistor(e.name, e.p, e.n, WIRE_OHM, noisy=False)
            if isinstance(e, Capacitor) and e.farad > KICKS_FROM_F
            else e
            for e in kept
        ]
        self._charged = _between(charged, nodes)

    @property
    def contacts(self) -> tuple[At, ...]:
        """Contacts that it can be held to."""
        return tuple(self._contacts)

    def between(self, one: At, other: At) -> Resistance:
        """Hold it to two contacts. Raises KeyError for one that no wire of this part goes to."""
        at = self._contacts[one], self._contacts[other]
        if math.isfinite(ohm := float(self._ohm[at])):
            return Resistance(one, other, ohm)
        return Resistance(one, other, None, bool(np.isfinite(self._charged[at])))

    def readings(self) -> tuple[Resistance, ...]:
        """Every pair of contacts of this part."""
        return tuple(self.between(a, b) for a, b in combinations(self._contacts, 2))


def _between(elements: Sequence[Element], nodes: Sequence[str]) -> Floats:
    """Ohms between nodes of a circuit of its own; every node of them exists."""
    ends = dict.fromkeys(n for n in nodes if n != GROUND)
    leaks = [Resistor(f"end:{n}", n, GROUND, 1 / DAMP_S, noisy=False) for n in ends]
    try:
        return resistances(System(Circuit((*elements, *leaks))), unpowered(elements), nodes)
    except CircuitError:
        return np.full((len(nodes), len(nodes)), math.inf)
