"""What comes twice, and what comes up in pauses: an echo, and a compressor that pumps."""

from __future__ import annotations

import numpy as np

from tonleiter.core.listen.survey import Survey
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.signal.runs import runs_of

# an echo is looked for so late, in pieces of a second
LEAST_S, MOST_S, PIECE_S = 0.04, 0.6, 1.0
SMOOTH_HZ, FROM_HZ, UPTO = 60.0, 150.0, 0.45
LOUD = 0.05
# a pause in which something could come up, so far under speech; its ends are left out
PAUSE_S, BLOCK_S, AFTER_S, BEFORE_S, UNDER_DB = 0.45, 0.02, 0.12, 0.06, 6.0
LEAST_PAUSES = 3
# what comes up to less than this under speech is a breath in a quiet room
HEARD_DB = 32.0


def echo_of(survey: Survey) -> tuple[float, float]:
    """When something comes again, in seconds, and how much of it stands out.

    The spectrum of all loud pieces together, its own shape taken away, ripples with the echo: what
    is told is the largest value of its cepstrum (Bogert, Healy and Tukey, 1963), about the echo's
    size against the first sound.
    """
    x = survey.means.astype(float)
    rate = 1 / survey.step_s
    size = round(PIECE_S * rate)
    if x.size < 3 * size:
        return 0.0, 0.0
    rows = np.lib.stride_tricks.sliding_window_view(x, size)[:: size // 2]
    power = (rows**2).mean(axis=1)
    total, count = np.zeros(size + 1), 0
    window = np.hanning(size)
    for row in rows[power > LOUD * power.max()]:
        spectrum = np.abs(np.fft.rfft(row * window, 2 * size)) ** 2
        total += spectrum / max(float(spectrum.mean()), 1e-30)
        count += 1
    levels = np.log(total / max(count, 1) + 1e-6)
    f = np.fft.rfftfreq(2 * size, 1 / rate)
    wide = round(SMOOTH_HZ / f[1])
    padded = np.pad(levels, wide // 2, mode="edge")
    levels = levels - np.convolve(padded, np.ones(wide) / wide, "valid")[: levels.size]
    inside = (f > FROM_HZ) & (f < UPTO * rate)
    weights: Floats = np.zeros(f.size)
    weights[inside] = np.hanning(int(inside.sum()))
    cepstrum = np.fft.irfft(levels * weights) * f.size / weights.sum()
    low, high = round(LEAST_S * rate), round(MOST_S * rate)
    k = low + int(np.argmax(cepstrum[low:high]))
    return k / rate, float(cepstrum[k])


def rise_db(survey: Survey, active_db: float) -> float | None:
    """How far what lies between words comes up until the next one; None with too few pauses.

    A straight line through the levels of a pause, from after a word's end to before the next.
    """
    width = round(BLOCK_S / survey.step_s)
    sizes = survey.sizes[: survey.sizes.size // width * width].astype(float)
    blocks = np.maximum(sizes.reshape(-1, width).mean(axis=1), 1e-9)
    # mean sizes of noise lie 2 dB under its RMS
    level = 20 * np.log10(blocks) + 2.0
    found = []
    for begin, end in zip(*runs_of(level < active_db - UNDER_DB), strict=True):
        if (end - begin) * BLOCK_S < PAUSE_S or begin == 0 or end == level.size:
            continue
        inside = level[begin + round(AFTER_S / BLOCK_S) : end - round(BEFORE_S / BLOCK_S)]
        t = np.arange(inside.size)
        rises, start = np.polyfit(t, inside, 1)
        heard = start + rises * inside.size > active_db - HEARD_DB
        found.append(float(rises) * inside.size if heard else 0.0)
    return float(np.median(found)) if len(found) >= LEAST_PAUSES else None
