"""Two recordings held against each other: aligned, what changed, whether it is fair.

The same words lie on each other by the cross-correlation of their envelopes, then of their waves;
what does not correlate are other words, and only long-term figures are compared.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tonleiter.core.listen.measures import Measures, Told
from tonleiter.core.listen.words import PRAISE, Heard, heard
from tonleiter.core.once import cached_property
from tonleiter.core.signal.arrays import Floats, quick_size

# envelopes that agree less are of other words
SAME_WORDS = 0.6
# a change smaller than this many standard deviations is none
CLEAR_Z = 2.0
ENVELOPE_S = 0.01


@dataclass(frozen=True)
class Aligned:
    """How one recording lies on another. ``late_s``: the second begins so much later in its file.

    ``agree`` is the correlation of their envelopes, ``same_words`` whether that is enough.
    """

    late_s: float
    agree: float

    @property
    def same_words(self) -> bool:
        """Whether the same was said."""
        return self.agree >= SAME_WORDS


@dataclass(frozen=True)
class Change:
    """One figure of both, the second less the first; ``clear`` where it is more than chance."""

    title: str
    unit: str
    one: Told
    other: Told

    @property
    def by(self) -> Told:
        """The second less the first."""
        return self.other.minus(self.one)

    @property
    def clear(self) -> bool:
        """Whether it is more than the figures' own uncertainty."""
        by = self.by
        return by.value is not None and abs(by.value) > max(CLEAR_Z * by.sure, 0.5)


@dataclass(frozen=True, eq=False)
class Comparison:
    """Two recordings; everything is computed when first asked for."""

    one: Measures
    other: Measures

    @cached_property
    def aligned(self) -> Aligned:
        """How they lie on each other."""
        return align(self.one, self.other)

    @cached_property
    def louder_db(self) -> float | None:
        """By how much the second is louder; None where a level cannot be told."""
        return self.other.level.minus(self.one.level).value

    @cached_property
    def changes(self) -> tuple[Change, ...]:
        """Every figure of both."""
        a, b = self.one, self.other
        return (
            Change("Speech level", "dBFS", a.level, b.level),
            Change("Loudness", "LUFS", a.loudness, b.loudness),
            Change("Speech over noise", "dB", a.over_noise, b.over_noise),
            Change("Bass", "dB", a.low, b.low),
            Change("Treble", "dB", a.high, b.high),
            Change("Lower edge, −6 dB", "Hz", a.edge(6, upper=False), b.edge(6, upper=False)),
            Change("Upper edge, −6 dB", "Hz", a.edge(6, upper=True), b.edge(6, upper=True)),
            Change("Hum under speech", "dB", _hum(a), _hum(b)),
            Change("Cut samples", "%", _percent(a.cut_share), _percent(b.cut_share)),
            Change("Loud to soft", "dB", a.loud_to_soft, b.loud_to_soft),
            Change("Crest", "dB", a.crest, b.crest),
        )

    @cached_property
    def words(self) -> tuple[tuple[Heard, ...], tuple[Heard, ...]]:
        """What went, and what came."""
        was, now = heard(self.one), heard(self.other)
        named, namely = {h.word for h in was}, {h.word for h in now}
        gone = tuple(h for h in was if h.word not in {*namely, *PRAISE})
        come = tuple(h for h in now if h.word not in {*named, *PRAISE})
        return gone, come

    @cached_property
    def spectrum_db(self) -> tuple[Floats, Floats]:
        """Frequencies of both, and the second less the first with levels aligned; in dB."""
        f = self.one.centres if self.one.centres.size < self.other.centres.size else (
            self.other.centres
        )  # fmt: skip
        n = f.size
        made: Floats = self.other.speech_db[:n] - self.one.speech_db[:n]
        return f, made

    def headline(self) -> str:
        """What changed, in decibels and in words, as a sentence."""
        if (text := self.said()) is None:
            return f"They cannot be compared: {self.why_not}."
        return f"The second: {text}."

    @property
    def why_not(self) -> str:
        """Why they cannot be compared; empty where they can."""
        return "" if self.louder_db is not None else self.one.level.why or self.other.level.why

    def said(self) -> str | None:
        """What changed of the second, in decibels and in words; None where nobody can say."""
        by = self.louder_db
        if by is None:
            return None
        said = []
        if abs(by) >= 1.0:
            said.append(f"{abs(by):.0f} dB {'louder' if by > 0 else 'quieter'}")
        for change in self.changes[2:5]:
            moved = change.by
            if change.clear and moved.value is not None:
                up = "up" if moved.value > 0 else "down"
                said.append(f"{change.title.lower()} {up} {abs(moved.value):.0f} dB")
        gone, come = self.words
        tail = []
        if gone:
            tail.append(f"no longer {_listed(gone)}")
        if come:
            tail.append(f"now {_listed(come)}")
        return ", ".join([*said, *tail]) or "no difference that is more than chance"


