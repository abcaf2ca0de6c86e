"""What a device says of itself at given volts: currents, derivatives, noise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class DeviceNoise:
    """A white current noise between two terminals (indices into the device's terminals)."""

    label: str
    p: int
    n: int
    psd_a2_per_hz: float


@dataclass(frozen=True)
class DeviceState:
    """Currents into the terminals (A), their derivatives (S), and what a user wants to know."""

    currents: Floats
    conductances: Floats
    noise: tuple[DeviceNoise, ...]
    info: dict[str, float]
