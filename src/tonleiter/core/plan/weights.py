"""What a plan costs, term by term: one table of weights, each with its reason.

A cost of 1 is about what a decibel of level at the wrong place is to somebody who listens: heard by
nobody, but wrong. A plan is the better, the smaller the sum.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from tonleiter.core.judge.findings.earth import HUM_UNHEARD_DB
from tonleiter.core.plan.styles import Style
from tonleiter.core.station.purpose import Purpose


@dataclass(frozen=True)
class Figures:
    """What a candidate is compared by. Decibels, hertz, counts.

    ``beyond_db`` is how far the level lies outside what the input takes at all (its gain control at
    either end), ``outside_db`` outside its window, ``off_middle_db`` from what it aims for;
    ``troubles`` counts what is minded and no other figure here measures.
    """

    off_middle_db: float
    outside_db: float
    beyond_db: float
    has_knob: bool
    headroom_db: float
    snr_db: float
    hum_under_db: float | None
    bass_hz: float | None
    treble_hz: float | None
    presence_db: float
    parts: int
    price_class: int
    isolated: bool
    active: int
    supplies: int
    borrowed: int
    near_ends: int
    reversible: bool
    troubles: int = 0
    stops: int = 0
    short_of_style: bool = False


Measure = Callable[[Figures, Purpose, Style], float]


@dataclass(frozen=True)
class Weight:
    """A term: its name, what one unit of its measure costs, why, and the measure."""

    name: str
    cost: float
    why: str
    measure: Measure


def _or(value: float | None, otherwise: float) -> float:
    return otherwise if value is None else value


def _octaves(above: float, below: float) -> float:
    return max(math.log2(above / below), 0.0)


def _off(f: Figures, p: Purpose, _: Style) -> float:
    """Nothing for what the gain control does anyway; for a fixed input, each dB off its middle."""
    off = abs(f.off_middle_db - p.aim_db)
    return 0.1 * off if f.has_knob else max(off - 1.0, 0.0) + 0.1 * off


HEADROOM_DB, NOISE_SPARE_DB = 6.0, 15.0

WEIGHTS: tuple[Weight, ...] = (
    Weight("stop", 1000.0, "what is forbidden is no plan", lambda f, p, s: f.stops),
    Weight("style", 60.0, "asked for, and not there", lambda f, p, s: f.short_of_style),
    Weight("trouble", 12.0, "a fault that one would have to explain", lambda f, p, s: f.troubles),
    Weight("beyond", 6.0, "the gain control cannot make up for it", lambda f, p, s: f.beyond_db),
    Weight("outside", 0.8, "the gain control near its end", lambda f, p, s: f.outside_db),
    Weight("middle", 0.6, "a fixed input has no other control", _off),
    Weight("headroom", 1.0, "loud words clip", lambda f, p, s: max(HEADROOM_DB - f.headroom_db, 0)),
    Weight(
        "noise", 1.0, "heard between words", lambda f, p, s: max(p.snr_at_least_db - f.snr_db, 0)
    ),
    Weight(
        "quiet",
        -0.1,
        "quieter than wanted is worth a little",
        lambda f, p, s: min(max(f.snr_db - p.snr_at_least_db, 0.0), NOISE_SPARE_DB),
    ),
    Weight(
        "hum",
        0.5,
        "heard under every word",
        lambda f, p, s: max(HUM_UNHEARD_DB - _or(f.hum_under_db, HUM_UNHEARD_DB), 0.0),
    ),
    Weight(
        "bass",
        6.0,
        "an octave of the voice gone",
        lambda f, p, s: _octaves(f.bass_hz or 20.0, p.bass_corner_at_most_hz),
    ),
    Weight(
        "thin",
        0.5,
        "an octave in hand below is comfort",
        lambda f, p, s: _octaves(2 * (f.bass_hz or 20.0), p.bass_corner_at_most_hz),
    ),
    Weight(
        "treble",
        6.0,
        "an octave of the words gone",
        lambda f, p, s: _octaves(p.treble_corner_at_least_hz, f.treble_hz or 20e3),
    ),
    Weight(
        "presence",
        0.2,
        "tone is tuned later, and elsewhere",
        lambda f, p, s: abs(f.presence_db - p.presence_db),
    ),
    Weight("built", 2.5, "something to drill, solder and label", lambda f, p, s: f.parts > 0),
    Weight(
        "parts",
        0.5,
        "each is a joint to solder and to fail",
        lambda f, p, s: s.part_weight * f.parts,
    ),
    Weight(
        "price",
        0.8,
        "pennies, small change, a note, a box",
        lambda f, p, s: s.part_weight * f.price_class,
    ),
    Weight("active", 6.0, "noise, layout, a supply to keep", lambda f, p, s: f.active),
    Weight("supply", 1.5, "a battery that is flat one day", lambda f, p, s: f.supplies),
    Weight(
        "borrowed", 1.5, "a box on the table is set up and in the way", lambda f, p, s: f.borrowed
    ),
    Weight("near-end", 6.0, "a wiper at its end is set by luck", lambda f, p, s: f.near_ends),
    Weight("cut", 3.0, "a radio is changed, with a way back", lambda f, p, s: not f.reversible),
)


def terms(figures: Figures, purpose: Purpose, style: Style) -> dict[str, float]:
    """Cost by term."""
    return {w.name: w.cost * float(w.measure(figures, purpose, style)) for w in WEIGHTS}


def cost(figures: Figures, purpose: Purpose, style: Style) -> float:
    """The sum of all terms."""
    return sum(terms(figures, purpose, style).values())
