"""A circuit whose elements stand in a row of groups, solved in time and memory that grow with it.

A chain is a chain: a stage shares a few nodes with the one before and the one after it. Taking the
groups in their order, what no later group touches is eliminated at once (frontal elimination,
Irons, Int. J. Numer. Meth. Eng. 2, 1970). What is left of everything to the left of a joint is a
small matrix over the joint's nodes, with what the sources there drive into it; the same from the
right; the two together give the joint's volts. Noise travels likewise as a covariance: with
``b' = bk − T be`` its matrix becomes ``T Nee T* + Nkk − T Nek − Nke T*``.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.circuit.noise import spectra
from tonleiter.core.circuit.readings import Pair, Readings
from tonleiter.core.circuit.system import NOWHERE, Entries, NoiseInjection, System
from tonleiter.core.stop import checkpoint

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]


@dataclass(frozen=True)
class Half:
    """Everything on one side of a joint, seen from the joint.

    ``S`` is its matrix over the unknowns ``ids``, shape (frequencies, n, n); ``b`` what its sources
    drive, (frequencies, n); ``N`` the covariance of its noise, (frequencies, n, n).
    """

    ids: tuple[int, ...]
    S: Complexes
    b: Complexes
    N: Complexes


@dataclass(frozen=True)
class _Step:
    """What an elimination leaves behind for the way back: b' = bk − T be."""

    gone: tuple[int, ...]
    kept: tuple[int, ...]
    T: Complexes


@dataclass(frozen=True)
class Joint:
    """What two halves come to: shapes (frequencies,), impedances in ohm.

    ``response`` is the volts of the joint for the driven unknown, ``noise`` its density in V²/Hz,
    ``z`` the impedance of both sides together, ``onwards`` the share of a test current that goes to
    the right.
    """

    response: Complexes
    noise: Floats
    z: Complexes
    onwards: Complexes


class Cascade:
    """A linearised system with a group number for each element and the joints between groups.

    ``joints`` are the hot and cold nodes behind each group.
    """

    def __init__(
        self, system: System, g: Entries, group_of: NDArray[np.intp], joints: Sequence[Pair]
    ) -> None:
        self._system, self._size = system, system.size
        self.joints = [(system.row(p), system.row(n)) for p, n in joints]
        self._count = len(joints)
        c = system.c_entries
        self._g, self._c = _by_group(g, group_of, self._count), _by_group(c, group_of, self._count)
        first = np.full(self._size, self._count)
        last = np.full(self._size, -1)
        for entries in (g, c):
            groups = group_of[entries.elements]
            for touched in (entries.rows, entries.columns):
                np.minimum.at(first, touched, groups)
                np.maximum.at(last, touched, groups)
        # the nodes of a joint are kept until they have been read from both sides
        for k, rows in enumerate(self.joints):
            for row in rows:
                if row != NOWHERE:
                    first[row], last[row] = min(first[row], k), max(last[row], k + 1)
        self._first, self._last = first, last

    # --- sweeps ----------------------------------------------------------------------------------

    def solve(
        self,
        f_hz: Floats,
        driven: str | None = None,
        noise: list[tuple[int, NoiseInjection]] | None = None,
        densities: Floats | None = None,
    ) -> Solved:
        """Sweep both ways and join the halves.

        ``driven`` is a voltage source of the first group, with 1 V; ``noise`` are sources with
        their groups, ``densities`` theirs, shape (sources, frequencies), by default from their
        spectra. Raises CircuitError where the circuit has no single solution.
        """
        sources = noise or []
        if densities is None:
            densities = spectra([s.spectrum for _, s in sources], f_hz)
        of_group: list[list[tuple[NoiseInjection, Floats]]] = [[] for _ in range(self._count)]
        for (group, source), density in zip(sources, densities, strict=True):
            of_group[group].append((source, density))
        omega = 2 * np.pi * np.asarray(f_hz, dtype=float)
        drive = None if driven is None else (self._system.branch_row[driven], 0)
        lefts, left_steps = self._sweep(omega, range(self._count), self._last, drive, of_group)
        backwards = range(self._count - 1, 0, -1)
        rights, right_steps = self._sweep(omega, backwards, -self._first, None, of_group)
        rights = [*reversed(rights)]
        nothing = Half((), *(np.zeros((omega.size, *s), complex) for s in ((0, 0), (0,), (0, 0))))
        # behind the last group there is nothing
        return Solved(
            self._system,
            f_hz,
            self.joints,
            lefts,
            [*rights, nothing],
            left_steps,
            [*reversed(right_steps)],
        )

    def _sweep(
        self,
        omega: Floats,
        groups: range,
        until: NDArray[np.intp],
        driven: tuple[int, int] | None,
        of_group: list[list[tuple[NoiseInjection, Floats]]],
    ) -> tuple[list[Half], list[_Step]]:
        """Take groups in their order; an unknown is eliminated with the group that ``until`` names.

        ``until`` is compared in the direction of travel: larger is later.
        """
        front = Half((), *(np.zeros((omega.size, *s), complex) for s in ((0, 0), (0,), (0, 0))))
        halves, steps = [], []
        sign = 1 if groups.step > 0 else -1
        for group in groups:
            checkpoint()
            front = self._assembled(front, group, omega, driven, of_group[group])
            done = [k for k, u in enumerate(front.ids) if until[u] <= sign * group]
            front, step = _eliminated(front, done)
            halves.append(front)
            steps.append(step)
        return halves, steps

    def _assembled(
        self,
        front: Half,
        group: int,
        omega: Floats,
        driven: tuple[int, int] | None,
        sources: list[tuple[NoiseInjection, Floats]],
    ) -> Half:
        """The front with a group's elements added."""
        g, c = self._g[group], self._c[group]
        place = {u: k for k, u in enumerate(front.ids)}
        touched = [*g.rows, *g.columns, *c.rows, *c.columns]
        touched += [row for row in self.joints[group] if row != NOWHERE]
        touched += [row for s, _ in sources for row in (s.i, s.j) if row != NOWHERE]
        if driven is not None and driven[1] == group:
            touched.append(driven[0])
        for u in touched:
            place.setdefault(int(u), len(place))
        n, old = len(place), len(front.ids)
        real = np.zeros((n, n))
        imaginary = np.zeros((n, n))
        for entries, target in ((g, real), (c, imaginary)):
            at = ([place[int(r)] for r in entries.rows], [place[int(k)] for k in entries.columns])
            np.add.at(target, at, entries.values)
        S = np.empty((omega.size, n, n), dtype=complex)
        S.real = real
        S.imag = omega[:, None, None] * imaginary
        S[:, :old, :old] += front.S
        b = np.zeros((omega.size, n), dtype=complex)
        b[:, :old] = front.b
        if driven is not None and driven[1] == group:
            b[:, place[driven[0]]] += 1.0
        N = np.zeros((omega.size, n, n), dtype=complex)
        N[:, :old, :old] = front.N
        for source, density in sources:
            for row, column, sgn in (
                (source.i, source.i, 1),
                (source.j, source.j, 1),
                (source.i, source.j, -1),
                (source.j, source.i, -1),
            ):
                if row != NOWHERE and column != NOWHERE:
                    N[:, place[row], place[column]] += sgn * density
        return Half(tuple(place), S, b, N)


