"""Where a response leaves its −3 dB band."""

from __future__ import annotations

import numpy as np

from tonleiter.core.circuit.ac import Floats

CORNER_DB = -3.0103


def corners_hz(f_hz: Floats, gain_db: Floats) -> tuple[float | None, float | None]:
    """Lower and upper −3 dB frequencies, interpolated; None if beyond the grid.

    They are taken from the highest point between 300 Hz and 3 kHz, where speech is understood: a
    corner near 200 Hz already takes 0.2 dB off at 1 kHz.
    """
    speech = (f_hz >= 300.0) & (f_hz <= 3000.0)
    middle = int(np.argmax(np.where(speech, gain_db, -np.inf)))
    relative = gain_db - gain_db[middle]
    below = np.flatnonzero(relative[:middle] < CORNER_DB)
    above = np.flatnonzero(relative[middle + 1 :] < CORNER_DB)
    low = _cross(f_hz, relative, int(below[-1]), int(below[-1]) + 1) if below.size else None
    start = middle + 1
    high = (
        _cross(f_hz, relative, start + int(above[0]), start + int(above[0]) - 1)
        if above.size
        else None
    )
    return low, high


def _cross(f_hz: Floats, relative: Floats, outside: int, inside: int) -> float:
    share = (CORNER_DB - relative[outside]) / (relative[inside] - relative[outside])
    log_f = np.log(f_hz[outside]) + share * np.log(f_hz[inside] / f_hz[outside])
    return float(np.exp(log_f))
