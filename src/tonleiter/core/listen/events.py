"""What happens at a moment: clicks, pops of breath, drop-outs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from tonleiter.core.listen.survey import Survey
from tonleiter.core.signal.arrays import Floats, Small
from tonleiter.core.signal.recursive import one_pole
from tonleiter.core.signal.runs import runs_of

EventKind = Literal["click", "pop", "drop-out"]
# a click: one to five milliseconds, so far over what lies around it, and this near to speech
CLICK_OVER_DB, CLICK_MOST_MS, CLICK_UNDER_SPEECH_DB = 22.0, 6, 12.0
AROUND_S, CLICK_AWAY_S, RECORDERS_KEY_S = 0.04, 0.008, 0.02
# breath: below this, over the voice's own level, for a twentieth of a second
POP_HZ, POP_OVER_DB, POP_LEAST_S = 60.0, 0.0, 0.02
# digital silence in the middle of speech
GAP_LEAST_S, SPEECH_NEAR_S = 0.006, 0.05
APART_S, MOST = 0.15, 200
# hours are gone through in pieces of this length, each with so much of its neighbours
PIECE_S, BESIDE_S = 60.0, 3.0


@dataclass(frozen=True)
class Event:
    """Something at a moment; ``over_db`` against the active level of speech."""

    kind: EventKind
    at_s: float
    over_db: float
    lasts_s: float


def events_of(survey: Survey, active_db: float) -> tuple[Event, ...]:
    """All of them, in order; at most a few hundred."""
    active = 10 ** (active_db / 20)
    found = [
        *_by_pieces(survey.peaks, survey.step_s, active, _clicks),
        *_by_pieces(survey.means, survey.step_s, active, _pops),
        *_gaps(survey, active),
    ]
    # where somebody pressed the recorder's key there is nothing beside a click to hold it against
    last = survey.seconds - RECORDERS_KEY_S
    inside = [e for e in found if e.kind != "click" or RECORDERS_KEY_S <= e.at_s <= last]
    return tuple(sorted(inside, key=lambda e: e.at_s)[:MOST])


def _by_pieces(
    steps: Small, step_s: float, active: float, of: Callable[[Floats, float, float], list[Event]]
) -> list[Event]:
    """Pieces that overlap, so that hours take no more memory than minutes."""
    piece, beside = round(PIECE_S / step_s), round(BESIDE_S / step_s)
    found: list[Event] = []
    for begin in range(0, steps.size, piece):
        first = max(begin - beside, 0)
        part = steps[first : begin + piece + beside].astype(float)
        own = range(begin, begin + piece)
        for event in of(part, step_s, active):
            at = event.at_s + first * step_s
            if round(at / step_s) in own:
                found.append(replace(event, at_s=at))
    return found


def _clicks(peaks: Floats, step_s: float, active: float) -> list[Event]:
    around = max(round(AROUND_S / step_s), 4)
    away = max(round(CLICK_AWAY_S / step_s), 2)
    if peaks.size < 4 * around:
        return []
    # the larger of what lies before and after, a little away: a syllable's start is no click
    before = _running_max(peaks, around, -away)
    after = _running_max(peaks, around, away)
    beside = np.maximum(np.maximum(before, after), 1e-9)
    over = 20 * np.log10(np.maximum(peaks, 1e-9) / beside)
    loud = peaks > active * 10 ** (-CLICK_UNDER_SPEECH_DB / 20)
    return _events("click", (over > CLICK_OVER_DB) & loud, peaks, step_s, active,
                   most_s=CLICK_MOST_MS / 1000)  # fmt: skip


def _running_max(x: Floats, width: int, away: int) -> Floats:
    """The largest of ``width`` steps that end (away < 0) or begin so far from each one."""
    side = np.zeros(width)
    if away < 0:
        padded = np.concatenate([side, x])
        view = np.lib.stride_tricks.sliding_window_view(padded, width).max(axis=1)
        shifted = np.concatenate([np.zeros(-away), view])[: x.size]
        return np.asarray(shifted)
    padded = np.concatenate([x, side, np.zeros(away)])
    view = np.lib.stride_tricks.sliding_window_view(padded, width).max(axis=1)
    return np.asarray(view[away : away + x.size])


def _pops(means: Floats, step_s: float, active: float) -> list[Event]:
    """Breath: what is left below 60 Hz, of the means of milliseconds."""
    if means.size < 100:
        return []
    keeps = float(np.exp(-2 * np.pi * POP_HZ * step_s))
    slow = one_pole(one_pole(means, keeps), keeps)
    # a constant part, and what drifts, is no breath
    slow = slow - one_pole(slow, float(np.exp(-2 * np.pi * 4.0 * step_s)))
    size = np.abs(slow)
    return _events("pop", size > active * 10 ** (POP_OVER_DB / 20), size, step_s, active,
                   least_s=POP_LEAST_S / 4)  # fmt: skip


def _gaps(survey: Survey, active: float) -> list[Event]:
    """Runs of digital silence with speech right before and right after."""
    peaks = survey.peaks
    near = max(round(SPEECH_NEAR_S / survey.step_s), 1)
    found = []
    for begin, end in _runs(peaks <= 0):
        seconds = (end - begin) * survey.step_s
        if seconds < GAP_LEAST_S or begin < near or end + near > peaks.size:
            continue
        beside = min(float(peaks[begin - near : begin].max()), float(peaks[end : end + near].max()))
        if seconds < 0.5 and beside > 0.3 * active:
            found.append(Event("drop-out", begin * survey.step_s, -99.0, seconds))
    return found[:MOST]


def _events(
    kind: EventKind,
    where: np.ndarray,
    size: Floats,
    step_s: float,
    active: float,
    most_s: float = np.inf,
    least_s: float = 0.0,
) -> list[Event]:
    found: list[Event] = []
    for begin, end in _runs(where):
        seconds = (end - begin) * step_s
        if not least_s <= seconds <= most_s:
            continue
        at = begin * step_s
        if found and at - found[-1].at_s < APART_S:
            continue
        over = 20 * float(np.log10(max(size[begin:end].max(), 1e-9) / active))
        found.append(Event(kind, at, over, seconds))
    return found[:MOST]


def _runs(where: np.ndarray) -> list[tuple[int, int]]:
    begins, ends = runs_of(where)
    return list(zip(begins.tolist(), ends.tolist(), strict=True))
