"""What readings come to: ranges before and after, what does not fit, what to read next."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Literal

import numpy as np

from tonleiter.core.gear.figure import Figure
from tonleiter.core.learn.prior import Parameter
from tonleiter.core.learn.reading import Kind, Reading, marks_text, shown
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.solve.draws import between
from tonleiter.core.words import count_of

# a figure was told of where its range shrank to less than this share of it
TOLD = 0.8
# knob: where the gain control stands; level: speech at the end; room: under the nearest ceiling;
# noise: speech over it at the end
QuestionId = Literal["knob", "level", "room", "noise"]
QUESTIONS: dict[QuestionId, str] = {
    "knob": "where the gain control will stand",
    "level": "the level of speech at the end",
    "room": "the room that peaks have left",
    "noise": "how far speech stands over the noise",
}
_ASKED: dict[QuestionId, tuple[str, str]] = {
    "knob": ("the knob will stand between {} and {}", ""),
    "level": ("speech at the end will lie between {} and {} dBu", " dBu"),
    "room": ("peaks will stay between {} and {} dB under the nearest ceiling", " dB"),
    "noise": ("speech will stand between {} and {} dB over the noise", " dB"),
}
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


def _number(count: int) -> str:
    return _NUMBERS[count] if count < len(_NUMBERS) else str(count)


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
    """One figure, before and after; ``readings`` is how many of them say something of it."""

    stage: str
    parameter: Parameter
    before: Range
    after: Range
    readings: int = 0

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
    """A reading that does not fit: what it is of, in words, and what the others make of it.

    ``expected`` is in the reading's own scale; ``ends`` says it with the unit that it was typed in.
    ``suspects`` are what else would explain it.
    """

    reading: Reading
    words: str
    expected: Range
    ends: tuple[str, str]
    alone: bool
    suspects: tuple[str, ...] = ()

    def why(self) -> str:
        """What was expected, and by whom."""
        said = f"{self.ends[0]} to {self.ends[1]}"
        return f"by the figures it is {said}" if self.alone else f"the others make it {said}"

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

    def promise(self) -> str:
        """What it does to the doubt, in words."""
        for least, words in _PROMISES:
            if self.shrinks >= least:
                return words
        return "a little less doubt"


_PROMISES = (
    (0.75, "settles it"),
    (0.45, "halves the doubt"),
    (0.28, "a third less doubt"),
    (0.18, "a quarter less doubt"),
    (0.08, "a tenth less doubt"),
)


@dataclass(frozen=True)
class Stop:
    """A step of how the doubt shrank: after this reading, or why it was left out."""

    reading: Reading
    words: str
    after: Range | None


@dataclass(frozen=True, eq=False)
class Learned:
    """``before`` and ``after`` are of what was asked, in its unit.

    ``draws`` are what the figures of the chain may be, by the id of their piece and field, each of
    shape (draws,): place by place they hang together. ``middle`` is the middle of each.
    """

    question: QuestionId
    before: Range
    after: Range
    figures: tuple[Taught, ...]
    odd: tuple[Odd, ...]
    next_: tuple[Next, ...]
    readings: tuple[Reading, ...]
    trail: tuple[Stop, ...]
    draws: Mapping[tuple[str, str], Floats]
    middle: Mapping[tuple[str, str], float]
    minutes: float = 0.0
    marked_to: float = 100.0
    """What is printed at the end of the gain's scale."""

    @property
    def unit(self) -> str:
        """Of what was asked."""
        return _ASKED[self.question][1]

    def _between(self, ends: Range) -> str:
        low, high = (self.printed(v) for v in (ends.low, ends.high))
        if self.question == "knob" and (past := self._past(ends)):
            return past
        if self.question == "room" and (clips := self._clips(ends)):
            return clips
        return _ASKED[self.question][0].format(low, high)

    def _clips(self, ends: Range) -> str:
        """What is to be said of peaks that do not stay under a ceiling; empty where they do."""
        if ends.high <= 0:
            low, high = self.printed(-ends.high), self.printed(-ends.low)
            return f"peaks will stand {low} to {high} dB over the nearest ceiling: they are clipped"
        if ends.low < 0:
            over, under = self.printed(-ends.low), self.printed(ends.high)
            return (
                f"peaks may be clipped: {over} dB over the nearest ceiling to {under} dB under it"
            )
        return ""

    def _past(self, ends: Range) -> str:
        """What is to be said of a knob that its scale does not hold; empty where it does."""
        end = f"{self.marked_to:g}"
        if ends.low >= self.marked_to:
            return f"the knob will not do: its scale ends at {end}, and more is wanted"
        if ends.high <= 0:
            return "the knob will not do: it is shut, and less is wanted"
        low, high = self.printed(ends.low), self.printed(ends.high)
        if ends.high > self.marked_to and ends.low < 0:
            return f"the knob may stand anywhere from 0 to {end}, and either may not do"
        if ends.high > self.marked_to:
            return f"the knob will stand between {low} and its end, {end}, which may not do"
        if ends.low < 0:
            return f"the knob will stand between its start, which may not do, and {high}"
        return ""

    def printed(self, value: float) -> str:
        """A value of what was asked: tenths where a scale ends at ten."""
        return marks_text(value, self.marked_to if self.question == "knob" else 100.0)

    def headline(self) -> str:
        """The sentence on top."""
        if not self.readings:
            said = self._between(self.before)
            return f"{said[0].upper()}{said[1:]}; no reading says more yet."
        count = len(self.readings) - len(self.odd)
        if not count:
            alone = _number(len(self.readings)).capitalize()
            which = "it fits" if len(self.readings) == 1 else "they fit"
            many = "reading" if len(self.readings) == 1 else "readings"
            return f"{alone} {many}, and {which} no figure: {self._between(self.after)}."
        many = "reading" if count == 1 else "readings"
        took = _number(max(round(self.minutes), 1))
        minutes = "minute" if took == "one" else "minutes"
        said = f"{_number(count)} {many}, {took} {minutes}: {self._between(self.after)}."
        return said[0].upper() + said[1:]

    def proves(self) -> str:
        """What stands below it."""
        if not self.readings:
            return "Readings that take some minutes make it narrower."
        said = f"As typed {self._was()}."
        if self.odd:
            many = len(self.odd) > 1
            fits = f"{_number(len(self.odd))} readings do" if many else "one reading does"
            rest = len(self.readings) - len(self.odd)
            whom = f"the other {_number(rest)}" if rest > 1 else "the other"
            if self.odd[0].alone:
                whom = "the figures"
            said += f" {fits[0].upper()}{fits[1:]} not fit {whom}."
        return said

    def _was(self) -> str:
        """The range before, no further than a knob's scale."""
        ends, end = self.before, self.marked_to
        if self.question == "knob" and (ends.low >= end or ends.high <= 0):
            return "it was off its scale"
        low, high = self.printed(ends.low), self.printed(ends.high)
        if self.question == "knob":
            low = low if ends.low >= 0 else "its start"
            high = high if ends.high <= end else "its end"
        return f"it was between {low} and {high}{self.unit}"

    def says(self) -> str:
        """Both in one line."""
        return f"{self.headline()} {self.proves()}"


def ends_of(reading: Reading, expected: Range, marked_to: float) -> tuple[str, str]:
    """An expected range of a reading as people read it."""
    low, high = (shown(reading.kind, v, marked_to) for v in (expected.low, expected.high))
    return low, high


def from_readings(count: int) -> str:
    """Where a learned figure is from."""
    return count_of(count, "reading") if count else "no reading tells"
