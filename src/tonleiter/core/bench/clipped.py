"""How much of a tone is left where a stage runs into its ends: what a meter reads of it then.

The tone is solved as small. Each device says how far its output can swing from where it rests: a
chip between its rails, a transistor between shut and full on. A sine that is cut off there has
this RMS, and no more of it comes out at the end.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.chips import OUT, POLE, OpAmpDevice
from tonleiter.core.circuit.dc import OperatingPoint
from tonleiter.core.circuit.devices import BipolarDevice, JfetDevice
from tonleiter.core.circuit.states import DeviceState
from tonleiter.core.circuit.system import PlacedDevice

# complex, or real where only resistances stand
Phasors = NDArray[np.complexfloating[Any, Any]] | NDArray[np.float64]
# a swing of less than this cannot be cut off by anything that one would notice
LEAST_SWING_V = 2e-3
# what a transistor keeps to itself when it is full on
FULL_ON_V = 0.1
_TURN = np.sin(2 * np.pi * (np.arange(128) + 0.5) / 128)


def left_of(swing_v: float, up_v: float, down_v: float) -> float:
    """Of the RMS of a sine of this peak so much, if it is cut off so far up and down."""
    if swing_v <= min(up_v, down_v):
        return 1.0
    cut = np.clip(swing_v * _TURN, -max(down_v, 0.0), max(up_v, 0.0))
    return float(np.std(cut)) * math.sqrt(2) / swing_v


def tone_left(op: OperatingPoint, x: Phasors) -> float:
    """The share of a tone's RMS that is left; ``x`` are RMS phasors of the unknowns, (size,)."""
    left = 1.0
    for placed, state in zip(op.system.devices, op.states, strict=True):
        v = np.array([0.0 if row < 0 else x[row] for row in placed.rows])
        if swing := _swing(placed, state, v):
            left = min(left, left_of(*swing))
    return left


def _swing(
    placed: PlacedDevice, state: DeviceState, v: Phasors
) -> tuple[float, float, float] | None:
    """Peak of the swing at its output, how far it can go up and down; None where there is none."""
    device = placed.device
    if isinstance(device, OpAmpDevice):
        peak = math.sqrt(2) * abs(complex(v[OUT] - v[-1]))
        info = state.info
        up, down = info["high_v"] - info["out_v"], info["out_v"] - info["low_v"]
        # into a heavy load its current ends first
        amps = math.sqrt(2) * abs(complex(v[POLE] - v[OUT])) / device.model.output_ohm
        if amps > 0 and peak > 0:
            most = peak * device.model.limit_a / amps
            up, down = min(up, most), min(down, most)
        return (peak, up, down) if peak > LEAST_SWING_V else None
    if isinstance(device, BipolarDevice):
        rest_a, rest_v = abs(state.info["ic_a"]), abs(state.info["vce_v"])
        keeps = FULL_ON_V
    elif isinstance(device, JfetDevice):
        rest_a, rest_v = abs(state.info["id_a"]), abs(state.info["vds_v"])
        keeps = max(state.info["vgs_v"] * device.model.polarity - device.model.vto_v, FULL_ON_V)
        keeps = min(keeps, rest_v)
    else:
        return None
    # first terminal: collector or drain; last: emitter or source
    peak = math.sqrt(2) * abs(complex(v[0] - v[2]))
    amps = math.sqrt(2) * abs(complex(state.conductances[0] @ v))
    if peak <= LEAST_SWING_V or amps <= 0:
        return None
    return peak, peak * rest_a / amps, max(rest_v - keeps, 0.0)
