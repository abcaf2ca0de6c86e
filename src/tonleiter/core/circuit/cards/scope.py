"""Names that a card may refer to: parameters, device models, subcircuits."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from tonleiter.core.circuit.cards.lines import Card
from tonleiter.core.circuit.cards.numbers import NumberError, evaluate
from tonleiter.core.circuit.elements import BipolarModel, DiodeModel, JfetModel
from tonleiter.core.words import quoted

Model = DiodeModel | BipolarModel | JfetModel


@dataclass(frozen=True)
class Definition:
    """A ``.subckt`` block: its ports, default parameters and cards."""

    name: str
    ports: tuple[str, ...]
    defaults: Mapping[str, str]
    cards: tuple[Card, ...]
    card: Card


@dataclass
class Scope:
    """Definitions visible at one place; inner scopes see the outer ones."""

    outer: Scope | None = None
    parameters: dict[str, float] = field(default_factory=dict)
    models: dict[str, Card] = field(default_factory=dict)
    subcircuits: dict[str, Definition] = field(default_factory=dict)

    def all_parameters(self) -> dict[str, float]:
        """Parameters of this and all outer scopes."""
        outer = self.outer.all_parameters() if self.outer else {}
        return outer | self.parameters

    def value(self, card: Card, text: str) -> float:
        """Number, parameter or expression; raises CardError at the card."""
        try:
            return evaluate(text, self.all_parameters())
        except NumberError as error:
            raise card.error(str(error)) from None

    def model_card(self, name: str) -> tuple[Card, Scope] | None:
        """The ``.model`` card called ``name`` and the scope it stands in."""
        if name in self.models:
            return self.models[name], self
        return self.outer.model_card(name) if self.outer else None

    def definition(self, name: str) -> Definition | None:
        """The subcircuit called ``name``."""
        if name in self.subcircuits:
            return self.subcircuits[name]
        return self.outer.definition(name) if self.outer else None


def assignments(card: Card, tokens: tuple[str, ...]) -> dict[str, str]:
    """``a=1 b={2*a}`` as a mapping; raises CardError for anything else."""
    found = {}
    for token in tokens:
        name, equals, value = token.partition("=")
        if not equals or not name or not value:
            raise card.error(f"{quoted(token)} is not name=value")
        found[name.lower()] = value
    return found


def define_parameters(scope: Scope, card: Card, tokens: tuple[str, ...]) -> None:
    """Put the assignments of a ``.param`` card into the scope, in order."""
    for name, text in assignments(card, tokens).items():
        scope.parameters[name] = scope.value(card, text)


_MODEL_KINDS: dict[str, tuple[type[Model], int]] = {
    "d": (DiodeModel, 1),
    "npn": (BipolarModel, 1),
    "pnp": (BipolarModel, -1),
    "njf": (JfetModel, 1),
    "pjf": (JfetModel, -1),
}
_MODEL_FIELDS: dict[type[Model], dict[str, str]] = {
    DiodeModel: {"is": "is_a", "n": "n", "rs": "rs_ohm", "bv": "bv_v", "ibv": "ibv_a"},
    BipolarModel: {
        "is": "is_a",
        "bf": "bf",
        "br": "br",
        "nf": "nf",
        "nr": "nr",
        "vaf": "vaf_v",
        "va": "vaf_v",
    },
    JfetModel: {"vto": "vto_v", "beta": "beta_a_per_v2", "lambda": "lambda_per_v", "is": "is_a"},
}


def read_model(scope: Scope, card: Card) -> tuple[Model, list[str]]:
    """Model of a ``.model NAME KIND (PARAMETERS)`` card and the parameters left out of it.

    First-order models are used, so capacitances, breakdown and the like are named, not refused.
    """
    if len(card.tokens) < 3:
        raise card.error("a model is written .model NAME KIND (PARAMETER=VALUE ...)")
    kind = card.tokens[2].lower()
    if kind not in _MODEL_KINDS:
        raise card.error(f"{quoted(kind)} is not a kind of model; known: {', '.join(_MODEL_KINDS)}")
    family, polarity = _MODEL_KINDS[kind]
    fields = _MODEL_FIELDS[family]
    values: dict[str, float] = {}
    left_out = []
    for name, text in assignments(card, card.tokens[3:]).items():
        value = scope.value(card, text)
        if name in fields:
            values[fields[name]] = value
        else:
            left_out.append(name)
    for positive in ("is_a", "n", "bf", "br", "nf", "nr", "vaf_v", "bv_v", "ibv_a"):
        if positive in values and values[positive] <= 0:
            raise card.error(f"the model's {positive.partition('_')[0].upper()} must be above 0")
    if family is DiodeModel:
        return DiodeModel(**values), left_out
    if family is BipolarModel:
        return BipolarModel(polarity=polarity, **values), left_out
    return JfetModel(polarity=polarity, **values), left_out