@dataclass(frozen=True)
class Solved:
    """Both sweeps of a cascade, from which joints are read."""

    system: System
    f_hz: Floats
    joints: list[tuple[int, int]]
    lefts: list[Half]
    rights: list[Half]
    left_steps: list[_Step]
    right_steps: list[_Step]

    def at(self, joint: int) -> Joint:
        """Response, noise and impedance at a joint."""
        left, right = self.lefts[joint], self.rights[joint]
        ids, S, b, N = _together(left, right)
        hot, cold = self.joints[joint]
        read = np.zeros(len(ids))
        for row, sign in ((hot, 1.0), (cold, -1.0)):
            if row != NOWHERE:
                read[ids.index(row)] += sign
        y = _solve(S.transpose(0, 2, 1), np.broadcast_to(read[:, None], (len(S), len(ids), 1)))
        y = y[:, :, 0]
        test = _solve(S, np.broadcast_to(read[:, None], (len(S), len(ids), 1)))[:, :, 0]
        onwards = np.zeros(len(S), dtype=complex)
        if hot in right.ids:
            places = [ids.index(u) for u in right.ids]
            onwards = (right.S[:, right.ids.index(hot)] * test[:, places]).sum(axis=1)
        return Joint(
            response=(y * b).sum(axis=1),
            noise=np.maximum(np.einsum("fi,fij,fj->f", y, N, y.conj()).real, 0.0),
            z=test @ read,
            onwards=onwards,
        )

    def readings(self, joint: int) -> Readings:
        """What a joint reads, of every source at once."""
        return Readings(self.system, self.f_hz, self.adjoint(joint)[:, :, None])

    def adjoint(self, joint: int) -> Complexes:
        """Transfer from every unknown's equation to a joint, shape (frequencies, size).

        On the way back ``ye = −Tᵀ yk``, since ``b' = bk − T be``.
        """
        left, right = self.lefts[joint], self.rights[joint]
        ids, S, _, _ = _together(left, right)
        read = np.zeros(len(ids))
        for row, sign in zip(self.joints[joint], (1.0, -1.0), strict=True):
            if row != NOWHERE:
                read[ids.index(row)] += sign
        y = np.zeros((len(S), self.system.size), dtype=complex)
        y[:, list(ids)] = _solve(
            S.transpose(0, 2, 1), np.broadcast_to(read[:, None], (len(S), len(ids), 1))
        )[:, :, 0]
        for step in [*reversed(self.left_steps[: joint + 1]), *self.right_steps[joint:]]:
            if step.gone:
                kept = y[:, list(step.kept)]
                y[:, list(step.gone)] = -np.einsum("fke,fk->fe", step.T, kept)
        return y


