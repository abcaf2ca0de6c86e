"""Eliminate once what no frequency changes, so that the batched solve is over the rest."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]

# worse conditioned resistive blocks than this (after scaling) are left in the full system
WORST_CONDITION = 1e7


@dataclass(frozen=True)
class Reduced:
    """The system over the kept unknowns, and how the others follow from them.

    Block elimination (Schur complement; Golub and Van Loan, Matrix Computations, 3.2): with e the
    unknowns that no capacitance or inductance touches and k the kept ones,
    ``S = Gkk − Gke Gee⁻¹ Gek`` and ``xe = Gee⁻¹ be − Gee⁻¹ Gek xk``.
    """

    kept: NDArray[np.intp]
    gone: NDArray[np.intp]
    G: Floats
    C: Floats
    right: Floats
    gone_right: Floats
    gone_of_kept: Floats

    def expand(self, x_kept: Complexes) -> Complexes:
        """All unknowns from the kept ones; ``x_kept`` has shape (frequencies, kept, k)."""
        count, _, columns = x_kept.shape
        x = np.empty((count, self.kept.size + self.gone.size, columns), dtype=complex)
        x[:, self.kept] = x_kept
        x[:, self.gone] = self.gone_right - self.gone_of_kept @ x_kept
        return x


def reduce(G: Floats, C: Floats, b: Floats) -> Reduced | None:
    """Reduce ``(G + jωC) x = b``; None where little would be won or precision could suffer."""
    touched = (C != 0).any(axis=0) | (C != 0).any(axis=1)
    while True:
        # a branch whose nodes are all kept has no pivot among the eliminated: keep it as well
        block = G[np.ix_(~touched, ~touched)] != 0
        bare = ~(block.any(axis=0) & block.any(axis=1))
        if not bare.any():
            break
        touched[np.flatnonzero(~touched)[bare]] = True
    gone, kept = np.flatnonzero(~touched), np.flatnonzero(touched)
    if gone.size == 0 or kept.size == 0:
        return None
    block = G[np.ix_(gone, gone)]
    scale = 1.0 / np.abs(block).max(axis=1)
    scaled = block * scale[:, None]
    across = 1.0 / np.abs(scaled).max(axis=0)
    if not np.linalg.cond(scaled * across) < WORST_CONDITION:
        return None
    known = np.concatenate([G[np.ix_(gone, kept)], b[gone]], axis=1) * scale[:, None]
    solved = across[:, None] * np.linalg.solve(scaled * across, known)
    of_kept, right = solved[:, : kept.size], solved[:, kept.size :]
    back = G[np.ix_(kept, gone)]
    return Reduced(
        kept,
        gone,
        G[np.ix_(kept, kept)] - back @ of_kept,
        C[np.ix_(kept, kept)],
        b[kept] - back @ right,
        right,
        of_kept,
    )
