"""Small-signal response, batched over frequency: one call, never a Python loop."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import GROUND, CircuitError
from tonleiter.core.circuit.floating import explain_singular
from tonleiter.core.circuit.reduce import reduce
from tonleiter.core.circuit.system import System

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]


@dataclass(frozen=True)
class Linear:
    """A system linearised at its operating point: ``(G + jω C) x = b``."""

    system: System
    G: Floats
    C: Floats
    op: OperatingPoint | None

    def matrices(self, f_hz: Floats, transposed: bool = False) -> Complexes:
        """System matrices, shape (frequencies, size, size)."""
        G, C = (self.G.T, self.C.T) if transposed else (self.G, self.C)
        return _matrices(G, C, f_hz)

    def solve(self, f_hz: Floats, b: Complexes | Floats) -> Complexes:
        """Solve for right-hand sides ``b`` of shape (size, k); returns (frequencies, size, k)."""
        return self._batched(self.G, self.C, f_hz, b)

    def adjoint(self, f_hz: Floats, reads: Floats) -> Complexes:
        """Transfer from every unknown's equation to each read vector.

        ``reads`` has shape (size, k): columns as made by ``System.unit``. The result ``y`` of shape
        (frequencies, size, k) obeys ``reads.T @ x = y.T @ b`` for any injection ``b``: one solve
        gives the transfer of every source and every noise contributor at once (Director and
        Rohrer, IEEE Trans. CT 16, 1969).
        """
        return self._batched(self.G.T, self.C.T, f_hz, reads)

    def _batched(self, G: Floats, C: Floats, f_hz: Floats, b: Complexes | Floats) -> Complexes:
        smaller = None if np.iscomplexobj(b) else reduce(G, C, np.asarray(b, dtype=float))
        try:
            if smaller is None:
                x = _solve_halves(_matrices(G, C, f_hz), b)
            else:
                matrices = _matrices(smaller.G, smaller.C, f_hz)
                x = smaller.expand(_solve_halves(matrices, smaller.right))
        except np.linalg.LinAlgError:
            x = None
        if x is None or not np.all(np.isfinite(x)):
            raise CircuitError(explain_singular(self.system, self.matrices(f_hz[:1])[0]))
        return x


def _matrices(G: Floats, C: Floats, f_hz: Floats) -> Complexes:
    omega = 2 * np.pi * np.asarray(f_hz, dtype=float)
    matrices = np.empty((omega.size, *G.shape), dtype=complex)
    matrices.real = G
    np.multiply(omega[:, None, None], C, out=matrices.imag)
    return matrices


_WORKER = ThreadPoolExecutor(max_workers=1, thread_name_prefix="solve")
_WORTH_SPLITTING = 64


def _solve_halves(matrices: Complexes, b: Complexes | Floats) -> Complexes:
    """Solve many small systems on two cores: NumPy lets go of the interpreter while it solves."""
    count = matrices.shape[0]
    right = np.broadcast_to(b, (count, *b.shape))
    if count < _WORTH_SPLITTING:
        return np.asarray(np.linalg.solve(matrices, right), dtype=complex)
    half = count // 2
    first = _WORKER.submit(np.linalg.solve, matrices[:half], right[:half])
    second = np.linalg.solve(matrices[half:], right[half:])
    return np.concatenate([first.result(), second])


def linearise(system: System, op: OperatingPoint | None = None) -> Linear:
    """Linearise at ``op``; a circuit with devices is first solved for DC if ``op`` is not given."""
    if op is None and system.devices:
        op = solve_dc(system)
    return Linear(system, op.conductances() if op else system.G, system.C, op)


def node_response(linear: Linear, f_hz: Floats) -> dict[str, Complexes]:
    """Every node's phasor for the circuit's own AC sources; arrays of shape (frequencies,)."""
    x = linear.solve(f_hz, linear.system.b_ac[:, None])[:, :, 0]
    return {node: x[:, row] for node, row in linear.system.node_row.items() if node != GROUND}


def impedance(linear: Linear, f_hz: Floats, p: str, n: str = GROUND) -> Complexes:
    """Driving-point impedance in ohm between two nodes, shape (frequencies,)."""
    unit = linear.system.unit(p, n)
    return np.asarray(linear.solve(f_hz, unit[:, None])[:, :, 0] @ unit, dtype=complex)
