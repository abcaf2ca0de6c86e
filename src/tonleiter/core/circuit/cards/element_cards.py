"""Cards of elements, by their first letter."""

from __future__ import annotations

from typing import cast

from tonleiter.core.circuit.cards.lines import Card
from tonleiter.core.circuit.cards.one_card import Place, Reader, UsageError, fields_of
from tonleiter.core.circuit.cards.requests import Requests
from tonleiter.core.circuit.cards.scope import Model, read_model
from tonleiter.core.circuit.cards.source_cards import independent
from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Capacitor,
    Cccs,
    Ccvs,
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
from tonleiter.core.words import quoted

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


def element(card: Card, place: Place, requests: Requests) -> Element:
    """The element of a card. Raises CardError with how such a card is written."""
    letter = card.head[0]
    if letter not in _USAGE:
        raise card.error(
            f"{quoted(card.tokens[0])} is no known element; known first letters: {_LETTERS}"
        )
    try:
        return _READERS[letter](card, place, requests)
    except UsageError:
        raise card.error(f"a card of this kind is written {_USAGE[letter]}") from None


def _passive(kind: type[Resistor] | type[Capacitor] | type[Inductor], wanted: str) -> Reader:
    def read(card: Card, place: Place, requests: Requests) -> Element:
        p, n, text = fields_of(card, 3, 3)
        value = place.scope.value(card, text.partition("=")[2] or text)
        if (
            not value > 0
            and not (kind is Resistor and value < 0)
            and not (kind is Capacitor and value == 0)
        ):
            raise card.error(f"{quoted(text)}: {wanted} is wanted")
        return kind(place.name(card.tokens[0]), place.node(p), place.node(n), value)

    return read


def _coupling(card: Card, place: Place, requests: Requests) -> Element:
    first, second, text = fields_of(card, 3, 3)
    k = place.scope.value(card, text)
    if not -1 <= k <= 1:
        raise card.error(f"{quoted(text)} is not a coupling; from −1 to 1 is wanted")
    return Coupling(place.name(card.tokens[0]), place.name(first), place.name(second), k)


def _voltage_controlled(kind: type[Vcvs] | type[Vccs]) -> Reader:
    def read(card: Card, place: Place, requests: Requests) -> Element:
        p, n, cp, cn, text = fields_of(card, 5, 5)
        p, n, cp, cn = (place.node(x) for x in (p, n, cp, cn))
        return kind(place.name(card.tokens[0]), p, n, cp, cn, place.scope.value(card, text))

    return read


def _current_controlled(kind: type[Cccs] | type[Ccvs]) -> Reader:
    def read(card: Card, place: Place, requests: Requests) -> Element:
        p, n, control, text = fields_of(card, 4, 4)
        value = place.scope.value(card, text)
        name = place.name(card.tokens[0])
        return kind(name, place.node(p), place.node(n), place.name(control), value)

    return read


def _model(card: Card, place: Place, name: str, family: type, requests: Requests) -> Model:
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


def _area(card: Card, place: Place, fields: list[str]) -> float:
    if not fields:
        return 1.0
    text = fields[0].lower().removeprefix("area=")
    area = place.scope.value(card, text)
    if area <= 0:
        raise card.error(f"“{fields[0]}” is not an area; a number above 0 is wanted")
    return area


def _diode(card: Card, place: Place, requests: Requests) -> Element:
    a, k, name, *rest = fields_of(card, 3, 4)
    model = cast(DiodeModel, _model(card, place, name, DiodeModel, requests))
    area = _area(card, place, rest)
    return Diode(place.name(card.tokens[0]), place.node(a), place.node(k), model, area)


def _bipolar(card: Card, place: Place, requests: Requests) -> Element:
    c, b, e, *rest = fields_of(card, 4, 6)
    if len(rest) > 1 and place.scope.model_card(rest[0].lower()) is None:
        rest = rest[1:]  # a substrate node, which first-order models do not use
    model = cast(BipolarModel, _model(card, place, rest[0], BipolarModel, requests))
    c, b, e = (place.node(x) for x in (c, b, e))
    return Bipolar(place.name(card.tokens[0]), c, b, e, model, _area(card, place, rest[1:]))


def _jfet(card: Card, place: Place, requests: Requests) -> Element:
    d, g, s, name, *rest = fields_of(card, 4, 5)
    model = cast(JfetModel, _model(card, place, name, JfetModel, requests))
    d, g, s = (place.node(x) for x in (d, g, s))
    return Jfet(place.name(card.tokens[0]), d, g, s, model, _area(card, place, rest))


_READERS: dict[str, Reader] = {
    "r": _passive(Resistor, "a resistance other than 0"),
    "c": _passive(Capacitor, "a capacitance of 0 or more"),
    "l": _passive(Inductor, "an inductance above 0"),
    "k": _coupling,
    "v": independent(VoltageSource),
    "i": independent(CurrentSource),
    "e": _voltage_controlled(Vcvs),
    "g": _voltage_controlled(Vccs),
    "f": _current_controlled(Cccs),
    "h": _current_controlled(Ccvs),
    "d": _diode,
    "q": _bipolar,
    "j": _jfet,
}
_LETTERS = " ".join((*_READERS, "x")).upper()