def _together(left: Half, right: Half) -> tuple[tuple[int, ...], Complexes, Complexes, Complexes]:
    """The sum of two halves over all their unknowns."""
    place = {u: k for k, u in enumerate(left.ids)}
    for u in right.ids:
        place.setdefault(u, len(place))
    n = len(place)
    count = len(left.S)
    S, N = np.zeros((count, n, n), dtype=complex), np.zeros((count, n, n), dtype=complex)
    b = np.zeros((count, n), dtype=complex)
    for half in (left, right):
        at = np.array([place[u] for u in half.ids], dtype=np.intp)
        if at.size:
            S[:, at[:, None], at[None, :]] += half.S
            N[:, at[:, None], at[None, :]] += half.N
            b[:, at] += half.b
    return tuple(place), S, b, N


def _eliminated(front: Half, done: list[int]) -> tuple[Half, _Step]:
    """Eliminate the unknowns at places ``done``, as far as they have pivots among themselves."""
    gone = _with_pivots(front.S, done)
    kept = [k for k in range(len(front.ids)) if k not in set(gone)]
    names = tuple(front.ids[k] for k in gone), tuple(front.ids[k] for k in kept)
    if not gone:
        return front, _Step(*names, np.zeros((len(front.S), len(kept), 0), complex))
    ee = front.S[:, gone][:, :, gone]
    ke = front.S[:, kept][:, :, gone]
    T = _solve(ee.transpose(0, 2, 1), ke.transpose(0, 2, 1)).transpose(0, 2, 1)
    S = front.S[:, kept][:, :, kept] - T @ front.S[:, gone][:, :, kept]
    b = front.b[:, kept] - (T @ front.b[:, gone, None])[:, :, 0]
    conjugate = T.conj().transpose(0, 2, 1)
    ne = front.N[:, gone][:, :, kept]
    cross = T @ ne
    N = (
        front.N[:, kept][:, :, kept]
        - cross
        - cross.conj().transpose(0, 2, 1)
        + T @ front.N[:, gone][:, :, gone] @ conjugate
    )
    return Half(names[1], S, b, N), _Step(*names, T)


def _with_pivots(S: Complexes, done: list[int]) -> list[int]:
    """Those of ``done`` that can be eliminated; a source between kept nodes has no pivot yet."""
    candidates = list(done)
    while candidates:
        block = (S[:, candidates][:, :, candidates] != 0).any(axis=0)
        bare = _unmatched(block)
        if not bare:
            return candidates
        candidates = [c for k, c in enumerate(candidates) if k not in bare]
    return []


def _unmatched(block: NDArray[np.bool_]) -> set[int]:
    """Rows and columns without a partner in a pattern; none where all find one."""
    if block.diagonal().all():
        return set()
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import maximum_bipartite_matching

    column_of = maximum_bipartite_matching(csr_array(block), perm_type="column")
    rows = {k for k, column in enumerate(column_of) if column < 0}
    taken = {int(c) for c in column_of if c >= 0}
    return rows | {k for k in range(len(block)) if rows and k not in taken}


def _solve(matrices: Complexes, right: Complexes | Floats) -> Complexes:
    try:
        x = np.linalg.solve(matrices, right)
    except np.linalg.LinAlgError:
        x = np.full(1, np.nan)
    if not np.all(np.isfinite(x)):
        raise CircuitError(
            "the circuit has no single solution: a node floats, or sources or coils form a loop"
        )
    return np.asarray(x, dtype=complex)


def _by_group(entries: Entries, group_of: NDArray[np.intp], count: int) -> list[Entries]:
    groups = group_of[entries.elements]
    order = np.argsort(groups, kind="stable")
    edges = np.searchsorted(groups[order], np.arange(count + 1))
    pieces = []
    for k in range(count):
        part = order[edges[k] : edges[k + 1]]
        pieces.append(
            Entries(
                entries.rows[part],
                entries.columns[part],
                entries.values[part],
                entries.elements[part],
            )
        )
    return pieces
