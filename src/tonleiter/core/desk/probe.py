"""A loop measured: what is sent, and what of it came back: gain, noise, delay.

A sweep finds the delay by cross-correlation, to a part of a sample; a tone after it has its level
fitted as a sine's, so that noise does not count; the silence before both is the noise.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tonleiter.core.signal.arrays import Complexes, Floats, quick_size

BEFORE_S, SWEEP_S, GAP_S, TONE_S, AFTER_S = 0.5, 0.25, 0.15, 1.0, 0.6
SWEEP_HZ, TONE_HZ = (500.0, 2500.0), 1000.0
FADE_S = 0.01
# what of the tone is looked at: its ends may still ring
EDGE_S = 0.1
# a sweep that does not stand out by so much over everything else did not come back
LEAST_PEAK = 6.0
# a phase is looked at in parts of so many seconds, whole turns of the tone
PART_S, JUMP_RAD = 0.05, 0.15
# sizes are looked at in shorter ones: a hole of whole turns leaves the phase where it was
HOLE_S, HOLE, SPREADS = 0.01, 0.2, 6.0
# no box passes a kilohertz by so much less than what lies around it: the tone did not come
LEAST_TONE = 0.1
LOUDEST_DBFS, SOFTEST_DBFS = -3.0, -60.0


LOST = "samples were lost on the way: measure again, with less going on"


@dataclass(frozen=True)
class Measured:
    """A loop. ``gain_db`` from what was sent to what came in, both against full scale."""

    gain_db: float
    level_dbfs: float
    noise_dbfs: float
    delay_s: float
    peak_dbfs: float

    @property
    def at_full_scale(self) -> bool:
        """Whether what came in was cut."""
        return self.peak_dbfs > -0.1


class NothingCameBackError(Exception):
    """Nothing of what was sent is in what came in."""


def probe(rate_hz: int, level_dbfs: float) -> Floats:
    """What is sent: silence, a sweep, a tone, silence; its RMS against a full-scale sine's."""
    peak = 10 ** (level_dbfs / 20)
    t = np.arange(round(SWEEP_S * rate_hz)) / rate_hz
    low, high = SWEEP_HZ
    sweep = np.sin(2 * np.pi * (low * t + (high - low) / (2 * SWEEP_S) * t**2))
    tone = np.sin(2 * np.pi * TONE_HZ * np.arange(round(TONE_S * rate_hz)) / rate_hz)
    parts = [_silence(BEFORE_S, rate_hz), peak * _faded(sweep, rate_hz), _silence(GAP_S, rate_hz)]
    parts += [peak * _faded(tone, rate_hz), _silence(AFTER_S, rate_hz)]
    return np.concatenate(parts)


def seconds(rate_hz: int) -> float:
    """How long it is."""
    return probe(rate_hz, -20.0).size / rate_hz


class SamplesLostError(NothingCameBackError):
    """What came in has holes, or came late: a busy machine, and a level would be wrong."""


@dataclass(frozen=True)
class Clocked:
    """When frames of a stream went by: frame numbers, and seconds of one clock for all streams."""

    frames: tuple[int, ...]
    at_s: tuple[float, ...]

    def when(self, frame: float) -> float:
        """When a frame went by."""
        return float(np.interp(frame, self.frames, self.at_s))


