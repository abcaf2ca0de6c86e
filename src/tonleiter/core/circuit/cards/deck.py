"""What a netlist file asks for: a circuit and the analyses on it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.elements import Circuit

MOST_POINTS, MOST_VALUES = 100_000, 2_000_000


@dataclass(frozen=True)
class Sweep:
    """Frequencies of an analysis: ``points`` per decade or octave, or in all when linear."""

    scale: Literal["dec", "oct", "lin"]
    points: int
    start_hz: float
    stop_hz: float

    def f_hz(self) -> NDArray[np.float64]:
        """The frequencies, both ends included for ``lin``; ``stop_hz`` never exceeded."""
        if self.scale == "lin":
            return np.linspace(self.start_hz, self.stop_hz, self.points)
        base = 10.0 if self.scale == "dec" else 2.0
        spans = np.log(self.stop_hz / self.start_hz) / np.log(base)
        count = int(np.floor(self.points * spans * (1 + 1e-12) + 1e-9)) + 1
        return np.asarray(self.start_hz * base ** (np.arange(count) / self.points))

    def count(self) -> float:
        """How many points the sweep has, without making them."""
        if self.scale == "lin":
            return self.points
        base = 10.0 if self.scale == "dec" else 2.0
        return float(self.points * np.log(self.stop_hz / self.start_hz) / np.log(base) + 1)


@dataclass(frozen=True)
class NoiseRequest:
    """Output node (over a reference node), input source, frequencies."""

    output: str
    reference: str
    source: str
    sweep: Sweep


@dataclass(frozen=True)
class Times:
    """A transient: told every ``step_s`` from ``start_s`` to ``stop_s``, by steps of ``most_s``."""

    step_s: float
    stop_s: float
    start_s: float = 0.0
    most_s: float | None = None


@dataclass(frozen=True)
class Deck:
    """A netlist file as read. ``notes`` name cards that were understood but left out."""

    circuit: Circuit
    op: bool = False
    ac: Sweep | None = None
    noise: NoiseRequest | None = None
    tran: Times | None = None
    notes: tuple[str, ...] = ()
