"""What a netlist file asks for besides its elements: analyses, temperature, options."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Literal, cast

from tonleiter.core.circuit.cards.deck import MOST_POINTS, NoiseRequest, Sweep, Times
from tonleiter.core.circuit.cards.lines import Card
from tonleiter.core.circuit.cards.scope import Scope
from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.words import quoted

# a subcircuit that holds ten of another, which holds ten of a third, soon has a thousand million
MOST_ELEMENTS = 20_000
_LEFT_OUT = frozenset(
    {".print", ".plot", ".probe", ".save", ".meas", ".measure", ".four", ".nodeset"}
)
_KNOWN = ".model .subckt .ends .param .op .ac .noise .tran .temp .options .end"


@dataclass
class Requests:
    """What was asked for so far, and how many elements were placed."""

    op: bool = False
    ac: Sweep | None = None
    ac_card: Card | None = None
    noise: NoiseRequest | None = None
    noise_card: Card | None = None
    tran: Times | None = None
    temperature_k: float = 300.15
    gmin_s: float = 1e-12
    notes: list[str] = field(default_factory=list)
    placed: int = 0

    def count(self, card: Card) -> None:
        """Count an element or a subcircuit that is placed; raises CardError past the bound."""
        self.placed += 1
        if self.placed > MOST_ELEMENTS:
            raise card.error(f"more than {MOST_ELEMENTS} elements and subcircuits in all")


def directive(card: Card, scope: Scope, requests: Requests) -> None:
    """Take a card that begins with a dot. Raises CardError."""
    match card.head:
        case ".op":
            requests.op = True
        case ".ac":
            requests.ac, requests.ac_card = _sweep(card, card.tokens[1:], scope), card
        case ".noise":
            requests.noise, requests.noise_card = _noise(card, scope), card
        case ".tran":
            requests.tran = _times(card, scope)
        case ".temp":
            if len(card.tokens) != 2:
                raise card.error(".temp takes one temperature in degrees C")
            requests.temperature_k = _kelvin(card, scope.value(card, card.tokens[1]))
        case ".options" | ".option":
            _options(card, scope, requests)
        case ".ic":
            raise card.error(
                ".ic is not computed: a transient begins at the operating point, sources as they"
                " are at time 0"
            )
        case head if head in _LEFT_OUT:
            requests.notes.append(f"line {card.line}: {head} is not computed here and was left out")
        case head:
            raise card.error(f"{quoted(head)} is not known; known: {_KNOWN}")


def _times(card: Card, scope: Scope) -> Times:
    if any(t.lower() == "uic" for t in card.tokens):
        raise card.error(
            "uic is not computed: a transient begins at the operating point, sources as they are at"
            " time 0"
        )
    values = [scope.value(card, t) for t in card.tokens[1:]]
    if not 2 <= len(values) <= 4:
        raise card.error("a transient is written .tran STEP STOP [START [MAX]], in seconds")
    step, stop, start, most = (*values, *(0.0, 0.0)[len(values) - 2 :])
    if not 0 < step <= stop or not 0 <= start < stop or most < 0:
        raise card.error("a transient needs 0 < STEP ≤ STOP and 0 ≤ START < STOP")
    if (stop - start) / step > MOST_POINTS:
        raise card.error(f"the transient has more than {MOST_POINTS} points")
    return Times(step, stop, start, most or None)


def _options(card: Card, scope: Scope, requests: Requests) -> None:
    for token in card.tokens[1:]:
        name, _, value = token.lower().partition("=")
        if name == "gmin" and value:
            requests.gmin_s = scope.value(card, value)
        elif name == "temp" and value:
            requests.temperature_k = _kelvin(card, scope.value(card, value))
        else:
            requests.notes.append(f"line {card.line}: option {name} has no effect here")


def _kelvin(card: Card, celsius: float) -> float:
    if celsius <= -273.15:
        raise card.error("the temperature is below absolute zero")
    return celsius + 273.15


def _sweep(card: Card, tokens: tuple[str, ...], scope: Scope) -> Sweep:
    if len(tokens) != 4 or tokens[0].lower() not in ("dec", "oct", "lin"):
        raise card.error("frequencies are written dec|oct|lin POINTS START STOP")
    scale = cast(Literal["dec", "oct", "lin"], tokens[0].lower())
    points, start, stop = (scope.value(card, t) for t in tokens[1:])
    lowest_ok = start >= 0 if scale == "lin" else start > 0
    if points < 1 or points != int(points):
        raise card.error(
            f"{quoted(tokens[1])} is not a number of points; a whole number from 1 is wanted"
        )
    if not lowest_ok or stop < start:
        raise card.error("the sweep needs 0 < START ≤ STOP")
    sweep = Sweep(scale, int(points), start, stop)
    if sweep.count() > MOST_POINTS:
        raise card.error(f"the sweep has more than {MOST_POINTS} points")
    return sweep


def _noise(card: Card, scope: Scope) -> NoiseRequest:
    match = re.match(
        r"^\.noise\s+v\s*\(\s*([^\s,()]+)\s*(?:,\s*([^\s,()]+)\s*)?\)\s+(\S+)\s+(.*)$",
        card.text,
        re.I,
    )
    if not match:
        raise card.error(
            "noise is written .noise v(OUT[,REF]) SOURCE dec|oct|lin POINTS START STOP"
        )
    output, reference, source, rest = match.groups()
    sweep = _sweep(card, tuple(rest.split()), scope)
    reference = (reference or GROUND).lower()
    reference = GROUND if reference == "gnd" else reference
    return NoiseRequest(output.lower(), reference, source.lower(), sweep)
