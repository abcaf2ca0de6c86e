"""A circuit over time: trapezoidal rule with step control, companion models, the same devices.

C dx/dt = b(t) − G x − i(x). A step goes by the trapezoidal rule to γ = 2 − √2 of its way and by the
second-order backward formula to its end, which keeps stiff circuits from ringing (Bank, Coughran,
Fichtner, Grosse, Rose, Smith, IEEE Trans. ED 32, 1985); both parts share one matrix. Its error is
read from the three derivatives, smoothed by that matrix (Hosea, Shampine, Appl. Num. Math. 20,
1996). Devices touch few nodes: with the inverse of the linear part at hand, Newton runs in their
terminals alone.
"""

from __future__ import annotations

import math
import time
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import (
    GROUND,
    CircuitError,
    CurrentSource,
    VoltageSource,
)
from tonleiter.core.circuit.system import NOWHERE, System, linearise_into
from tonleiter.core.stop import checkpoint

Floats = NDArray[np.float64]
# points that are told, values at all of them, and steps, tried ones included
MOST_POINTS, MOST_VALUES, MOST_STEPS = 2_000_000, 20_000_000, 500_000
# seconds of work after which somebody would rather have what there is; steps between two looks
MOST_SECONDS, LOOK_EVERY = 60.0, 64
# bytes that kept inverses may take
KEPT_BYTES = 64_000_000
# of a told step
NEAR_JUMPS = 1e-10
# local error of a step, as a share of the largest value so far, and in volts or amperes
TOLERANCE, FLOOR_V, FLOOR_A = 1e-7, 3e-7, 1e-9
# after a jump a step is so many times halved; a step is never halved more often than this
AFTER_JUMP, MOST_HALVED = 8, 30
MOST_NEWTON, SETTLED_V = 60, 1e-5
# steps with so little error that one twice as long would still do are made longer
EASY = 0.1
GAMMA = 2 - math.sqrt(2)
WEIGHT = 2 / GAMMA
# of the error's estimate, from the derivatives at the step's three instants
_K = (-3 * GAMMA**2 + 4 * GAMMA - 2) / (12 * (2 - GAMMA))
_AT = (1 / GAMMA, -1 / (GAMMA * (1 - GAMMA)), 1 / (1 - GAMMA))


@dataclass(frozen=True)
class Transient:
    """Unknowns over time: ``t_s`` of shape (times,), ``x`` of shape (times, size).

    ``substitutions`` counts how often the linear system was solved, Newton's iterations included.
    ``cut_short`` says, in one line, why it ends before it was asked to; empty where it does not.
    """

    system: System
    t_s: Floats
    x: Floats
    steps: int
    substitutions: int
    cut_short: str = ""

    def volts(self, p: str, n: str = GROUND) -> Floats:
        """Volts of node p over node n, shape (times,). Raises CircuitError for unknown nodes."""
        out: Floats = self.x @ self.system.unit(p, n)
        return out

    def branch_a(self, name: str) -> Floats:
        """Current through a voltage source or inductor, from p to n; shape (times,)."""
        return np.asarray(self.x[:, self.system.branch_row[name]])


