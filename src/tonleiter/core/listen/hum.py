"""Lines of the mains and of USB in the quietest pieces of a recording, told from hiss and fans.

A line stands over what lies beside it; mains lines lie at multiples of 50 or of 60 Hz, those of USB
at multiples of 1 kHz. What has no lines is hiss (even, or rising) or a fan (falling).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from tonleiter.core.listen.survey import Survey
from tonleiter.core.signal.arrays import Floats, Small

# a line stands so far over its neighbours; so many harmonics are looked for
STANDS_DB, HARMONICS = 9.0, 8
COMB_HZ, COMB = 1000.0, 6
BESIDE_BINS, LINE_BINS = 12, 2
# a hum that lies further under speech than this is nobody's business
HEARD_UNDER_DB = 66.0
# a single line may be a voice that holds its tone: what is weaker than this wants a second one
ALONE_UNDER_DB = 50.0

# pieces of a pause are no further apart than this, and lie at least so far under speech
ALIKE_DB, PAUSE_UNDER_DB = 4.0, 3.0
# and quarters of one lie no further apart than this
EVEN_DB = 6.0

NoiseKind = Literal["hiss", "fan", "unknown"]


@dataclass(frozen=True)
class Line:
    """One line: where, and its level in dB against speech's active level."""

    hertz: float
    under_db: float


@dataclass(frozen=True)
class Hum:
    """Lines found; ``mains_hz`` is 50 or 60, or None. ``why`` says why none could be looked for."""

    mains_hz: int | None
    mains: tuple[Line, ...]
    comb: tuple[Line, ...]
    noise: NoiseKind
    why: str = ""

    @property
    def mains_under_db(self) -> float | None:
        """All lines of the mains together under speech."""
        return _together(self.mains)

    @property
    def comb_under_db(self) -> float | None:
        """All lines of USB together under speech."""
        return _together(self.comb)

    @property
    def strongest(self) -> Line | None:
        """The strongest line of the mains."""
        return min(self.mains, key=lambda x: x.under_db, default=None)


def _together(lines: tuple[Line, ...]) -> float | None:
    if not lines:
        return None
    return -10 * math.log10(sum(10 ** (-x.under_db / 10) for x in lines))


def hum_of(survey: Survey, active_db: float) -> Hum:
    """Lines in the quietest pieces; levels against ``active_db``, of samples as they are."""
    if not survey.quiet:
        return Hum(None, (), (), "unknown", "there is nothing between words but digital silence")
    pieces = _pauses(survey, active_db)
    if not pieces:
        return Hum(None, (), (), "unknown", "there is no pause of half a second between words")
    power, rate = _spectrum(pieces), survey.rate_hz
    size = 2 * (power.size - 1)
    f_step = rate / size
    found = {m: _lines(power, f_step, [m * k for k in range(1, HARMONICS + 1)], active_db)
             for m in (50.0, 60.0)}  # fmt: skip
    # 300 Hz is a multiple of both: lines that only one of them has decide
    own = {m: [x for x in found[m] if round(x.hertz) % 300] for m in (50.0, 60.0)}
    mains = max(own, key=lambda m: sum(10 ** (-x.under_db / 10) for x in own[m]))
    lines = tuple(found[mains]) if own[mains] else ()
    if len(lines) == 1 and lines[0].under_db > ALONE_UNDER_DB:
        lines = ()
    comb_at = [COMB_HZ * k for k in range(1, COMB + 1) if COMB_HZ * k < 0.45 * rate]
    comb = _lines(power, f_step, comb_at, active_db)
    # one line of a thousand hertz may be anything; a comb has several
    kept = tuple(comb) if len(comb) >= min(2, len(comb_at)) else ()
    return Hum(int(mains) if lines else None, lines, kept, _kind(power, f_step))


def _pauses(survey: Survey, active_db: float) -> list[Small]:
    """The quietest pieces that are alike: where one word reaches in, it is louder than the rest."""
    even = [p for p in survey.quiet if _is_even(p)]
    powers = [float(np.dot(p, p)) / p.size for p in even]
    if not powers:
        return []
    floor = powers[min(1, len(powers) - 1)]
    most = min(floor * 10 ** (ALIKE_DB / 10), 10 ** ((active_db - PAUSE_UNDER_DB) / 10))
    return [p for p, power in zip(even, powers, strict=True) if power <= most]


def _is_even(piece: Small) -> bool:
    """Whether it goes on alike, as hum and noise do; the end of a word does not."""
    quarter = piece.size // 4
    parts = (piece[: 4 * quarter].reshape(4, quarter).astype(float) ** 2).mean(axis=1)
    return bool(parts.min() > 0 and 10 * math.log10(parts.max() / parts.min()) < EVEN_DB)


def _spectrum(pieces: list[Small]) -> Floats:
    """Mean power of some pieces, as sines' powers; shape (bins,)."""
    rows = np.stack(pieces).astype(float)
    window = np.hanning(rows.shape[1])
    power = np.abs(np.fft.rfft((rows - rows.mean(axis=1)[:, None]) * window)) ** 2
    made: Floats = power.mean(axis=0) * 2 / window.sum() ** 2
    return made


def _lines(power: Floats, f_step: float, at_hz: list[float], active_db: float) -> list[Line]:
    found = []
    for hertz in at_hz:
        k = round(hertz / f_step)
        if k + BESIDE_BINS >= power.size or k < LINE_BINS + 1:
            continue
        near = power[k - LINE_BINS : k + LINE_BINS + 1]
        top = k - LINE_BINS + int(np.argmax(near))
        left = power[max(top - BESIDE_BINS, 1) : top - 2 * LINE_BINS]
        right = power[top + 2 * LINE_BINS + 1 : top + BESIDE_BINS + 1]
        floor = float(np.median(np.concatenate([left, right])))
        # a sine's power is spread over three bins of this window: one and a half times the top's
        line = float(power[max(top - 2, 0) : top + 3].sum()) / 1.5
        if floor <= 0 or 10 * math.log10(max(power[top], 1e-30) / floor) < STANDS_DB:
            continue
        under = active_db - 10 * math.log10(max(line - 5 * floor / 1.5, 1e-30))
        if under < HEARD_UNDER_DB:
            found.append(Line(hertz, under))
    return found


def _kind(power: Floats, f_step: float) -> NoiseKind:
    """Whether noise falls with frequency as a fan's does, or is even."""

    def mean_db(low: float, high: float) -> float:
        part = power[round(low / f_step) : round(high / f_step)]
        return 10 * math.log10(max(float(np.median(part)), 1e-30)) if part.size else -300.0

    low, high = mean_db(120.0, 400.0), mean_db(1500.0, 2800.0)
    if low < -150 or high < -200:
        return "unknown"
    return "fan" if low - high > 12.0 else "hiss"
