"""Placing a copy of a group of elements in a circuit: subcircuits."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from functools import cache
from typing import Any

from tonleiter.core.circuit.elements import GROUND, Coupling, Element

_NODE_FIELDS = frozenset(
    {"p", "n", "cp", "cn", "anode", "cathode", "collector", "base", "emitter", "drain", "gate"}
    | {"source", "plus", "minus", "pole", "out", "upper", "lower", "inlet", "common"}
)
_ELEMENT_NAME_FIELDS = frozenset({"name", "control"})


def nodes_of(element: Element) -> tuple[str, ...]:
    """The nodes that an element touches, controlling nodes included."""
    kind: type = type(element)
    return tuple([getattr(element, name) for name in _node_fields(kind)])


@cache
def _node_fields(kind: type[Any]) -> tuple[str, ...]:
    """Which fields of a kind hold nodes: asked for every element of every fault."""
    return tuple(f for f in kind.__dataclass_fields__ if f in _NODE_FIELDS)


def instantiate(
    elements: Iterable[Element],
    ports: Mapping[str, str],
    rename: Callable[[str], str],
    ground: str = GROUND,
) -> list[Element]:
    """Copy ``elements`` with inner nodes and names passed through ``rename``.

    ``ports`` maps the group's port nodes to outer nodes; its ground becomes ``ground``.
    """

    def node(name: str) -> str:
        return ground if name == GROUND else ports.get(name) or rename(name)

    copies: list[Element] = []
    for element in elements:
        changes: dict[str, Any] = {
            f: node(getattr(element, f)) for f in _fields_in(element, _NODE_FIELDS)
        }
        names = _ELEMENT_NAME_FIELDS | ({"first", "second"} if _is_coupling(element) else set())
        changes |= {f: rename(getattr(element, f)) for f in _fields_in(element, names)}
        copies.append(replace(element, **changes))
    return copies


def _is_coupling(element: Element) -> bool:
    return isinstance(element, Coupling)


def _fields_in(element: Element, wanted: Iterable[str]) -> tuple[str, ...]:
    own = element.__dataclass_fields__
    # a Coupling has no nodes, but no field of that name either, so membership is enough
    return tuple(f for f in own if f in wanted)
