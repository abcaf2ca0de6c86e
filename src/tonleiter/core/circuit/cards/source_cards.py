"""Cards of independent sources: their steady values and their waveforms."""

from __future__ import annotations

import cmath
import math

from tonleiter.core.circuit.cards.lines import Card
from tonleiter.core.circuit.cards.one_card import Place, Reader, UsageError, fields_of
from tonleiter.core.circuit.cards.requests import Requests
from tonleiter.core.circuit.cards.scope import Scope
from tonleiter.core.circuit.elements import CurrentSource, Element, VoltageSource
from tonleiter.core.circuit.waves import Exponential, Lines, Pulse, Sine, Wave

_TRANSIENTS = frozenset({"sin", "sine", "pulse", "pwl", "exp", "sffm"})
# how many values each waveform takes, at least and at most
_TAKES = {"sin": (3, 5), "pulse": (2, 7), "exp": (2, 6)}


def independent(kind: type[VoltageSource] | type[CurrentSource]) -> Reader:
    """A reader of voltage or of current sources."""

    def read(card: Card, place: Place, requests: Requests) -> Element:
        p, n, *rest = fields_of(card, 2, 60)
        dc, ac, wave = _source_values(card, rest, place.scope, requests)
        name = place.name(card.tokens[0])
        return kind(name, place.node(p), place.node(n), dc, ac, wave=wave)

    return read


def _source_values(
    card: Card, rest: list[str], scope: Scope, requests: Requests
) -> tuple[float, complex, Wave | None]:
    dc: float | None = None
    ac: complex = 0.0
    wave: Wave | None = None
    waved = False
    fields = list(rest)

    def is_number(text: str) -> bool:
        return text.lower() not in {"dc", "ac", *_TRANSIENTS}

    while fields:
        word = fields.pop(0)
        if word.lower() in _TRANSIENTS:
            if waved:
                raise card.error("a source takes one waveform, and two are given")
            waved, values = True, []
            while fields and is_number(fields[0]):
                values.append(scope.value(card, fields.pop(0)))
            wave = _wave(card, word.lower(), values, requests)
            # at rest it is what it begins with; what is not computed rests at its first value
            if dc is None:
                dc = wave.at(0.0) if wave is not None else next(iter(values), 0.0)
        elif word.lower() == "ac":
            magnitude = scope.value(card, fields.pop(0)) if fields and is_number(fields[0]) else 1.0
            degrees = scope.value(card, fields.pop(0)) if fields and is_number(fields[0]) else 0.0
            ac = cmath.rect(magnitude, math.radians(degrees))
        elif word.lower() == "dc":
            if not fields:
                raise UsageError
            dc = scope.value(card, fields.pop(0))
        elif dc is None:
            dc = scope.value(card, word)
        else:
            raise UsageError
    return dc or 0.0, ac, wave


def _wave(card: Card, word: str, values: list[float], requests: Requests) -> Wave | None:
    word = "sin" if word == "sine" else word
    if word == "pwl":
        times = values[::2]
        if len(values) < 4 or len(values) % 2 or times != sorted(times):
            raise card.error(
                "PWL takes pairs of time and value, two at least, in the order of time"
            )
        return Lines(tuple(zip(times, values[1::2], strict=True)))
    if word not in _TAKES:
        requests.notes.append(
            f"line {card.line}: the {word.upper()} waveform is not computed and was left out"
        )
        return None
    least, most = _TAKES[word]
    if not least <= len(values) <= most:
        raise card.error(f"{word.upper()} takes {least} to {most} values, {len(values)} are given")
    if word == "sin":
        return Sine(*values)
    low, high, *rest = values
    if word == "exp":
        return _exponential(card, low, high, rest)
    # an edge of no time is a nanosecond long, as usual
    delay, rise, fall, width, period = (*rest, *(0.0, 0.0, 0.0, math.inf, math.inf)[len(rest) :])
    if min(rise, fall, width, period) < 0:
        raise card.error("PULSE: times and the period are not below 0; a period of 0 is none")
    return Pulse(low, high, delay, rise or 1e-9, fall or 1e-9, width, period)


def _exponential(card: Card, first: float, second: float, rest: list[float]) -> Exponential:
    rise_at, rise, fall_at, fall = (*rest, *(0.0, 1e-9, math.inf, 1e-9)[len(rest) :])
    if rise <= 0 or fall <= 0:
        raise card.error("EXP: both time constants must be above 0")
    return Exponential(first, second, rise_at, rise, fall_at, fall)
