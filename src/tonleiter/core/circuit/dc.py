"""DC operating point by Newton's method with junction limiting, gmin stepping, source stepping."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.elements import GROUND, CircuitError
from tonleiter.core.circuit.floating import dc_islands, explain_singular
from tonleiter.core.circuit.states import DeviceState
from tonleiter.core.circuit.system import NOWHERE, Entries, Stamp, System
from tonleiter.core.stop import checkpoint

Floats = NDArray[np.float64]

_RELATIVE = 1e-10
_ABSOLUTE = 1e-9
_MOST_ITERATIONS = 150
# sources are raised in some thirty steps; where a chip would stand at kilovolts it takes no end
_MOST_STEPS = 150
# larger systems are solved with sparse matrices
DENSE_MOST = 300


@dataclass(frozen=True)
class OperatingPoint:
    """The DC solution of a system: ``x`` of shape (size,), device states in order."""

    system: System
    x: Floats
    states: tuple[DeviceState, ...]

    def volts(self, p: str, n: str = GROUND) -> float:
        """DC volts of node p over node n."""
        return float(self.system.unit(p, n) @ self.x)

    def branch_a(self, name: str) -> float:
        """DC current in amperes through a voltage source or inductor, from p to n."""
        return float(self.x[self.system.branch_row[name]])

    def junctions(self) -> dict[str, Floats]:
        """Junction volts by device: where a similar circuit may begin."""
        at = _junctions(self.system, self.x)
        return {d.name: v for d, v in zip(self.system.devices, at, strict=True)}

    def device_entries(self) -> Entries:
        """What the devices add to G, entry by entry."""
        return device_entries(self.system, self.states)

    def conductances(self) -> Floats:
        """G with the devices' small-signal conductances added; shape (size, size)."""
        matrix = self.system.G.copy()
        for placed, state in zip(self.system.devices, self.states, strict=True):
            placed.add_to(matrix, state.conductances)
        return matrix


def solve_dc(system: System, near: Mapping[str, Floats] | None = None) -> OperatingPoint:
    """Find the operating point. Raises CircuitError for a singular or unsettled circuit.

    Newton from the junction volts of a similar circuit first, where ``near`` gives them by device;
    then from a cold start; then gmin stepping (a conductance from every node to ground, taken away
    by decades); then source stepping (all sources raised from zero).
    """
    if dc_islands(system):
        raise CircuitError(explain_singular(system))
    if not system.devices:
        if system.size > DENSE_MOST:
            return OperatingPoint(system, sparse_solve(system, system.g_entries, system.b_dc), ())
        return OperatingPoint(system, _linear_solve(system, system.G, system.b_dc), ())
    start = [placed.device.start() for placed in system.devices]
    found = None
    if near and all(d.name in near for d in system.devices):
        warm = [near[d.name] for d in system.devices]
        found = _newton(system, np.zeros(system.size), warm, 1.0, 0.0)
    if found is None:
        found = _newton(system, np.zeros(system.size), start, 1.0, 0.0)
    if found is None:
        found = _gmin_stepping(system, start)
    if found is None:
        found = _source_stepping(system, start)
    if found is None:
        raise CircuitError("the DC operating point was not found; check the bias of the devices")
    return OperatingPoint(system, *found)


_Found = tuple[Floats, tuple[DeviceState, ...]]


def _gmin_stepping(system: System, start: list[Floats]) -> _Found | None:
    x, junctions = np.zeros(system.size), start
    for gmin in (*np.logspace(-2, -12, 21), 0.0):
        found = _newton(system, x, junctions, 1.0, float(gmin))
        if found is None:
            return None
        x = found[0]
        junctions = _junctions(system, x)
    return found


def _source_stepping(system: System, start: list[Floats]) -> _Found | None:
    x, junctions = np.zeros(system.size), [np.zeros_like(s) for s in start]
    scale, step = 0.0, 0.05
    for _ in range(_MOST_STEPS):
        target = min(1.0, scale + step)
        attempt = _newton(system, x, junctions, target, 0.0)
        if attempt is None:
            step /= 4
            if step < 1e-5:
                return None
            continue
        if target >= 1.0:
            return attempt
        scale, step = target, step * 1.5
        x = attempt[0]
        junctions = _junctions(system, x)
    return None


def _junctions(system: System, x: Floats) -> list[Floats]:
    return [d.device.junctions(d.volts(x)) for d in system.devices]