def _listed(words: tuple[Heard, ...]) -> str:
    names = [h.says for h in words[:3]]
    return " and ".join(filter(None, [", ".join(names[:-1]), names[-1]]))


def _hum(m: Measures) -> Told:
    under = m.hum.mains_under_db
    return Told(None, 0.0, m.hum.why or "none found") if under is None else Told(under, 0.5)


def _percent(told: Told) -> Told:
    return told if told.value is None else Told(100 * told.value, 100 * told.sure)


def align(one: Measures, other: Measures) -> Aligned:
    """How two recordings lie on each other, by the logarithms of their envelopes."""
    a, b = (_envelope(m) for m in (one, other))
    if a.size < 50 or b.size < 50:
        return Aligned(0.0, 0.0)
    n = quick_size(a.size + b.size)
    both = np.fft.irfft(np.fft.rfft(b, n) * np.conj(np.fft.rfft(a, n)), n)
    shift = int(np.argmax(both))
    late = shift if shift < b.size else shift - n
    low, high = max(0, -late), min(a.size, b.size - late)
    x, y = a[low:high], b[low + late : high + late]
    if x.size < 50:
        return Aligned(0.0, 0.0)
    agree = float(np.corrcoef(x, y)[0, 1])
    return Aligned(late * ENVELOPE_S, agree if math.isfinite(agree) else 0.0)


def _envelope(m: Measures) -> Floats:
    """Levels of hundredths of a second over the noise, without their mean; shape (n,)."""
    s = m.survey
    width = max(round(ENVELOPE_S / s.step_s), 1)
    sizes = s.sizes[: s.sizes.size // width * width].astype(float).reshape(-1, width).mean(axis=1)
    floor = 10 ** ((m.active.level_db - 30) / 20)
    levels: Floats = np.log10(np.maximum(sizes, max(floor, 1e-7)))
    made: Floats = levels - levels.mean()
    return made


def fine_shift(one: Floats, other: Floats, rate_hz: int, coarse_s: float, most_s: float) -> float:
    """The shift to a part of a sample, by the waves, near a coarse one; in seconds.

    ``one`` and ``other`` are of the same rate, shape (n,).
    """
    most = round(most_s * rate_hz)
    at = round(coarse_s * rate_hz)
    low, high = max(0, -(at - most)), min(one.size, other.size - (at + most))
    if high - low < 4 * most:
        return coarse_s
    x = one[low:high]
    n = quick_size(x.size + 2 * most)
    y = other[low + at - most : high + at + most]
    both = np.fft.irfft(np.fft.rfft(y, n) * np.conj(np.fft.rfft(x, n)), n)[: 2 * most + 1]
    k = int(np.argmax(np.abs(both)))
    part = 0.0
    if 0 < k < both.size - 1:
        a, b, c = (abs(float(v)) for v in both[k - 1 : k + 2])
        bend = a - 2 * b + c
        part = 0.5 * (a - c) / bend if bend else 0.0
    return (at - most + k + part) / rate_hz
