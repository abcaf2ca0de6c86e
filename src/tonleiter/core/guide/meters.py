"""A meter: its scale, what it reads, where it should, and readings as people give them."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.guide.controls import NEAR, Zone
from tonleiter.core.radio.deviation import NULLS, deviation_of_null
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.settings import METERS, MeterId
from tonleiter.core.words import quoted

# how a needle moves: it jumps to peaks and falls slowly, or it follows a mean
Moves = Literal["peaks", "mean"]


class MeterError(RefusedError):
    """A typed reading that is not on a meter's scale."""


@dataclass(frozen=True)
class Scale:
    """A meter's face on one set: live needle, mark and typed reading are all on this scale."""

    id: MeterId
    full: float
    moves: Moves = "peaks"

    @property
    def title(self) -> str:
        """What it is called."""
        return METERS[self.id].title

    @property
    def unit(self) -> str:
        """The unit of its figures."""
        return METERS[self.id].unit


@dataclass(frozen=True)
class Meter:
    """A meter with its reading in its own unit, its aim, and from where on it is too much.

    ``peak`` is a second mark on it, such as a peak beside a mean.
    """

    scale: Scale
    value: float
    says: str
    aim: Zone | None = None
    danger_from: float | None = None
    peak: float | None = None

    @property
    def id(self) -> MeterId:
        """Which it is."""
        return self.scale.id

    @property
    def title(self) -> str:
        """What it is called."""
        return self.scale.title

    @property
    def unit(self) -> str:
        """The unit of its figures."""
        return self.scale.unit

    @property
    def full(self) -> float:
        """The end of its scale."""
        return self.scale.full

    def share(self, value: float | None = None) -> float:
        """Where a value lies on the scale, 0 to 1."""
        return min(max((self.value if value is None else value) / self.full, 0.0), 1.0)

    def fits(self) -> bool:
        """Whether it reads what it should."""
        return self.aim is None or self.aim[0] - NEAR <= self.value <= self.aim[1] + NEAR


# --- readings as people give them ----------------------------------------------------------------

SHARES = {
    "half": 0.5,
    "a half": 0.5,
    "half way": 0.5,
    "halfway": 0.5,
    "middle": 0.5,
    "half scale": 0.5,
    "a third": 1 / 3,
    "third": 1 / 3,
    "two thirds": 2 / 3,
    "a quarter": 0.25,
    "quarter": 0.25,
    "three quarters": 0.75,
    "not moving": 0.0,
    "nothing": 0.0,
    "none": 0.0,
    "rests": 0.0,
    "pinned": 1.0,
    "full": 1.0,
    "end": 1.0,
    "at the end": 1.0,
}
_COUNTS = {
    "no": 0,
    "one": 1,
    "a": 1,
    "two": 2,
    "three": 3,
    "four": 4,
    "five": 5,
    "six": 6,
    "seven": 7,
    "eight": 8,
    "nine": 9,
    "ten": 10,
}
# peaks that people write with a minus
SIGNED = ("down",)
# a display of bars has ten where nobody says how many
USUAL_BARS = 10
_BARS = re.compile(r"(\w+) (?:bars?|marks?|leds?|segments?)(?: (?:of|out of|from) (\w+))?")
_FIGURE = re.compile(r"([+-]?\d+(?:\.\d*)?|[+-]?\.\d+)\s*(khz|hz|%|db|w|mw)?")
# what a typed unit makes of a meter's own
_SCALES = {
    ("kHz", "khz"): 1.0,
    ("kHz", "hz"): 1e-3,
    ("W", "w"): 1.0,
    ("W", "mw"): 1e-3,
    ("dB", "db"): 1.0,
    ("%", "%"): 1.0,
}


def read_meter(text: str, scale: Scale) -> float:
    """A reading of a meter as people write it, in the meter's unit. Raises MeterError.

    Figures with or without the unit, a share of the scale (“60 %”, “a third”), bars (“two bars of
    ten”), “pinned”; for deviation a null by its tone (“null 1247”, “null 2 543” for the second).
    Negative peaks may be given with their sign. A decimal comma is a point.
    """
    plain = " ".join(text.replace("−", "-").replace(",", ".").lower().split())
    if scale.id == "deviation" and plain.startswith("null"):
        return _on_scale(text, _null_khz(text, plain.removesuffix("hz").split()[1:]), scale)
    if plain in SHARES:
        return SHARES[plain] * scale.full
    if (bars := _BARS.fullmatch(plain)) is not None:
        count, of = _count(bars[1]), USUAL_BARS if bars[2] is None else _count(bars[2])
        if count is not None and of is not None and 0 <= count <= of and of > 0:
            return count / of * scale.full
        raise MeterError(
            f"{quoted(text)}: so many bars of so many are wanted, as “two bars of ten”"
        )
    figure = _FIGURE.fullmatch(plain)
    if figure is None:
        raise MeterError(f"{quoted(text)} is no reading; {accepted(scale)} is wanted")
    value, unit = float(figure[1]), figure[2]
    if scale.id in SIGNED:
        value = abs(value)
    if unit == "%" and scale.unit != "%":
        return _on_scale(text, value / 100 * scale.full, scale)
    if unit is not None and (scale.unit, unit) not in _SCALES:
        raise MeterError(f"{quoted(text)}: this meter reads in {scale.unit}; {accepted(scale)}")
    return _on_scale(text, value * _SCALES.get((scale.unit, unit or ""), 1.0), scale)


def read_meters(meters: Iterable[Meter], typed: Mapping[str, str]) -> dict[MeterId, float]:
    """What was typed for some meters, in their units; what is no reading any more is left out."""
    found: dict[MeterId, float] = {}
    for meter in meters:
        if (text := typed.get(meter.id)) is not None:
            try:
                found[meter.id] = read_meter(text, meter.scale)
            except MeterError:
                continue
    return found


def accepted(scale: Scale) -> str:
    """What a field of a meter takes, in few words."""
    null = ", or a null as null 1247" if scale.id == "deviation" else ""
    share = "" if scale.unit == "%" else ", or a share of the scale as 40 % or half"
    return f"0 to {scale.full:g} {scale.unit}{share}{null}"


def _on_scale(text: str, value: float, scale: Scale) -> float:
    # what stands over a system's edge is the reading that matters most: twice the scale is taken
    most = 2 * scale.full if scale.id in ("deviation", "down", "up") else scale.full
    if not (math.isfinite(value) and 0 <= value <= most * (1 + NEAR)):
        raise MeterError(
            f"{quoted(text)} is not on the meter's scale, which goes from 0 to"
            f" {scale.full:g} {scale.unit}"
        )
    return value


def _count(word: str) -> int | None:
    if word.isdigit() and len(word) < 4:
        return int(word)
    return _COUNTS.get(word)


def _null_khz(text: str, words: list[str]) -> float:
    """Kilohertz of deviation from a null: its tone in hertz, before that its order."""
    wanted = (
        f"{quoted(text)} is no null; its tone in hertz is wanted: null 1247, or its order as"
        " well, as null 2 543"
    )
    try:
        order = int(words[0]) if len(words) == 2 else 1
        hertz = float(words[-1])
    except (ValueError, IndexError):
        raise MeterError(wanted) from None
    if not (math.isfinite(hertz) and 20 <= hertz <= 20_000 and 1 <= order <= len(NULLS)):
        raise MeterError(wanted)
    return deviation_of_null(hertz, order) / 1000
