"""What readings teach of a chain: figures before and after, what does not fit, what is next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from itertools import combinations

import numpy as np
from scipy.stats import chi2

from tonleiter.core.gear.figure import Figure
from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.learn.predict import Drawing, Model
from tonleiter.core.learn.prior import Parameter
from tonleiter.core.learn.reading import (
    AT_STAGES,
    EFFORT,
    KNOB_MARKS,
    SPEECH_DB,
    Kind,
    Reading,
    ReadingError,
    meter_sd,
    shown,
    words_of,
)
from tonleiter.core.learn.smoother import smoothed, surprise
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.solve.draws import between
from tonleiter.core.solve.spread import HIGH_SHARE, LOW_SHARE
from tonleiter.core.stop import checkpoint

# a chain with transistors is solved draw by draw
DRAWS, FEWER, SEED = 300, 160, 1926
# readings together are as strange as this once in so many times before one is doubted; what is left
# must then be usual again
STRANGE, USUAL, MOST_ODD = 0.005, 0.05, 2
# a figure was told of where its range shrank to less than this share of it
TOLD = 0.8


@dataclass(frozen=True)
class Range:
    """What nine draws in ten lie between."""

    low: float
    high: float

    @property
    def wide(self) -> float:
        """From end to end."""
        return self.high - self.low


@dataclass(frozen=True)
class Taught:
    """One figure, before and after; ``told`` whether any reading says something of it."""

    stage: str
    parameter: Parameter
    before: Range
    after: Range

    def said(self, ends: Range) -> tuple[str, str]:
        """The ends of either range, with their unit."""
        low, high = (self.parameter.quantity.show(Figure(value=v)) for v in (ends.low, ends.high))
        return low, high

    def as_measured(self, on: date) -> Figure:
        """What was learned as a figure: its middle, and its range."""
        quantity = self.parameter.quantity
        low, high = (quantity.check(v) for v in (self.after.low, self.after.high))
        middle = float(between(quantity, low, high, np.array(0.5)))
        return Figure(value=middle, low=low, high=high, basis="measured", measured_on=on)

    @property
    def told(self) -> bool:
        """Whether its range shrank by more than chance does."""
        return self.after.wide < TOLD * self.before.wide


@dataclass(frozen=True)
class Odd:
    """A reading that does not fit: what it is of, in words, and what the others make of it."""

    reading: Reading
    words: str
    expected: Range
    alone: bool

    def why(self) -> str:
        """What was expected, and by whom."""
        kind, away = self.reading.kind, self.expected
        ends = f"{shown(kind, away.low)} to {shown(kind, away.high)}"
        return f"by the figures it is {ends}" if self.alone else f"the others make it {ends}"

    def says(self) -> str:
        """The reading, and what was expected."""
        return f"{self.words}: {self.reading.typed}; {self.why()}"


@dataclass(frozen=True)
class Next:
    """A reading that could be taken: by which share it shrinks the doubt, and its effort."""

    kind: Kind
    stage: str | None
    shrinks: float
    minutes: float
    with_what: str

    @property
    def worth(self) -> float:
        """For its minutes."""
        return float(self.shrinks / self.minutes**0.5)


@dataclass(frozen=True, eq=False)
class Learned:
    """``asked``: where the gain control will stand, in its marks, or the level at the end, dBu."""

    asked: str
    unit: str
    before: Range
    after: Range
    figures: tuple[Taught, ...]
    odd: tuple[Odd, ...]
    next_: tuple[Next, ...]
    readings: tuple[Reading, ...]

    def headline(self) -> str:
        """The sentence on top."""
        was = f"{self.before.low:.0f} and {self.before.high:.0f}{self.unit}"
        if not self.readings:
            return f"{self.asked} between {was}; no reading says more yet."
        now = f"{self.after.low:.0f} and {self.after.high:.0f}{self.unit}"
        said = f"{self.asked} between {now} (as typed between {was})."
        if self.odd:
            many, alone = len(self.odd) > 1, self.odd[0].alone
            fits = f"{len(self.odd)} readings do" if many else "One reading does"
            said += f" {fits} not fit the {'figures' if alone else 'others'}."
        return said


def learn(assessment: Assessment, readings: Sequence[Reading], draws: int | None = None) -> Learned:
    """Take readings into account, all at once. Deterministic. Raises ReadingError, StoppedError."""
    model = Model.of(assessment)
    if not model.parameters:
        raise ReadingError("every figure of this chain is known: there is nothing to learn")
    if draws is None:
        draws = FEWER if assessment.solution.linear.system.devices else DRAWS
    z0 = model.valid(np.random.default_rng(SEED).normal(size=(draws, len(model.parameters))))
    before = model.drawn(z0)
    told = before.reads(readings)
    odd = _odd(told, readings)
    kept = [k for k in range(len(readings)) if k not in odd]
    used = [readings[k] for k in kept]

    def forward(z: Floats) -> Floats:
        return model.reads(model.valid(z), used)

    values = np.array([r.value for r in used])
    z1 = model.valid(smoothed(z0, forward, values, _sds(used)))
    after = model.drawn(z1) if used else before
    told_after = after.reads(readings)
    asked, unit, one = _question(before)
    _, _, two = _question(after)
    return Learned(
        asked,
        unit,
        _range(one),
        _range(two),
        tuple(_taught(model, z0, z1)),
        tuple(
            Odd(readings[k], _words(model, readings[k]), _range(told_after[:, k]), not used)
            for k in odd
        ),
        _next(after, two, used),
        tuple(readings),
    )


def _words(model: Model, reading: Reading) -> str:
    stages = model.assessment.solution.compiled.stages
    name = next((s.gear.name for s in stages if s.id == reading.stage), None)
    return words_of(reading.kind, name)


def _sds(readings: Sequence[Reading]) -> Floats:
    return np.array([r.sd for r in readings])


def _range(draws: Floats) -> Range:
    low, high = np.quantile(draws, (LOW_SHARE, HIGH_SHARE))
    return Range(float(low), float(high))


def _question(drawing: Drawing) -> tuple[str, str, Floats]:
    if isinstance(drawing.model.socket, MicrophoneSocket):
        return "The knob will stand", "", drawing.knob()
    return "Speech at the end will lie", " dBu", drawing.speech_dbu[:, -1]


def _odd(told: Floats, readings: Sequence[Reading]) -> tuple[int, ...]:
    """Which readings to leave out so that the rest agree: the fewest, the strangest first."""
    count = len(readings)
    values, sds = np.array([r.value for r in readings]), _sds(readings)
    if not count or _likely(told, values, sds) > STRANGE:
        return ()
    for size in range(1, min(MOST_ODD, count) + 1):
        best: tuple[float, tuple[int, ...]] | None = None
        for out in combinations(range(count), size):
            checkpoint()
            left = [k for k in range(count) if k not in out]
            # one that the figures themselves do not allow fits nothing
            share = _likely(told[:, left], values[left], sds[left]) if left else 1.0
            if best is None or share > best[0]:
                best = share, out
        if best is not None and best[0] >= USUAL:
            return best[1]
    return ()


def _likely(told: Floats, read: Floats, sd: Floats) -> float:
    """How often readings lie as far from what draws read, or further."""
    return float(chi2.sf(surprise(told, read, sd), read.size))


def _taught(model: Model, z0: Floats, z1: Floats) -> list[Taught]:
    stages = model.assessment.solution.compiled.stages
    return [
        Taught(stages[p.stage].id, p, _range(p.values(z0[:, j])), _range(p.values(z1[:, j])))
        for j, p in enumerate(model.parameters)
    ]


def _next(drawing: Drawing, asked: Floats, used: Sequence[Reading]) -> tuple[Next, ...]:
    """Readings that the chain offers and nobody took, the most worth for its minutes first."""
    stages = drawing.model.assessment.solution.compiled.stages
    taken = {(r.kind, r.stage) for r in used}
    offered: list[tuple[Kind, str | None]] = [("open", None), ("knob", None)]
    offered += [(kind, s.id) for s in stages[1:] for kind in AT_STAGES]
    made = []
    for kind, stage in offered:
        if (kind, stage) in taken:
            continue
        try:
            told = drawing.reads([Reading(kind, stage, 0.0, 1.0, "")])[:, 0]
        except ReadingError:
            continue
        error = {"knob": KNOB_MARKS, "speech": SPEECH_DB}.get(
            kind, meter_sd(float(np.abs(told).mean()))
        )
        shrinks = _shrinks(asked, told, error)
        minutes, with_what = EFFORT[kind]
        if shrinks > 0.02:
            made.append(Next(kind, stage, shrinks, minutes, with_what))
    return tuple(sorted(made, key=lambda n: -n.worth))


def _shrinks(asked: Floats, told: Floats, sd: float) -> float:
    """By which share a reading shrinks the spread of an answer, as far as they hang together."""
    spread = float(asked.var())
    if spread <= 0 or told.std() <= 0:
        return 0.0
    both = float(np.cov(asked, told)[0, 1])
    left = max(spread - both**2 / (float(told.var()) + sd**2), 0.0)
    return 1 - float(np.sqrt(left / spread))