def solve_transient(
    system: System,
    step_s: float,
    stop_s: float,
    start_s: float = 0.0,
    most_s: float | None = None,
    seconds: float = MOST_SECONDS,
) -> Transient:
    """From the operating point at time 0 to ``stop_s``, told every ``step_s`` from ``start_s`` on.

    Steps are no longer than ``most_s`` (by default ``step_s``), and shorter where that is needed.
    After so many ``seconds`` of work, or MOST_STEPS, it is cut short. Raises CircuitError where no
    solution is found, or more than MOST_POINTS would be told.
    """
    if not (0 < step_s <= stop_s and 0 <= start_s < stop_s):
        raise CircuitError("a transient needs 0 < STEP ≤ STOP and 0 ≤ START < STOP")
    points = (stop_s - start_s) / step_s
    if points > MOST_POINTS or points * max(system.size, 1) > MOST_VALUES:
        most = min(MOST_POINTS, MOST_VALUES // max(system.size, 1))
        raise CircuitError(f"the transient has more than {most} points; a longer STEP will do")
    most_s = most_s or step_s
    if not most_s > 0 or stop_s / min(most_s, step_s) > MOST_STEPS:
        raise CircuitError(
            f"the transient has more than {MOST_STEPS} steps; a longer largest step will do"
        )
    for source in system.circuit.elements:
        wave = source.wave if isinstance(source, VoltageSource | CurrentSource) else None
        if wave is not None and (why := wave.trouble(stop_s)):
            raise CircuitError(f"{source.name}: {why}")
    # what is not finite is found where it comes out, and said
    with np.errstate(all="ignore"):
        return _Runner(system, step_s, stop_s, start_s, most_s).run(seconds)


class _Runner:
    def __init__(
        self, system: System, step_s: float, stop_s: float, start_s: float, most_s: float
    ) -> None:
        self._system, self._stop, self._start, self._step = system, stop_s, start_s, step_s
        # steps are the told step over a power of two, so that told instants are met exactly
        self._coarsest = max(0, math.ceil(math.log2(step_s / most_s) - 1e-9))
        self._waves = [
            (e, e.wave)
            for e in system.circuit.elements
            if isinstance(e, VoltageSource | CurrentSource) and e.wave is not None
        ]
        self._dense_g, self._dense_c = system.G, system.C
        self._states = np.flatnonzero(np.abs(system.C).sum(axis=0) > 0)
        nodes = len(system.node_row)
        self._floor = np.where(self._states < nodes, FLOOR_V, FLOOR_A)
        self._rows = [row for d in system.devices for row in d.rows]
        # terminals that are not on ground, and the rows where their currents leave
        self._ends = np.flatnonzero([r != NOWHERE for r in self._rows])
        self._end_rows = np.array([self._rows[k] for k in self._ends], dtype=int)
        self._one = np.eye(len(self._rows))
        self._inverses: dict[float, _Inverse] = {}
        self._count = 0
        self._moving = (np.abs(system.C).sum(axis=1) > 0).astype(float)
        # jumps that lie nearer than that are one, and at nothing is at rest
        self._jumps: list[float] = []
        for t in sorted({t for _, w in self._waves for t in w.breaks(stop_s)}):
            if t - (self._jumps[-1] if self._jumps else 0.0) > NEAR_JUMPS * self._step:
                self._jumps.append(t)

    # --- sources ---------------------------------------------------------------------------------

    def _b(self, t_s: float) -> Floats:
        b = self._system.b_dc
        if not self._waves:
            return b
        b = b.copy()
        for source, wave in self._waves:
            moved = wave.at(t_s) - source.dc
            if isinstance(source, VoltageSource):
                b[self._system.branch_row[source.name]] += moved
                continue
            for node, sign in ((source.p, -1.0), (source.n, 1.0)):
                row = self._system.row(node)
                if row != NOWHERE:
                    b[row] += sign * moved
        return b

    def _at_rest(self) -> OperatingPoint:
        """The operating point with every source as it is at time 0."""
        waves = {e.name: w.at(0.0) for e, w in self._waves}
        elements = tuple(
            replace(e, dc=waves[e.name]) if e.name in waves else e  # type: ignore[arg-type, call-arg]
            for e in self._system.circuit.elements
        )
        return solve_dc(System(replace(self._system.circuit, elements=elements)))

    # --- the run ---------------------------------------------------------------------------------

    def run(self, seconds: float) -> Transient:
        """Step by step, for so long at most."""
        until, cut = time.monotonic() + seconds, ""
        op = self._at_rest()
        self._g0 = _conductances(op)
        x, t = op.x.copy(), 0.0
        junctions = list(op.junctions().values())
        told_t, told_x, steps, tried = [0.0], [x], 0, 0
        halved, jumps = self._coarsest + AFTER_JUMP, list(self._jumps)
        rest = self._rest(0.0, x, self._currents(junctions))
        most = np.abs(x)
        while t < self._stop * (1 - 1e-12):
            checkpoint()
            tried += 1
            late = tried % LOOK_EVERY == 0 and time.monotonic() > until
            if tried > MOST_STEPS or late:
                after = f"{seconds:g} s of work" if late else f"{MOST_STEPS} steps"
                cut = (
                    f"after {after} it had come to {t:.4g} s of {self._stop:.4g} s: something in it"
                    " is much faster than the rest"
                )
                break
            grid = self._step / 2**halved
            target = (math.floor(t / grid + 1e-6) + 1) * grid
            if jumps and target > jumps[0] - 1e-9 * grid:
                target = jumps[0]
            target = min(target, self._stop)
            found = self._stepped(t, target - t, x, rest, junctions)
            error = math.inf if found is None else self._error(found.error, found.x, most)
            if error > 1.0 and halved < self._coarsest + MOST_HALVED:
                halved += 1 if error < 64 else 2
                continue
            if found is None:
                raise CircuitError(f"the circuit was not settled at {t:.6g} s")
            x, junctions, rest, t, steps = found.x, found.junctions, found.rest, target, steps + 1
            most = np.maximum(most, np.abs(x))
            if t >= len(told_t) * self._step - 1e-9 * self._step:
                told_t.append(len(told_t) * self._step)
                told_x.append(x)
            if jumps and t >= jumps[0] - 1e-15 * self._stop:
                jumps.pop(0)
                halved = max(halved, self._coarsest + AFTER_JUMP)
                rest = self._rest(t, x, self._currents(junctions))
            elif error < EASY and halved > self._coarsest:
                halved -= 1
        return self._told(np.array(told_t), np.array(told_x), steps, cut)

    def _rest(self, t: float, x: Floats, currents: Floats) -> Floats:
        """C dx/dt at an instant: what is left of each equation, 0 where nothing moves.

        ``currents`` are those into the devices' terminals.
        """
        left: Floats = self._b(t) - self._dense_g @ x
        if self._rows:
            np.subtract.at(left, self._end_rows, currents[self._ends])
        left *= self._moving
        return left

    def _told(self, t_s: Floats, x: Floats, steps: int, cut: str) -> Transient:
        wanted = t_s >= self._start - 1e-9 * self._step
        if cut and not wanted.any():
            raise CircuitError(cut)
        return Transient(self._system, t_s[wanted], x[wanted], steps, self._count, cut)

    def _error(self, error: Floats, x: Floats, most: Floats) -> float:
        """The local error of a step over what is allowed."""
        if not self._states.size:
            return 0.0
        s = self._states
        allowed = TOLERANCE * np.maximum(most[s], np.abs(x[s])) + self._floor
        return float(np.max(np.abs(error[s]) / allowed))

    # --- one step --------------------------------------------------------------------------------

    def _stepped(
        self, t: float, h: float, x: Floats, rest: Floats, junctions: list[Floats]
    ) -> _Step | None:
        """One step on by both formulas; None where Newton does not settle."""
        inverse = self._inverse(h)
        way = t + GAMMA * h
        right = self._b(way) + rest + (WEIGHT / h) * (self._dense_c @ x)
        middle = self._settled(inverse, right, junctions)
        if middle is None:
            return None
        xm, jm, drawn = middle
        rest_m = self._rest(way, xm, drawn)
        before = xm / (GAMMA * (1 - GAMMA) * h) - x * ((1 - GAMMA) / (GAMMA * h))
        end = self._settled(inverse, self._b(t + h) + self._dense_c @ before, jm)
        if end is None:
            return None
        xe, je, drawn = end
        if not np.all(np.isfinite(xe)):
            return None
        rest_e = self._rest(t + h, xe, drawn)
        bent = _AT[0] * rest + _AT[1] * rest_m + _AT[2] * rest_e
        error = inverse.solve(2 * _K * WEIGHT * bent)
        self._count += 1
        return _Step(xe, je, rest_e, error)

    def _settled(
        self, inverse: _Inverse, right: Floats, junctions: list[Floats]
    ) -> _Settled | None:
        linear = inverse.solve(right)
        self._count += 1
        if not self._rows:
            return linear, [], _NOTHING
        return self._newton(inverse, linear, junctions)

    def _newton(
        self, inverse: _Inverse, linear: Floats, junctions: list[Floats]
    ) -> _Settled | None:
        """In the devices' terminals: v = w − K (i(v) − g0 v)."""
        system, count = self._system, len(self._rows)
        w = np.array([0.0 if r == NOWHERE else linear[r] for r in self._rows])
        near = False
        fixed, g = np.zeros(count), np.zeros((count, count))
        for _ in range(MOST_NEWTON):
            self._count += 1
            linearise_into(system.devices, junctions, g, fixed)
            v: Floats = np.asarray(
                np.linalg.solve(
                    self._one + inverse.between @ (g - self._g0), w - inverse.between @ fixed
                ),
                float,
            )
            wanted, moved, limited, k = [], 0.0, False, 0
            for placed, old in zip(system.devices, junctions, strict=True):
                n = len(placed.rows)
                new = placed.device.junctions(v[k : k + n])
                held = placed.device.limit(new, old)
                moved = max(moved, float(np.abs(held - old).max()))
                limited = limited or bool((held != new).any())
                wanted.append(held)
                k += n
            junctions = wanted
            if not np.all(np.isfinite(v)):
                return None
            if near and moved < SETTLED_V and not limited:
                # one iteration after it was near: its error is squared away
                currents = fixed + g @ v
                return linear - inverse.columns @ (currents - self._g0 @ v), junctions, currents
            near = moved < SETTLED_V and not limited
        return None

    def _currents(self, junctions: list[Floats]) -> Floats:
        """What flows into the devices' terminals, one device after the other."""
        if not self._rows:
            return _NOTHING
        devices = zip(self._system.devices, junctions, strict=True)
        return np.concatenate([p.device.evaluate(vj).currents for p, vj in devices])

    def _inverse(self, h: float) -> _Inverse:
        key = round(math.log2(self._step / h), 9)
        found = self._inverses.get(key)
        if found is None:
            if len(self._inverses) * 16 * self._system.size**2 > KEPT_BYTES:
                self._inverses.clear()
            matrix = self._dense_g + (WEIGHT / h) * self._dense_c
            k = 0
            for placed in self._system.devices:
                n = len(placed.rows)
                placed.add_to(matrix, self._g0[k : k + n, k : k + n])
                k += n
            units = np.zeros((self._system.size, len(self._rows)))
            for j, row in enumerate(self._rows):
                if row != NOWHERE:
                    units[row, j] = 1.0
            try:
                inverse: Floats = np.asarray(np.linalg.inv(matrix), float)
                columns: Floats = np.asarray(np.linalg.solve(matrix, units), float)
            except np.linalg.LinAlgError:
                raise CircuitError("the circuit has no single solution over time") from None
            between = np.array(
                [
                    np.zeros(len(self._rows)) if row == NOWHERE else columns[row]
                    for row in self._rows
                ]
            ).reshape(len(self._rows), len(self._rows))
            found = self._inverses[key] = _Inverse(matrix, inverse, columns, between)
        return found


# unknowns, junctions, and the currents into the devices' terminals
_Settled = tuple[Floats, list[Floats], Floats]
_NOTHING: Floats = np.zeros(0)


@dataclass(frozen=True)
class _Step:
    """Where a step ended: unknowns, junctions, what moves on, the error that it made."""

    x: Floats
    junctions: list[Floats]
    rest: Floats
    error: Floats


@dataclass(frozen=True)
class _Inverse:
    """The linear part, inverted; its columns at the devices' terminals; between those."""

    whole: Floats
    matrix: Floats
    columns: Floats
    between: Floats

    def solve(self, right: Floats) -> Floats:
        """By the inverse, refined once: milliohms and gigohms stand in one matrix."""
        x = self.matrix @ right
        refined: Floats = x + self.matrix @ (right - self.whole @ x)
        return refined


def _conductances(op: OperatingPoint) -> Floats:
    """The devices' conductances at rest, block by block; shape (terminals, terminals)."""
    count = sum(len(d.rows) for d in op.system.devices)
    g = np.zeros((count, count))
    k = 0
    for placed, state in zip(op.system.devices, op.states, strict=True):
        n = len(placed.rows)
        g[k : k + n, k : k + n] = state.conductances
        k += n
    return g
