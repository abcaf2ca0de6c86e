"""Noise by the adjoint method: one transposed solve gives every contributor's share."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.ac import Complexes, Floats, Linear
from tonleiter.core.circuit.elements import PowerLaw
from tonleiter.core.circuit.system import NOWHERE, NoiseInjection


@dataclass(frozen=True)
class NoiseShares:
    """Output noise power densities per contributor.

    ``psd_v2_per_hz`` has shape (contributors, frequencies, outputs).
    """

    names: tuple[str, ...]
    f_hz: Floats
    psd_v2_per_hz: Floats

    def at(self, output: int) -> NoiseShares:
        """The contributors at one output."""
        return NoiseShares(self.names, self.f_hz, self.psd_v2_per_hz[:, :, output : output + 1])

    @property
    def density_v_per_rthz(self) -> Floats:
        """Total density, shape (frequencies, outputs)."""
        total: Floats = np.sqrt(self.psd_v2_per_hz.sum(axis=0))
        return total


def noise_sources(linear: Linear) -> list[NoiseInjection]:
    """All noise sources of the circuit at its operating point."""
    sources = list(linear.system.noise)
    if linear.op:
        for placed, state in zip(linear.system.devices, linear.op.states, strict=True):
            for noise in state.noise:
                i, j = placed.rows[noise.p], placed.rows[noise.n]
                spectrum = (PowerLaw(noise.psd_a2_per_hz),)
                sources.append(NoiseInjection(f"{placed.name}.{noise.label}", i, j, spectrum))
    return sources


def injection_rows(sources: list[NoiseInjection], ground: int) -> tuple[list[int], list[int]]:
    """Rows that each source feeds and draws from, with ``ground`` for the node that has none."""
    i = [s.i if s.i != NOWHERE else ground for s in sources]
    j = [s.j if s.j != NOWHERE else ground for s in sources]
    return i, j


def noise_shares(linear: Linear, f_hz: Floats, adjoint: Complexes) -> NoiseShares:
    """Noise at the outputs whose adjoint solution, shape (frequencies, size, k), is given."""
    sources = noise_sources(linear)
    frequencies, _, outputs = adjoint.shape
    if not sources:
        return NoiseShares((), f_hz, np.zeros((0, frequencies, outputs)))
    grounded = np.concatenate([adjoint, np.zeros((frequencies, 1, outputs))], axis=1)
    i, j = injection_rows(sources, grounded.shape[1] - 1)
    transfer = np.abs(grounded[:, i, :] - grounded[:, j, :]) ** 2
    psd = spectra([s.spectrum for s in sources], f_hz)
    return NoiseShares(
        tuple(s.name for s in sources), f_hz, transfer.transpose(1, 0, 2) * psd[:, :, None]
    )


def spectra(of: list[tuple[PowerLaw, ...]], f_hz: Floats) -> Floats:
    """Densities of sums of power laws; shape (len(of), frequencies)."""
    most = max((len(s) for s in of), default=0)
    level, exponent = np.zeros((2, len(of), most))
    for row, spectrum in enumerate(of):
        for column, law in enumerate(spectrum):
            level[row, column], exponent[row, column] = law.at_1khz, law.exponent
    relative = np.asarray(f_hz, dtype=float) / 1000.0
    if not np.any(exponent):
        return np.repeat(level.sum(axis=1)[:, None], relative.size, axis=1)
    shaped: Floats = (level[:, :, None] * relative ** -exponent[:, :, None]).sum(axis=1)
    return shaped


def band_power(psd: Floats, f_hz: Floats, axis: int = -1) -> Floats:
    """Integrate a density over ``f_hz`` along ``axis``, each cell taken as a power law.

    Exact for white and for 1/f^k noise on any grid; zero cells fall back to the trapezoid.
    """
    y = np.moveaxis(np.asarray(psd, dtype=float), axis, -1)
    f = np.asarray(f_hz, dtype=float)
    if f.size < 2:
        return np.zeros(y.shape[:-1])
    y0, y1, f0, f1 = y[..., :-1], y[..., 1:], f[:-1], f[1:]
    trapezoid = 0.5 * (y0 + y1) * (f1 - f0)
    ok = (y0 > 0) & (y1 > 0) & (f0 > 0)
    log_f = np.log(np.where(f0 > 0, f1 / np.where(f0 > 0, f0, 1.0), 1.0))
    with np.errstate(divide="ignore", invalid="ignore"):
        slope = np.where(ok, np.log(np.where(ok, y1 / np.where(ok, y0, 1.0), 1.0)), 0.0) / log_f
        # ∫ y0 (f/f0)^m df = y0 f0 L g((m+1) L) with L = ln(f1/f0) and g(z) = (e^z − 1)/z
        z = (slope + 1.0) * log_f
        growth = np.where(np.abs(z) > 1e-8, np.expm1(z) / np.where(z == 0, 1.0, z), 1.0 + z / 2)
    power = np.where(ok, y0 * f0 * log_f * growth, trapezoid)
    total: NDArray[np.float64] = power.sum(axis=-1)
    return total