def measured(
    came: Floats,
    rate_hz: int,
    level_dbfs: float,
    sent_at: Clocked | None = None,
    came_at: Clocked | None = None,
) -> Measured:
    """What came in, shape (n,), full scale being one; the clocks of both streams where they differ.

    Without clocks recording and sending began together. Raises NothingCameBackError, and
    SamplesLostError where it has holes.
    """
    if came.size < round((SWEEP_S + TONE_S) * rate_hz) or not np.isfinite(came).all():
        raise NothingCameBackError("what came in is too short to be measured")
    sent = probe(rate_hz, level_dbfs)
    first = round(BEFORE_S * rate_hz)
    sweep = sent[first : first + round(SWEEP_S * rate_hz)]
    at, passed = _found(came, sweep)
    tone_at = at + round((SWEEP_S + GAP_S + EDGE_S) * rate_hz)
    tone = came[round(tone_at) : round(tone_at) + round((TONE_S - 2 * EDGE_S) * rate_hz)]
    if tone.size < 0.5 * (TONE_S - 2 * EDGE_S) * rate_hz:
        raise SamplesLostError("the recording ends before the tone does: measure again")
    _whole(tone, rate_hz)
    before = came[: max(int(at) - round(0.05 * rate_hz), 0)]
    quiet = before[before.size // 4 :]
    noise = float(np.sqrt(np.mean((quiet - quiet.mean()) ** 2))) if quiet.size > 100 else 0.0
    level = _sine_dbfs(tone, rate_hz)
    if 10 ** ((level - level_dbfs) / 20) < LEAST_TONE * passed:
        raise SamplesLostError(LOST)
    return Measured(
        gain_db=level - level_dbfs,
        level_dbfs=level,
        noise_dbfs=20 * math.log10(max(noise * math.sqrt(2), 1e-7)),
        delay_s=_delay(at, first, rate_hz, sent_at, came_at),
        peak_dbfs=20 * math.log10(max(float(np.abs(came).max()), 1e-7)),
    )


def _delay(
    at: float, first: int, rate_hz: int, sent_at: Clocked | None, came_at: Clocked | None
) -> float:
    left = first / rate_hz if sent_at is None else sent_at.when(first)
    there = at / rate_hz if came_at is None else came_at.when(at)
    return there - left


def _silence(seconds_: float, rate_hz: int) -> Floats:
    return np.zeros(round(seconds_ * rate_hz))


def _faded(x: Floats, rate_hz: int) -> Floats:
    n = round(FADE_S * rate_hz)
    ramp = np.ones(x.size)
    ramp[:n] = np.linspace(0, 1, n)
    ramp[-n:] = np.linspace(1, 0, n)
    made: Floats = x * ramp
    return made


def _found(came: Floats, sweep: Floats) -> tuple[float, float]:
    """Where a sweep begins, in samples and a part of one, and by what it is larger than sent.

    Raises NothingCameBackError.
    """
    n = quick_size(came.size + sweep.size)
    spectrum = np.fft.rfft(came, n) * np.conj(np.fft.rfft(sweep, n))
    both = np.fft.irfft(spectrum, n)[: came.size]
    k = int(np.argmax(np.abs(both)))
    spread = float(np.sqrt(np.mean(both**2)))
    if spread == 0 or abs(both[k]) < LEAST_PEAK * spread:
        raise NothingCameBackError("nothing of what was sent came back")
    passed = abs(float(both[k])) / float(np.dot(sweep, sweep))
    part = 0.0
    if 0 < k < both.size - 1:
        a, b, c = (abs(float(v)) for v in both[k - 1 : k + 2])
        part = 0.5 * (a - c) / (a - 2 * b + c) if a - 2 * b + c != 0 else 0.0
    return k + part, passed


def _whole(tone: Floats, rate_hz: int) -> None:
    """Refuse a tone whose phase jumps, or that is away for a moment: SamplesLostError.

    Clocks may drift, but evenly; noise moves sizes, but all of them.
    """
    # each part begins whole turns after the one before
    phase = np.unwrap(np.angle(_parts(tone, rate_hz, PART_S, np.hanning)))
    k = np.arange(phase.size)
    left = phase - np.polyval(np.polyfit(k, phase, 1), k) if phase.size > 2 else np.zeros(1)
    sizes = np.abs(_parts(tone, rate_hz, HOLE_S, np.ones))
    usual = float(np.median(sizes))
    spread = float(np.median(np.abs(sizes - usual)))
    away = usual - float(sizes.min()) > HOLE * usual + SPREADS * spread
    if float(np.abs(left).max()) > JUMP_RAD or away:
        raise SamplesLostError(LOST)


def _parts(
    tone: Floats, rate_hz: int, seconds_: float, window: Callable[[int], Floats]
) -> Complexes:
    """The tone's size and phase in each part of it, shape (parts,)."""
    step = round(seconds_ * rate_hz)
    parts = tone[: tone.size // step * step].reshape(-1, step)
    t = np.arange(step) / rate_hz
    made: Complexes = parts @ (np.exp(-2j * np.pi * TONE_HZ * t) * window(step))
    return made


def _sine_dbfs(x: Floats, rate_hz: int) -> float:
    """Level of the tone's sine, fitted: noise beside it does not count."""
    t = np.arange(x.size) / rate_hz
    turn = np.exp(-2j * np.pi * TONE_HZ * t)
    window = np.hanning(x.size)
    amplitude = 2 * abs(np.sum(x * turn * window)) / window.sum()
    return 20 * math.log10(max(float(amplitude), 1e-7))
