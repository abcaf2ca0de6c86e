"""Faults of a netlist that only show once all its cards are read."""

from __future__ import annotations

from tonleiter.core.circuit.cards.deck import MOST_VALUES, NoiseRequest, Sweep
from tonleiter.core.circuit.cards.lines import Card
from tonleiter.core.circuit.elements import (
    GROUND,
    Cccs,
    Ccvs,
    Coupling,
    CurrentSource,
    Element,
    Inductor,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of


def check_size(elements: list[Element], sweep: Sweep, card: Card) -> None:
    """Results are values at each node for each point, and have to fit into memory."""
    things = max(len({n for e in elements for n in nodes_of(e)}), len(elements))
    if sweep.count() * things > MOST_VALUES:
        raise card.error(
            f"{sweep.count():.0f} points for {things} nodes and elements are too many at once;"
            f" at most {MOST_VALUES} values are computed, so ask for fewer points"
        )


def check_noise(elements: list[Element], request: NoiseRequest, card: Card) -> None:
    """The nodes and the source that noise is asked for are there, and it fits into memory."""
    check_size(elements, request.sweep, card)
    nodes = {n for e in elements for n in nodes_of(e)} | {GROUND}
    for node in (request.output, request.reference):
        if node not in nodes:
            raise card.error(f"there is no node {node}")
    sources = [e.name for e in elements if isinstance(e, VoltageSource | CurrentSource)]
    if request.source not in sources:
        raise card.error(f"there is no source {request.source}; known: {', '.join(sources)}")


def check(elements: list[Element], where: list[Card]) -> None:
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
