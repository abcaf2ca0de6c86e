"""Named readings of a linearised circuit: what pairs of nodes read, of every source at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tonleiter.core.circuit.ac import Complexes, Floats, Linear
from tonleiter.core.circuit.noise import NoiseShares, injection_rows, noise_shares
from tonleiter.core.circuit.system import NOWHERE, NoiseInjection, System

Pair = tuple[str, str]


@dataclass(frozen=True)
class Readings:
    """What pairs of nodes read at frequencies, from a unit of any source or of current anywhere.

    ``y`` is the adjoint solution, shape (..., frequencies, unknowns, readings); leading axes are
    there where a circuit was solved with many sets of values.
    """

    system: System
    f_hz: Floats
    y: Complexes

    def and_more(self, more: Readings) -> Readings:
        """These and others of the same circuit, in the order of frequency."""
        f_hz = np.concatenate([self.f_hz, more.f_hz])
        order = np.argsort(f_hz)
        y = np.concatenate([self.y, more.y], axis=-3)[..., order, :, :]
        return Readings(self.system, f_hz[order], y)

    def from_source(self, name: str) -> Complexes:
        """Volts at each reading per volt of a voltage source, shape (..., frequencies, readings).

        Raises KeyError for a name that no voltage source has.
        """
        return self.y[..., self.system.branch_row[name], :]

    def from_current(self, p: str, n: str) -> Complexes:
        """Volts at each reading per ampere fed into node ``p`` and drawn from node ``n``."""
        return self._node(p) - self._node(n)

    def _node(self, name: str) -> Complexes:
        row = self.system.row(name)
        return np.zeros_like(self.y[..., 0, :]) if row == NOWHERE else self.y[..., row, :]

    def from_noise(self, sources: list[NoiseInjection]) -> Floats:
        """Power gain from each noise source, shape (..., frequencies, sources, readings)."""
        grounded = np.concatenate([self.y, np.zeros_like(self.y[..., :1, :])], axis=-2)
        i, j = injection_rows(sources, self.system.size)
        power: Floats = np.abs(grounded[..., i, :] - grounded[..., j, :]) ** 2
        return power

    def noise(self, linear: Linear) -> NoiseShares:
        """Noise of the circuit at each reading, by contributor."""
        return noise_shares(linear, self.f_hz, self.y)


def read(linear: Linear, f_hz: Floats, pairs: Sequence[Pair]) -> Readings:
    """Read volts between pairs of nodes. Raises CircuitError for nodes that are not there."""
    return Readings(
        linear.system, f_hz, linear.adjoint(f_hz, reading_vectors(linear.system, pairs))
    )


def read_dc(linear: Linear, pairs: Sequence[Pair]) -> Readings:
    """The same for slow changes of DC sources about the operating point; values are real."""
    return read(linear, np.array([0.0]), pairs)


def reading_vectors(system: System, pairs: Sequence[Pair]) -> Floats:
    """Vectors that read pairs of nodes from a solution, shape (unknowns, readings)."""
    return np.stack([system.unit(p, n) for p, n in pairs], axis=1)
