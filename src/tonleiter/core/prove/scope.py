"""The simulated scope: a tone through the unit, solved in time, so that clipping is seen."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.elements import Circuit, Element, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.circuit.transient import solve_transient
from tonleiter.core.circuit.waves import Sine
from tonleiter.core.prove.unit import GENERATOR, Unit

Floats = NDArray[np.float64]
TONE_HZ, PERIODS, SETTLE, POINTS = 1000.0, 3, 1, 60
# a division in volts is one of these by a power of ten; a trace fills at most so many of them
_STEPS = (1.0, 2.0, 5.0)
MOST_DIVISIONS, LEAST_DIVISION_V = 3.0, 1e-3
# where this share of a period lies at an end of the swing, it is flat there; of a sine it is less
FLAT_SHARE, FLAT_NEAR = 0.2, 0.02


@dataclass(frozen=True)
class Trace:
    """One channel, coupled for AC: volts over time, its mean, what a scope says of it."""

    name: str
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


@dataclass(frozen=True)
class Traces:
    """Both channels over some periods; ``t_s`` begins at the trigger."""

    t_s: Floats
    into: Trace
    out: Trace


def traces(unit: Unit, elements: Sequence[Element], tone_v: float | None = None) -> Traces:
    """What a scope shows at both ends with the generator at ``tone_v``, RMS.

    By default the unit's own. Raises CircuitError where there is no solution.
    """
    rms = unit.tone_v if tone_v is None else tone_v
    wave = Sine(0.0, rms * math.sqrt(2), TONE_HZ)
    bench = [
        replace(e, wave=wave) if isinstance(e, VoltageSource) and e.name == GENERATOR else e
        for e in unit.bench
    ]
    system = System(Circuit((*elements, *bench)))
    period = 1 / TONE_HZ
    found = solve_transient(system, period / POINTS, (SETTLE + PERIODS) * period, SETTLE * period)
    return Traces(
        found.t_s - found.t_s[0],
        _trace("in", found.volts(*unit.inlet)),
        _trace("out", found.volts(*unit.outlet)),
    )


def _trace(name: str, volts: Floats) -> Trace:
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
