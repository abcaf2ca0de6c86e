"""The simulated scope: a tone through the unit, solved in time, so that clipping is seen."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.unit import GENERATOR, Unit
from tonleiter.core.circuit.elements import Circuit, CircuitError, Element, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.circuit.transient import Transient, solve_transient
from tonleiter.core.circuit.waves import Sine

Floats = NDArray[np.float64]
Channel = Literal["out", "in"]
TONE_HZ, PERIODS, SETTLE, POINTS = 1000.0, 6, 1, 60
# the screen is so many divisions wide and high
ACROSS, DOWN = 10, 8
# a division in volts is one of these by a power of ten; a trace fills at most so many of them
_STEPS = (1.0, 2.0, 5.0)
MOST_DIVISIONS, LEAST_DIVISION_V = 3.0, 1e-3
DIVISIONS_V = tuple(s * 10.0**t for t in range(-3, 1) for s in _STEPS)
DIVISIONS_S = (0.1e-3, 0.2e-3, 0.5e-3)
# where this share of a period lies at an end of the swing, it is flat there; of a sine it is less
FLAT_SHARE, FLAT_NEAR = 0.2, 0.02
# it flattens where the tone's own part falls so far behind; tried from so little to so much
FLATTENS_DB, COARSE_DB, FINE_DB, MOST_EMF_V = 0.5, 6.0, 0.25, 30.0
# less than this is nothing
LEAST_V = 1e-6


@dataclass(frozen=True)
class Settings:
    """The scope's knobs. A division of None is chosen to fit; channels are coupled for AC or DC."""

    out_division_v: float | None = None
    in_division_v: float | None = None
    division_s: float = DIVISIONS_S[-1]
    dc: bool = False
    trigger: Channel = "out"
    falling: bool = False


@dataclass(frozen=True)
class Trace:
    """One channel: volts about its mean over time, its mean, what a scope says of it."""

    name: Channel
    volts: Floats
    mean_v: float
    division_v: float

    @property
    def peak_to_peak_v(self) -> float:
        """From its lowest to its highest point."""
        return float(np.ptp(self.volts))

    @property
    def flat(self) -> str:
        """Where it is clipped: “on top”, “below”, “on both sides”, or nowhere."""
        swing = self.peak_to_peak_v
        if swing <= 0:
            return ""
        top = float(np.mean(self.volts > self.volts.max() - FLAT_NEAR * swing)) > FLAT_SHARE
        foot = float(np.mean(self.volts < self.volts.min() + FLAT_NEAR * swing)) > FLAT_SHARE
        return "on both sides" if top and foot else "on top" if top else "below" if foot else ""

    def tone_v(self) -> float:
        """Peak volts of the tone itself, its harmonics left out."""
        n = self.volts.size - 1
        turn = np.exp(-2j * np.pi * np.arange(n) * TONE_HZ / (POINTS * TONE_HZ))
        return float(2 / n * abs(turn @ self.volts[:-1]))


@dataclass(frozen=True)
class Traces:
    """Both channels over some periods, and everything else that was solved meanwhile."""

    t_s: Floats
    into: Trace
    out: Trace
    solved: Transient

    def rms_v(self, p: str, n: str) -> float:
        """What a meter for AC shows between two nodes, however bent the tone is there."""
        volts = self.solved.volts(p, n)[:-1]
        return float(np.std(volts))

    def triggered(self, settings: Settings) -> int:
        """Where the screen begins: the first crossing of the trigger's channel through its mean."""
        volts = (self.out if settings.trigger == "out" else self.into).volts
        volts = -volts if settings.falling else volts
        crossings = np.flatnonzero((volts[:-1] < 0) & (volts[1:] >= 0))
        room = self.t_s.size - ACROSS * settings.division_s * POINTS * TONE_HZ
        return int(crossings[0]) if crossings.size and crossings[0] <= room else 0

    def division_v(self, channel: Channel, settings: Settings) -> float:
        """Volts a division, as chosen by hand or to fit."""
        trace = self.out if channel == "out" else self.into
        by_hand = settings.out_division_v if channel == "out" else settings.in_division_v
        return trace.division_v if by_hand is None else by_hand


def traces(
    unit: Unit, elements: Sequence[Element], tone_v: float | None = None, periods: int = PERIODS
) -> Traces:
    """What a scope shows at both ends with the generator at ``tone_v``, RMS.

    By default the unit's own. Raises CircuitError where there is no solution.
    """
    rms = unit.tone_v if tone_v is None else tone_v
    wave = Sine(0.0, rms * math.sqrt(2), TONE_HZ)
    bench = [
        replace(e, wave=wave) if isinstance(e, VoltageSource) and e.name == GENERATOR else e
        for e in unit.bench
    ]
    build = unit.unplugged(elements)
    system = System(Circuit((*build, *bench)))
    period = 1 / TONE_HZ
    found = solve_transient(system, period / POINTS, (SETTLE + periods) * period, SETTLE * period)
    if found.cut_short:
        raise CircuitError(found.cut_short)
    return Traces(
        found.t_s - found.t_s[0],
        _trace("in", found.volts(*unit.inlet)),
        _trace("out", found.volts(*unit.outlet)),
        found,
    )


def _trace(name: Channel, volts: Floats) -> Trace:
    mean = float(np.mean(volts[:-1]))
    swing = volts - mean
    return Trace(name, swing, mean, division_of(float(np.ptp(swing))))


def division_of(peak_to_peak_v: float) -> float:
    """Volts a division for a trace: the smallest of 1, 2, 5 by tens that it fits in.

    Usual scopes go down to a millivolt a division: what is smaller looks like nothing.
    """
    least = max(peak_to_peak_v / MOST_DIVISIONS, LEAST_DIVISION_V)
    tens = 10.0 ** math.floor(math.log10(least))
    return next(s * tens for s in (*_STEPS, 10.0) if s * tens >= least * (1 - 1e-9))


@dataclass(frozen=True)
class Flattens:
    """The level at which a unit flattens: in and out, RMS of the tone.

    Nothing comes out at all where ``out_v`` is 0.
    """

    in_v: float
    out_v: float


def flattens_at(unit: Unit, elements: Sequence[Element]) -> Flattens | None:
    """Turn the generator up until the output falls behind by half a decibel; None if never.

    Raises CircuitError where there is no solution.
    """

    def at(gain_db: float) -> Traces:
        return traces(unit, elements, unit.tone_v * 10 ** (gain_db / 20), periods=1)

    first = at(0.0)
    small = first.out.tone_v()
    if small < LEAST_V:
        return Flattens(first.into.tone_v() / math.sqrt(2), 0.0)

    def behind(gain_db: float) -> bool:
        lost = small * 10 ** (gain_db / 20) / max(at(gain_db).out.tone_v(), 1e-12)
        return 20 * math.log10(lost) > FLATTENS_DB

    most = 20 * math.log10(MOST_EMF_V / unit.tone_v)
    low = 0.0
    while not behind(low + COARSE_DB):
        low += COARSE_DB
        if low > most:
            return None
    high = low + COARSE_DB
    while high - low > FINE_DB:
        middle = (low + high) / 2
        low, high = (low, middle) if behind(middle) else (middle, high)
    found = at(low)
    root = math.sqrt(2)
    return Flattens(found.into.tone_v() / root, found.out.tone_v() / root)
