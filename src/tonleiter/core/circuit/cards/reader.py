"""Read a netlist file: element cards, .model .subckt .param .op .ac .noise .tran .temp .end."""

from __future__ import annotations

import cmath
import math
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal, cast

from tonleiter.core.circuit.cards.deck import (
    MOST_POINTS,
    MOST_VALUES,
    Deck,
    NoiseRequest,
    Sweep,
    Times,
)
from tonleiter.core.circuit.cards.lines import Card, CardError, split_cards
from tonleiter.core.circuit.cards.scope import (
    Definition,
    Model,
    Scope,
    assignments,
    define_parameters,
    read_model,
)
from tonleiter.core.circuit.elements import (
    GROUND,
    Bipolar,
    BipolarModel,
    Capacitor,
    Cccs,
    Ccvs,
    Circuit,
    Coupling,
    CurrentSource,
    Diode,
    DiodeModel,
    Element,
    Inductor,
    Jfet,
    JfetModel,
    Resistor,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.circuit.waves import Exponential, Lines, Pulse, Sine, Wave
from tonleiter.core.words import quoted

_DEEPEST = 20
# a subcircuit that holds ten of another, which holds ten of a third, soon has a thousand million
MOST_ELEMENTS = 20_000
_LEFT_OUT = frozenset(
    {".print", ".plot", ".probe", ".save", ".meas", ".measure", ".four", ".nodeset"}
)
_KNOWN = ".model .subckt .ends .param .op .ac .noise .tran .temp .options .end"
_TRANSIENTS = frozenset({"sin", "sine", "pulse", "pwl", "exp", "sffm"})
# how many values each waveform takes, at least and at most
_TAKES = {"sin": (3, 5), "pulse": (2, 7), "exp": (2, 6)}


@dataclass
class _Requests:
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


@dataclass(frozen=True)
class _Place:
    """Where cards are being expanded: name prefix, port nodes, scope, depth."""

    scope: Scope
    prefix: str = ""
    ports: dict[str, str] = field(default_factory=dict)
    depth: int = 0

    def node(self, name: str) -> str:
        lowered = name.lower()
        if lowered in (GROUND, "gnd"):
            return GROUND
        return self.ports.get(lowered, self.prefix + lowered)

    def name(self, name: str) -> str:
        return self.prefix + name.lower()


def read_deck(text: str) -> Deck:
    """Read a netlist. Raises CardError with the line at fault and what would be accepted."""
    title, cards = split_cards(text)
    if not cards:
        raise CardError(1, "there are no element cards; the first line is taken as the title")
    requests = _Requests()
    scope = Scope()
    elements, where = _expand(_before_end(cards), _Place(scope), requests)
    if not elements:
        raise CardError(cards[-1].line, "there are no element cards")
    _check(elements, where)
    if requests.ac and requests.ac_card:
        _check_size(elements, requests.ac, requests.ac_card)
    if requests.noise and requests.noise_card:
        _check_noise(elements, requests.noise, requests.noise_card)
    circuit = Circuit(tuple(elements), requests.temperature_k, requests.gmin_s, title)
    notes = tuple(requests.notes)
    return Deck(circuit, requests.op, requests.ac, requests.noise, requests.tran, notes)


def _before_end(cards: list[Card]) -> list[Card]:
    kept = []
    for card in cards:
        if card.head == ".end":
            break
        kept.append(card)
    return kept


def _expand(
    cards: list[Card], place: _Place, requests: _Requests
) -> tuple[list[Element], list[Card]]:
    """Definitions first, so that models and subcircuits may stand after their use."""
    plain = _collect_definitions(cards, place.scope)
    for model in place.scope.models.values():
        read_model(place.scope, model)  # a typo in a model is told even if nothing uses it
    elements: list[Element] = []
    where: list[Card] = []
    for card in plain:
        if card.head.startswith("."):
            if place.depth:
                raise card.error(f"{card.head} cannot stand inside a .subckt")
            _directive(card, place.scope, requests)
        elif card.head[0] == "x":
            requests.count(card)
            inner, inner_where = _call(card, place, requests)
            elements += inner
            where += inner_where
        else:
            requests.count(card)
            elements.append(_element(card, place, requests))
            where.append(card)
    return elements, where


def _collect_definitions(cards: list[Card], scope: Scope) -> list[Card]:
    plain: list[Card] = []
    remaining = iter(cards)
    for card in remaining:
        if card.head == ".subckt":
            definition = _read_definition(card, remaining)
            scope.subcircuits[definition.name] = definition
        elif card.head == ".ends":
            raise card.error(".ends without a .subckt before it")
        elif card.head == ".model":
            if len(card.tokens) < 3:
                raise card.error("a model is written .model NAME KIND (PARAMETER=VALUE ...)")
            scope.models[card.tokens[1].lower()] = card
        elif card.head == ".param":
            define_parameters(scope, card, card.tokens[1:])
        else:
            plain.append(card)
    return plain


def _read_definition(card: Card, following: object) -> Definition:
    if len(card.tokens) < 3:
        raise card.error("a subcircuit is written .subckt NAME NODE [NODE ...] [NAME=VALUE ...]")
    ports = [t.lower() for t in card.tokens[2:] if "=" not in t and t.lower() != "params:"]
    defaults = assignments(card, tuple(t for t in card.tokens[2:] if "=" in t))
    inner: list[Card] = []
    depth = 1
    for line in cast("list[Card]", following):
        depth += {".subckt": 1, ".ends": -1}.get(line.head, 0)
        if depth == 0:
            return Definition(card.tokens[1].lower(), tuple(ports), defaults, tuple(inner), card)
        inner.append(line)
    raise card.error(f".subckt {card.tokens[1]} has no .ends")


def _call(card: Card, place: _Place, requests: _Requests) -> tuple[list[Element], list[Card]]:
    if place.depth >= _DEEPEST:
        raise card.error("subcircuits call each other too deeply; does one contain itself?")
    words = [t for t in card.tokens[1:] if "=" not in t and t.lower() != "params:"]
    given = assignments(card, tuple(t for t in card.tokens[1:] if "=" in t))
    if len(words) < 2:
        raise card.error("a subcircuit is placed with Xname NODE [NODE ...] SUBCKT")
    *nodes, wanted = words
    definition = place.scope.definition(wanted.lower())
    if definition is None:
        raise card.error(f"there is no .subckt called {quoted(wanted)}")
    if len(nodes) != len(definition.ports):
        raise card.error(f"{wanted} has {len(definition.ports)} nodes, {len(nodes)} are given")
    scope = Scope(outer=place.scope)
    for name, text in definition.defaults.items():
        scope.parameters[name] = (
            place.scope.value(card, given[name])
            if name in given
            else scope.value(definition.card, text)
        )
    if unknown := set(given) - set(definition.defaults):
        raise card.error(f"{wanted} has no parameter {quoted(sorted(unknown)[0])}")
    ports = {p: place.node(n) for p, n in zip(definition.ports, nodes, strict=True)}
    inner = _Place(scope, f"{place.name(card.tokens[0])}.", ports, place.depth + 1)
    return _expand(list(definition.cards), inner, requests)


def _directive(card: Card, scope: Scope, requests: _Requests) -> None:
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


def _options(card: Card, scope: Scope, requests: _Requests) -> None:
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


def _check_size(elements: list[Element], sweep: Sweep, card: Card) -> None:
    """Results are values at each node for each point, and have to fit into memory."""
    things = max(len({n for e in elements for n in nodes_of(e)}), len(elements))
    if sweep.count() * things > MOST_VALUES:
        raise card.error(
            f"{sweep.count():.0f} points for {things} nodes and elements are too many at once;"
            f" at most {MOST_VALUES} values are computed, so ask for fewer points"
        )


def _check_noise(elements: list[Element], request: NoiseRequest, card: Card) -> None:
    _check_size(elements, request.sweep, card)
    nodes = {n for e in elements for n in nodes_of(e)} | {GROUND}
    for node in (request.output, request.reference):
        if node not in nodes:
            raise card.error(f"there is no node {node}")
    sources = [e.name for e in elements if isinstance(e, VoltageSource | CurrentSource)]
    if request.source not in sources:
        raise card.error(f"there is no source {request.source}; known: {', '.join(sources)}")


def _check(elements: list[Element], where: list[Card]) -> None:
    """Faults that only show once all cards are read, reported at the card that has them."""
    seen: dict[str, Card] = {}
    controls = {e.name for e in elements if isinstance(e, VoltageSource)}
    coils = {e.name for e in elements if isinstance(e, Inductor)}
    for element, card in zip(elements, where, strict=True):
        if element.name in seen:
            first = seen[element.name].line
            raise card.error(f"{element.name} is already defined on line {first}")
        seen[element.name] = card
        if isinstance(element, Cccs | Ccvs) and element.control not in controls:
            raise card.error(
                f"{element.name} is controlled by {element.control}, which is no V source"
            )
        if isinstance(element, Coupling):
            for coil in (element.first, element.second):
                if coil not in coils:
                    raise card.error(f"{element.name} couples {coil}, which is no inductor")
    if not any(GROUND in nodes_of(e) for e in elements):
        raise where[-1].error("nothing is joined to node 0, the ground")


# --- element cards -------------------------------------------------------------------------------

_USAGE = {
    "r": "Rname NODE NODE VALUE",
    "c": "Cname NODE NODE VALUE",
    "l": "Lname NODE NODE VALUE",
    "k": "Kname Lfirst Lsecond COUPLING",
    "v": "Vname NODE NODE [DC] VALUE [AC MAGNITUDE [DEGREES]]",
    "i": "Iname NODE NODE [DC] VALUE [AC MAGNITUDE [DEGREES]]",
    "e": "Ename NODE NODE CONTROL CONTROL GAIN",
    "g": "Gname NODE NODE CONTROL CONTROL SIEMENS",
    "f": "Fname NODE NODE Vcontrol GAIN",
    "h": "Hname NODE NODE Vcontrol OHM",
    "d": "Dname ANODE CATHODE MODEL [AREA]",
    "q": "Qname COLLECTOR BASE EMITTER MODEL [AREA]",
    "j": "Jname DRAIN GATE SOURCE MODEL [AREA]",
}


def _element(card: Card, place: _Place, requests: _Requests) -> Element:
    letter = card.head[0]
    if letter not in _USAGE:
        raise card.error(
            f"{quoted(card.tokens[0])} is no known element; known first letters: {_LETTERS}"
        )
    try:
        return _READERS[letter](card, place, requests)
    except _UsageError:
        raise card.error(f"a card of this kind is written {_USAGE[letter]}") from None


class _UsageError(Exception):
    """The card has too few or too many fields."""


def _fields(card: Card, low: int, high: int) -> tuple[str, ...]:
    """Fields after the name, checked for their number; a value may be written name=value."""
    fields = tuple(card.tokens[1:])
    if not low <= len(fields) <= high:
        raise _UsageError
    return fields


def _passive(kind: type[Resistor] | type[Capacitor] | type[Inductor], wanted: str) -> _Reader:
    def read(card: Card, place: _Place, requests: _Requests) -> Element:
        p, n, text = _fields(card, 3, 3)
        value = place.scope.value(card, text.partition("=")[2] or text)
        if (
            not value > 0
            and not (kind is Resistor and value < 0)
            and not (kind is Capacitor and value == 0)
        ):
            raise card.error(f"{quoted(text)}: {wanted} is wanted")
        return kind(place.name(card.tokens[0]), place.node(p), place.node(n), value)

    return read


def _coupling(card: Card, place: _Place, requests: _Requests) -> Element:
    first, second, text = _fields(card, 3, 3)
    k = place.scope.value(card, text)
    if not -1 <= k <= 1:
        raise card.error(f"{quoted(text)} is not a coupling; from −1 to 1 is wanted")
    return Coupling(place.name(card.tokens[0]), place.name(first), place.name(second), k)


def _independent(kind: type[VoltageSource] | type[CurrentSource]) -> _Reader:
    def read(card: Card, place: _Place, requests: _Requests) -> Element:
        p, n, *rest = _fields(card, 2, 60)
        dc, ac, wave = _source_values(card, rest, place.scope, requests)
        name = place.name(card.tokens[0])
        return kind(name, place.node(p), place.node(n), dc, ac, wave=wave)

    return read


def _source_values(
    card: Card, rest: list[str], scope: Scope, requests: _Requests
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
                raise _UsageError
            dc = scope.value(card, fields.pop(0))
        elif dc is None:
            dc = scope.value(card, word)
        else:
            raise _UsageError
    return dc or 0.0, ac, wave


def _wave(card: Card, word: str, values: list[float], requests: _Requests) -> Wave | None:
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


def _voltage_controlled(kind: type[Vcvs] | type[Vccs]) -> _Reader:
    def read(card: Card, place: _Place, requests: _Requests) -> Element:
        p, n, cp, cn, text = _fields(card, 5, 5)
        p, n, cp, cn = (place.node(x) for x in (p, n, cp, cn))
        return kind(place.name(card.tokens[0]), p, n, cp, cn, place.scope.value(card, text))

    return read


def _current_controlled(kind: type[Cccs] | type[Ccvs]) -> _Reader:
    def read(card: Card, place: _Place, requests: _Requests) -> Element:
        p, n, control, text = _fields(card, 4, 4)
        value = place.scope.value(card, text)
        name = place.name(card.tokens[0])
        return kind(name, place.node(p), place.node(n), place.name(control), value)

    return read


def _model(card: Card, place: _Place, name: str, family: type, requests: _Requests) -> Model:
    found = place.scope.model_card(name.lower())
    if found is None:
        raise card.error(f"there is no .model called “{name}”")
    model_card, scope = found
    model, left_out = read_model(scope, model_card)
    if not isinstance(model, family):
        raise card.error(f"the model “{name}” is of another kind: {model_card.tokens[2]}")
    if left_out:
        note = f"line {model_card.line}: first-order model; left out: {', '.join(left_out)}"
        if note not in requests.notes:
            requests.notes.append(note)
    return model


def _area(card: Card, place: _Place, fields: list[str]) -> float:
    if not fields:
        return 1.0
    text = fields[0].lower().removeprefix("area=")
    area = place.scope.value(card, text)
    if area <= 0:
        raise card.error(f"“{fields[0]}” is not an area; a number above 0 is wanted")
    return area


def _diode(card: Card, place: _Place, requests: _Requests) -> Element:
    a, k, name, *rest = _fields(card, 3, 4)
    model = cast(DiodeModel, _model(card, place, name, DiodeModel, requests))
    area = _area(card, place, rest)
    return Diode(place.name(card.tokens[0]), place.node(a), place.node(k), model, area)


def _bipolar(card: Card, place: _Place, requests: _Requests) -> Element:
    c, b, e, *rest = _fields(card, 4, 6)
    if len(rest) > 1 and place.scope.model_card(rest[0].lower()) is None:
        rest = rest[1:]  # a substrate node, which first-order models do not use
    model = cast(BipolarModel, _model(card, place, rest[0], BipolarModel, requests))
    c, b, e = (place.node(x) for x in (c, b, e))
    return Bipolar(place.name(card.tokens[0]), c, b, e, model, _area(card, place, rest[1:]))


def _jfet(card: Card, place: _Place, requests: _Requests) -> Element:
    d, g, s, name, *rest = _fields(card, 4, 5)
    model = cast(JfetModel, _model(card, place, name, JfetModel, requests))
    d, g, s = (place.node(x) for x in (d, g, s))
    return Jfet(place.name(card.tokens[0]), d, g, s, model, _area(card, place, rest))


_Reader = Callable[[Card, _Place, _Requests], Element]
_READERS: dict[str, _Reader] = {
    "r": _passive(Resistor, "a resistance other than 0"),
    "c": _passive(Capacitor, "a capacitance of 0 or more"),
    "l": _passive(Inductor, "an inductance above 0"),
    "k": _coupling,
    "v": _independent(VoltageSource),
    "i": _independent(CurrentSource),
    "e": _voltage_controlled(Vcvs),
    "g": _voltage_controlled(Vccs),
    "f": _current_controlled(Cccs),
    "h": _current_controlled(Ccvs),
    "d": _diode,
    "q": _bipolar,
    "j": _jfet,
}
_LETTERS = " ".join((*_READERS, "x")).upper()
