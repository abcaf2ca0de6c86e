"""Where a response leaves its −3 dB band."""

from __future__ import annotations

import numpy as np

from tonleiter.core.circuit.ac import Floats

CORNER_DB = -3.0103
# beyond a real corner a response goes on falling, by this much from one octave out to three
FALLS_DB_PER_OCTAVE = 2.5


def corners_hz(f_hz: Floats, gain_db: Floats) -> tuple[float | None, float | None]:
    """Lower and upper −3 dB frequencies, interpolated; None if beyond the grid.

    They are taken from the highest point between 300 Hz and 3 kHz, where speech is understood: a
    corner near 200 Hz already takes 0.2 dB off at 1 kHz. A shelf or the flank of a resonance is no
    corner: where the response stops falling, its level there is what later ones are taken from.
    """
    speech = (f_hz >= 300.0) & (f_hz <= 3000.0)
    middle = int(np.argmax(np.where(speech, gain_db, -np.inf)))
    x = np.log2(f_hz)
    low = _corner(-x[middle::-1], gain_db[middle::-1])
    high = _corner(x[middle:], gain_db[middle:])
    return (None if low is None else 2.0**-low, None if high is None else 2.0**high)


def _corner(octave: Floats, gain_db: Floats) -> float | None:
    """Corner in octaves along a response that begins at its highest point; octaves ascend."""
    start, reference = 0, float(gain_db[0])
    while True:
        below = np.flatnonzero(gain_db[start:] < reference + CORNER_DB)
        if below.size == 0:
            return None
        k = start + int(below[0])
        if k == start:
            # the level it was taken from lies below its neighbours: look on from the next place
            at = float(octave[k])
        else:
            share = (reference + CORNER_DB - gain_db[k]) / (gain_db[k - 1] - gain_db[k])
            at = float(octave[k] + share * (octave[k - 1] - octave[k]))
        if _falls_on(octave, gain_db, at):
            return at
        further = int(np.searchsorted(octave, at + 2.0))
        if further >= octave.size:
            return None
        start, reference = further, float(gain_db[further])


def _falls_on(octave: Floats, gain_db: Floats, at: float) -> bool:
    """Whether the response goes on falling beyond a corner, as far as the grid tells."""
    one, three = at + 1.0, min(at + 3.0, float(octave[-1]))
    if three - one < 0.5:
        return True
    near, far = np.interp([one, three], octave, gain_db)
    return bool((near - far) / (three - one) >= FALLS_DB_PER_OCTAVE)
