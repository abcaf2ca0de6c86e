"""Operational amplifier and series regulator between their rails, smooth enough for Newton.

What a sheet promises is in them, not what is inside: gain with one pole, an output that stays off
its rails, gives no more than it can, takes what it gives out of its supply, and is dead without
one; clamps at its pins and the junction that conducts when the supply is turned round. After the
macromodel of Boyle, Cohn, Pederson, Solomon (IEEE JSSC 9, 1974), its clamps as smooth functions.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.elements import OpAmpModel, RegulatorModel
from tonleiter.core.circuit.states import DeviceNoise, DeviceState

Floats = NDArray[np.float64]
# how softly a limit sets in, in volts; what a clamp conducts beyond it
SOFT_V, CLAMP_S = 0.02, 10e-3
# a clamp at a pin conducts from so much beyond a rail; the junction of a supply turned round
PIN_V, PIN_S, TURNED_S = 0.6, 10e-3, 0.1
ALIVE_SOFT_V = 0.1
# Newton moves no node of a chip by more than this at once, where it is not near already
MOST_MOVE_V = 4.0


def _soft(x: float, width: float = SOFT_V) -> tuple[float, float]:
    """Zero below 0 and x above, rounded over ``width``; with its derivative."""
    y = x / width
    if y > 40:
        return x, 1.0
    if y < -40:
        return 0.0, 0.0
    return width * math.log1p(math.exp(y)), 1 / (1 + math.exp(-y))


def _on(x: float, width: float) -> tuple[float, float]:
    """From 0 to 1 about x = 0; with its derivative."""
    y = min(max(x / width, -60.0), 60.0)
    s = 1 / (1 + math.exp(-y))
    return s, s * (1 - s) / width


def _held(x: float, most: float) -> tuple[float, float]:
    """x, but never beyond ±most; with its derivative."""
    t = math.tanh(x / most)
    return most * t, 1 - t * t


def _between(
    currents: Floats, g: Floats, p: int, n: int, amps: float, by: dict[int, float]
) -> None:
    """A current from terminal ``p`` through the chip to ``n``, and its derivatives by terminal."""
    currents[p] += amps
    currents[n] -= amps
    for k, slope in by.items():
        g[p, k] += slope
        g[n, k] -= slope


class _Chip:
    """What both have in common: volts against the last terminal are what Newton works in."""

    def __init__(self, gmin: float) -> None:
        self._gmin = gmin

    def junctions(self, v: Floats) -> Floats:
        """Every terminal against the last one; shape (terminals − 1,)."""
        return np.asarray(v[:-1] - v[-1])

    def terminals(self, junctions: Floats) -> Floats:
        """Terminal voltages with the last one at 0."""
        return np.append(junctions, 0.0)

    def limit(self, new: Floats, old: Floats) -> Floats:
        """No further than some volts at once."""
        return old + np.clip(new - old, -MOST_MOVE_V, MOST_MOVE_V)


PLUS, MINUS, POLE, OUT, UPPER, LOWER = range(6)


class OpAmpDevice(_Chip):
    """Terminals: plus, minus, pole, out, upper rail, lower rail."""

    def __init__(self, model: OpAmpModel, gmin: float) -> None:
        super().__init__(gmin)
        self.model = model

    def start(self) -> Floats:
        """On 9 V, in the middle."""
        return np.array([4.5, 4.5, 4.5, 4.5, 9.0])

    def swing(self, upper_v: float, lower_v: float) -> tuple[float, float]:
        """Between which volts its output can stand."""
        middle = (upper_v + lower_v) / 2
        half, _ = _soft((upper_v - lower_v) / 2 - self.model.keeps_v)
        return middle - half, middle + half

    def evaluate(self, junctions: Floats) -> DeviceState:
        """State at the given volts over the lower rail."""
        m = self.model
        v = self.terminals(junctions)
        vs = float(v[UPPER])
        i, g = np.zeros(6), np.zeros((6, 6))
        alive, d_alive = _on(vs - m.alive_v, ALIVE_SOFT_V)
        # the input pair drives the pole, no harder than it slews
        held, d_held = _held(m.input_siemens * float(v[PLUS] - v[MINUS]), m.slews_a)
        slope = m.input_siemens * d_held * alive
        drive = {
            PLUS: -slope,
            MINUS: slope,
            UPPER: -held * d_alive,
            LOWER: held * d_alive,
        }
        _between(i, g, POLE, LOWER, -held * alive, drive)
        # the pole leaks to the middle, and is held where the output can follow
        leak = m.input_siemens / m.open_loop
        middle = vs / 2
        _between(
            i,
            g,
            POLE,
            LOWER,
            leak * (float(v[POLE]) - middle),
            {POLE: leak, UPPER: -leak / 2, LOWER: -leak / 2},
        )
        half, d_half = _soft(vs / 2 - m.keeps_v)
        over, d_over = _soft(float(v[POLE]) - middle - half)
        under, d_under = _soft(middle - half - float(v[POLE]))
        to_pole = CLAMP_S * (d_over + d_under)
        to_rail = CLAMP_S * (d_over * (-0.5 - 0.5 * d_half) - d_under * (0.5 - 0.5 * d_half))
        _between(
            i,
            g,
            POLE,
            LOWER,
            CLAMP_S * (over - under),
            {POLE: to_pole, UPPER: to_rail, LOWER: -to_pole - to_rail},
        )
        self._output(i, g, v, alive, d_alive)
        self._supply(i, g, v, alive, d_alive)
        for k in range(5):
            _between(i, g, k, LOWER, self._gmin * float(v[k]), {k: self._gmin, LOWER: -self._gmin})
        noise_a2 = m.noise_v2_per_hz * slope**2
        low, high = self.swing(vs, 0.0)
        info = {
            "out_v": float(v[OUT]),
            "alive": alive,
            "low_v": low,
            "high_v": high,
            "supply_v": vs,
            "gm_s": slope,
        }
        return DeviceState(i, g, (DeviceNoise("input", POLE, LOWER, noise_a2),), info)

    def _output(self, i: Floats, g: Floats, v: Floats, alive: float, d_alive: float) -> None:
        """Out of the upper rail or into the lower one, by what the pole asks for."""
        m = self.model
        asked, d_asked = _held(float(v[POLE] - v[OUT]) / m.output_ohm, m.limit_a)
        given = asked * alive
        to_pole = d_asked * alive / m.output_ohm
        by_rail = asked * d_alive
        wide = m.limit_a / 1e3
        sourced, share = _soft(given, wide)
        # what is given comes from above, what is taken goes below
        _between(
            i,
            g,
            UPPER,
            OUT,
            sourced,
            {
                POLE: share * to_pole,
                OUT: -share * to_pole,
                UPPER: share * by_rail,
                LOWER: -share * by_rail,
            },
        )
        rest = 1 - share
        _between(
            i,
            g,
            OUT,
            LOWER,
            sourced - given,
            {
                POLE: -rest * to_pole,
                OUT: rest * to_pole,
                UPPER: -rest * by_rail,
                LOWER: rest * by_rail,
            },
        )

    def _supply(self, i: Floats, g: Floats, v: Floats, alive: float, d_alive: float) -> None:
        m = self.model
        _between(
            i,
            g,
            UPPER,
            LOWER,
            m.draws_a * alive,
            {UPPER: m.draws_a * d_alive, LOWER: -m.draws_a * d_alive},
        )
        turned, d_turned = _soft(-float(v[UPPER]) - PIN_V)
        _between(
            i,
            g,
            LOWER,
            UPPER,
            TURNED_S * turned,
            {UPPER: -TURNED_S * d_turned, LOWER: TURNED_S * d_turned},
        )
        for pin in (PLUS, MINUS, OUT):
            above, d_above = _soft(float(v[pin] - v[UPPER]) - PIN_V)
            slope = PIN_S * d_above
            _between(i, g, pin, UPPER, PIN_S * above, {pin: slope, UPPER: -slope})
            below, d_below = _soft(-float(v[pin]) - PIN_V)
            slope = PIN_S * d_below
            _between(i, g, LOWER, pin, PIN_S * below, {pin: -slope, LOWER: slope})


INLET, HELD, COMMON = range(3)


class RegulatorDevice(_Chip):
    """Terminals: inlet, out, common."""

    def __init__(self, model: RegulatorModel, gmin: float) -> None:
        super().__init__(gmin)
        self.model = model

    def start(self) -> Floats:
        """Holding what it should."""
        return np.array([self.model.holds_v + 2.0, self.model.holds_v])

    def evaluate(self, junctions: Floats) -> DeviceState:
        """State at the given volts over common."""
        m = self.model
        v_in, v_out = float(junctions[0]), float(junctions[1])
        i, g = np.zeros(3), np.zeros((3, 3))
        # what it aims at: what it should hold, or what the inlet leaves
        short, d_short = _soft(m.holds_v - (v_in - m.headroom_v))
        raw = m.holds_v - short
        aim, d_aim = _soft(raw)
        wanted = (aim - v_out) / m.output_ohm
        # nothing backwards, and no more than its limit
        given, d_given = _soft(wanted, m.limit_a / 200)
        over, d_over = _soft(given - m.limit_a, m.limit_a / 200)
        amps = given - over
        slope = d_given * (1 - d_over) / m.output_ohm
        to_in = slope * d_aim * d_short
        _between(i, g, INLET, HELD, amps, {INLET: to_in, HELD: -slope, COMMON: slope - to_in})
        alive, d_alive = _on(v_in - 1.0, ALIVE_SOFT_V)
        own = m.draws_a * d_alive
        _between(i, g, INLET, COMMON, m.draws_a * alive, {INLET: own, COMMON: -own})
        for k in range(2):
            _between(
                i,
                g,
                k,
                COMMON,
                self._gmin * float(junctions[k]),
                {k: self._gmin, COMMON: -self._gmin},
            )
        return DeviceState(i, g, (), {"i_a": amps, "out_v": v_out, "in_v": v_in})
