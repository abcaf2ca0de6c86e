"""Edits of a circuit: what faults do to it. What an edit leaves keeps the values of its unit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise

from tonleiter.core.bench.unit import JOINT
from tonleiter.core.circuit.elements import Element, Resistor
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.prove.fault import Change, Elements
from tonleiter.core.station.contacts import At

OPEN_OHM, SHORT_OHM, AIR_OHM = 1e9, 0.05, 1e11


def with_fields(name: str, **fields: object) -> Change:
    """Some fields of one element changed."""
    return lambda elements: tuple(
        replace(e, **fields) if e.name == name else e  # type: ignore[arg-type]
        for e in elements
    )


def instead(made: Element) -> Change:
    """Another element in the place of one of its name."""
    return lambda elements: tuple(made if e.name == made.name else e for e in elements)


def without(*gone: Element) -> Change:
    """Parts left out; where their legs went there is still a spot to hold a probe to."""
    names = {e.name for e in gone}
    air = [
        Resistor(f"fault:{e.name}:{k}", a, b, AIR_OHM, noisy=False)
        for e in gone
        for k, (a, b) in enumerate(pairwise(dict.fromkeys(nodes_of(e))))
    ]
    return lambda elements: (*(e for e in elements if e.name not in names), *air)


def beside(*made: Element) -> Change:
    """More elements."""
    return lambda elements: (*elements, *made)


def then(*changes: Change) -> Change:
    """One edit after the other."""

    def change(elements: Elements) -> Elements:
        for one in changes:
            elements = one(elements)
        return elements

    return change


def bridge(a: str, b: str, ohm: float = SHORT_OHM) -> Change:
    """Solder, or something that leaks, between two nodes."""
    return beside(Resistor(f"fault:{a}:{b}", a, b, ohm, noisy=False))


def in_series(element: Element, leg: str, ohm: float) -> Change:
    """A resistance in series with one leg of a part."""
    inner = f"{element.name}:dry"
    node = getattr(element, leg)
    made = Resistor(f"fault:{element.name}:{leg}", inner, node, ohm, noisy=False)
    return then(with_fields(element.name, **{leg: inner}), beside(made))


def moved_nodes(names: frozenset[str], to: Mapping[str, str]) -> Change:
    """Some elements with their nodes exchanged."""

    def change(elements: Elements) -> Elements:
        made = []
        for e in elements:
            if e.name in names:
                own = set(nodes_of(e)) & to.keys()
                fields = {
                    f: to[v]
                    for f in e.__dataclass_fields__
                    if f != "name" and isinstance(v := getattr(e, f), str) and v in own
                }
                e = replace(e, **fields) if fields else e  # type: ignore[arg-type]
            made.append(e)
        return tuple(made)

    return change


def joint(ref: str, ohm: float) -> Change:
    """The joints of a contact with a resistance of their own."""
    return lambda elements: tuple(
        replace(e, ohm=ohm)
        if isinstance(e, Resistor) and e.name.startswith(f"{JOINT}{ref}:")
        else e
        for e in elements
    )


def _joint_of(element: Element) -> str:
    """The contact whose joint an element is; "" for what is none."""
    name = element.name
    return name[len(JOINT) :].rpartition(":")[0] if name.startswith(JOINT) else ""


def swapped(to: Mapping[At, At], contacts: Mapping[At, str]) -> Change:
    """Wires soldered to other contacts; what has no contact of the unit there ends in air."""
    moved: Mapping[str, At] = {str(was): now for was, now in to.items()}

    def change(elements: Elements) -> Elements:
        changed = []
        for e in elements:
            ref = _joint_of(e)
            if ref in moved and isinstance(e, Resistor):
                node = contacts.get(moved[ref])
                e = replace(e, ohm=OPEN_OHM) if node is None else replace(e, p=node)
            changed.append(e)
        return tuple(changed)

    return change
