"""Small-signal response, batched over frequency: one call, never a Python loop."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core import helpers
from tonleiter.core.circuit.dc import DENSE_MOST, OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import GROUND, CircuitError
from tonleiter.core.circuit.floating import explain_singular
from tonleiter.core.circuit.reduce import reduce
from tonleiter.core.circuit.system import Entries, System
from tonleiter.core.once import cached_property
from tonleiter.core.stop import checkpoint

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]


# memory that one block of matrices may take; its factors and solutions take as much again
BLOCK_BYTES = 64 * 1024 * 1024
_WORTH_SPLITTING = 64


@dataclass(frozen=True)
class Linear:
    """A system linearised at its operating point: ``(G + jω C) x = b``."""

    system: System
    op: OperatingPoint | None

    @cached_property
    def G(self) -> Floats:  # noqa: N802 - matrices are capitals in the field
        """Conductances, devices included; shape (size, size)."""
        return self.op.conductances() if self.op else self.system.G

    @property
    def C(self) -> Floats:  # noqa: N802
        """What is multiplied by jω; shape (size, size)."""
        return self.system.C

    @cached_property
    def g_entries(self) -> Entries:
        """Entries of G, devices included."""
        entries = self.system.g_entries
        return entries.and_more(self.op.device_entries()) if self.op else entries

    def matrices(self, f_hz: Floats, transposed: bool = False) -> Complexes:
        """System matrices, shape (frequencies, size, size)."""
        G, C = (self.G.T, self.C.T) if transposed else (self.G, self.C)
        return _matrices(G, C, f_hz)

    def solve(self, f_hz: Floats, b: Complexes | Floats) -> Complexes:
        """Solve for right-hand sides ``b`` of shape (size, k); returns (frequencies, size, k)."""
        return self._solved(f_hz, b, transposed=False)

    def adjoint(self, f_hz: Floats, reads: Floats) -> Complexes:
        """Transfer from every unknown's equation to each read vector.

        ``reads`` has shape (size, k): columns as made by ``System.unit``. The result ``y`` of shape
        (frequencies, size, k) obeys ``reads.T @ x = y.T @ b`` for any injection ``b``: one solve
        gives the transfer of every source and every noise contributor at once (Director and
        Rohrer, IEEE Trans. CT 16, 1969).
        """
        return self._solved(f_hz, reads, transposed=True)

    def _solved(self, f_hz: Floats, b: Complexes | Floats, transposed: bool) -> Complexes:
        try:
            if self.system.size > DENSE_MOST:
                x = self._sparsely(f_hz, b, transposed)
            else:
                G, C = (self.G.T, self.C.T) if transposed else (self.G, self.C)
                x = _in_blocks(G, C, f_hz, b)
        except (np.linalg.LinAlgError, RuntimeError):  # singular, by numpy and by scipy
            x = np.full(1, np.nan, dtype=complex)
        if not np.all(np.isfinite(x)):
            first = None if self.system.size > DENSE_MOST else self.matrices(f_hz[:1])[0]
            raise CircuitError(explain_singular(self.system, first))
        return x

    def _sparsely(self, f_hz: Floats, b: Complexes | Floats, transposed: bool) -> Complexes:
        """One sparse factorisation a frequency: for large systems the matrices are nearly empty."""
        # imported when a circuit is that large: scipy's solvers cost a fifth of the start
        from scipy.sparse import csc_array
        from scipy.sparse.linalg import splu

        shape = (self.system.size, self.system.size)
        g, c = (
            csc_array((e.values, (e.rows, e.columns)), shape=shape)
            for e in (self.g_entries, self.system.c_entries)
        )
        right = np.asarray(b, dtype=complex)
        x = np.empty((len(f_hz), *right.shape), dtype=complex)
        for k, f in enumerate(f_hz):
            checkpoint()
            matrix = g + 2j * np.pi * f * c
            x[k] = splu((matrix.T if transposed else matrix).tocsc()).solve(right)
        return x


def _in_blocks(G: Floats, C: Floats, f_hz: Floats, b: Complexes | Floats) -> Complexes:
    """Batched dense solves, as many frequencies at a time as memory allows."""
    smaller = None if np.iscomplexobj(b) else reduce(G, C, np.asarray(b, dtype=float))
    g, c, right = (G, C, b) if smaller is None else (smaller.G, smaller.C, smaller.right)
    block = max(1, BLOCK_BYTES // (16 * g.shape[0] * (g.shape[0] + right.shape[1])))
    blocks = []
    for start in range(0, len(f_hz), block):
        checkpoint()
        solved = _solve_halves(_matrices(g, c, f_hz[start : start + block]), right)
        blocks.append(solved if smaller is None else smaller.expand(solved))
    return blocks[0] if len(blocks) == 1 else np.concatenate(blocks)


def _matrices(G: Floats, C: Floats, f_hz: Floats) -> Complexes:
    omega = 2 * np.pi * np.asarray(f_hz, dtype=float)
    matrices = np.empty((omega.size, *G.shape), dtype=complex)
    matrices.real = G
    np.multiply(omega[:, None, None], C, out=matrices.imag)
    return matrices


def _solve_halves(matrices: Complexes, b: Complexes | Floats) -> Complexes:
    """Solve many small systems, on two cores if somebody lent a second one."""
    count = matrices.shape[0]
    right = np.broadcast_to(b, (count, *b.shape))
    if count < _WORTH_SPLITTING or helpers.hands() < 2:
        return np.asarray(np.linalg.solve(matrices, right), dtype=complex)
    half = count // 2
    parts = (slice(0, half), slice(half, count))
    return np.concatenate(
        helpers.both(lambda part: np.linalg.solve(matrices[part], right[part]), parts)
    )


def linearise(system: System, op: OperatingPoint | None = None) -> Linear:
    """Linearise at ``op``; a circuit with devices is first solved for DC if ``op`` is not given."""
    if op is None and system.devices:
        op = solve_dc(system)
    return Linear(system, op)


def node_response(linear: Linear, f_hz: Floats) -> dict[str, Complexes]:
    """Every node's phasor for the circuit's own AC sources; arrays of shape (frequencies,)."""
    x = linear.solve(f_hz, linear.system.b_ac[:, None])[:, :, 0]
    return {node: x[:, row] for node, row in linear.system.node_row.items() if node != GROUND}


def impedance(linear: Linear, f_hz: Floats, p: str, n: str = GROUND) -> Complexes:
    """Driving-point impedance in ohm between two nodes, shape (frequencies,)."""
    unit = linear.system.unit(p, n)
    return np.asarray(linear.solve(f_hz, unit[:, None])[:, :, 0] @ unit, dtype=complex)