def _newton(
    system: System, x: Floats, junctions: list[Floats], source_scale: float, gmin: float
) -> _Found | None:
    solve = _Dense(system, gmin) if system.size <= DENSE_MOST else _Sparse(system, gmin)
    b_linear = source_scale * system.b_dc
    for _ in range(_MOST_ITERATIONS):
        checkpoint()
        b = b_linear.copy()
        states = []
        for placed, vj in zip(system.devices, junctions, strict=True):
            state = placed.device.evaluate(vj)
            states.append(state)
            # linearised about the limited junction voltages, expressed at the terminals
            at = placed.device.terminals(vj)
            residue = state.conductances @ at - state.currents
            for row, value in zip(placed.rows, residue, strict=True):
                if row != NOWHERE:
                    b[row] += value
        new = solve(states, b)
        wanted = _junctions(system, new)
        junctions_next = [
            placed.device.limit(w, old)
            for placed, w, old in zip(system.devices, wanted, junctions, strict=True)
        ]
        limited = any(not np.array_equal(a, b) for a, b in zip(junctions_next, wanted, strict=True))
        # the junctions decide: a part that floats on an insulation's gigohm moves as a whole by
        # rounding, and no device notices. Newton then has squared this error away already.
        settled = all(
            bool(np.all(np.abs(w - old) <= _RELATIVE * np.abs(w) + _ABSOLUTE))
            for w, old in zip(wanted, junctions, strict=True)
        )
        x, junctions = new, junctions_next
        if settled and not limited:
            return x, tuple(
                p.device.evaluate(v) for p, v in zip(system.devices, junctions, strict=True)
            )
    return None


class _Dense:
    """Solves the linearised system with dense matrices."""

    def __init__(self, system: System, gmin: float) -> None:
        self._system = system
        self._base = system.G.copy()
        nodes = len(system.node_row)
        self._base[range(nodes), range(nodes)] += gmin

    def __call__(self, states: list[DeviceState], b: Floats) -> Floats:
        matrix = self._base.copy()
        for placed, state in zip(self._system.devices, states, strict=True):
            placed.add_to(matrix, state.conductances)
        return _linear_solve(self._system, matrix, b)


class _Sparse:
    """The same for large systems, whose matrices are nearly empty."""

    def __init__(self, system: System, gmin: float) -> None:
        self._system = system
        nodes = np.arange(len(system.node_row))
        leak = Entries(nodes, nodes, np.full(nodes.size, gmin), np.full(nodes.size, -1))
        self._base = system.g_entries.and_more(leak)

    def __call__(self, states: list[DeviceState], b: Floats) -> Floats:
        return sparse_solve(
            self._system, self._base.and_more(device_entries(self._system, states)), b
        )


def device_entries(system: System, states: Sequence[DeviceState]) -> Entries:
    """What devices in the given states add to G, entry by entry."""
    stamps = [
        Stamp(row, column, float(state.conductances[i, j]), placed.element)
        for placed, state in zip(system.devices, states, strict=True)
        for i, row in enumerate(placed.rows)
        for j, column in enumerate(placed.rows)
        if row != NOWHERE and column != NOWHERE
    ]
    return Entries.of(stamps)


def sparse_solve(system: System, entries: Entries, b: Floats) -> Floats:
    """Solve with the sparse matrix of ``entries``, rows scaled. Raises CircuitError."""
    # imported when a circuit is that large: scipy's solvers cost a fifth of the start
    from scipy.sparse import csc_array
    from scipy.sparse.linalg import splu

    scale = np.zeros(system.size)
    np.maximum.at(scale, entries.rows, np.abs(entries.values))
    if np.any(scale == 0) or not np.all(np.isfinite(scale)):
        raise CircuitError(explain_singular(system))
    matrix = csc_array(
        (entries.values / scale[entries.rows], (entries.rows, entries.columns)),
        shape=(system.size, system.size),
    )
    try:
        x: Floats = splu(matrix).solve(b / scale)
    except RuntimeError:  # "Factor is exactly singular"
        raise CircuitError(explain_singular(system)) from None
    off = np.linalg.norm(matrix @ x - b / scale)
    if not np.all(np.isfinite(x)) or off > 1e-6 * max(1.0, float(np.linalg.norm(x))):
        raise CircuitError(explain_singular(system))
    return x


def _linear_solve(system: System, matrix: Floats, b: Floats) -> Floats:
    """Solve with rows scaled, so that nano- and megasiemens do not look singular together."""
    scale = np.max(np.abs(matrix), axis=1)
    if np.any(scale == 0) or not np.all(np.isfinite(scale)):
        raise CircuitError(explain_singular(system, matrix))
    scaled = matrix / scale[:, None]
    try:
        x: Floats = np.linalg.solve(scaled, b / scale)
    except np.linalg.LinAlgError:
        raise CircuitError(explain_singular(system, matrix)) from None
    if not np.all(np.isfinite(x)) or np.linalg.norm(scaled @ x - b / scale) > 1e-6 * max(
        1.0, float(np.linalg.norm(x))
    ):
        raise CircuitError(explain_singular(system, matrix))
    return x
