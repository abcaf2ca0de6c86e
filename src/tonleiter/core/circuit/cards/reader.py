"""Read a netlist file: element cards, .model .subckt .param .op .ac .noise .tran .temp .end."""

from __future__ import annotations

from typing import cast

from tonleiter.core.circuit.cards.checks import check, check_noise, check_size
from tonleiter.core.circuit.cards.deck import Deck
from tonleiter.core.circuit.cards.element_cards import element
from tonleiter.core.circuit.cards.lines import Card, CardError, split_cards
from tonleiter.core.circuit.cards.one_card import Place
from tonleiter.core.circuit.cards.requests import Requests, directive
from tonleiter.core.circuit.cards.scope import (
    Definition,
    Scope,
    assignments,
    define_parameters,
    read_model,
)
from tonleiter.core.circuit.elements import Circuit, Element
from tonleiter.core.words import quoted

_DEEPEST = 20


def read_deck(text: str) -> Deck:
    """Read a netlist. Raises CardError with the line at fault and what would be accepted."""
    title, cards = split_cards(text)
    if not cards:
        raise CardError(1, "there are no element cards; the first line is taken as the title")
    requests = Requests()
    scope = Scope()
    elements, where = _expand(_before_end(cards), Place(scope), requests)
    if not elements:
        raise CardError(cards[-1].line, "there are no element cards")
    check(elements, where)
    if requests.ac and requests.ac_card:
        check_size(elements, requests.ac, requests.ac_card)
    if requests.noise and requests.noise_card:
        check_noise(elements, requests.noise, requests.noise_card)
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
    cards: list[Card], place: Place, requests: Requests
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
            directive(card, place.scope, requests)
        elif card.head[0] == "x":
            requests.count(card)
            inner, inner_where = _call(card, place, requests)
            elements += inner
            where += inner_where
        else:
            requests.count(card)
            elements.append(element(card, place, requests))
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


def _call(card: Card, place: Place, requests: Requests) -> tuple[list[Element], list[Card]]:
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
    inner = Place(scope, f"{place.name(card.tokens[0])}.", ports, place.depth + 1)
    return _expand(list(definition.cards), inner, requests)
