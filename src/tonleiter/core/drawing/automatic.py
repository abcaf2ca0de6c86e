"""The drawing of a circuit that nobody laid out: a line for each node, a column for each part.

Plain, but nothing is dropped and nothing ends in mid air: every part hangs between the lines of its
nodes, and crosses others without touching them.
"""

from __future__ import annotations

from collections import deque

from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    CurrentSource,
    Diode,
    Element,
    Inductor,
    Jfet,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.drawing.draft import COMMON, HOT, Draft
from tonleiter.core.drawing.sheet import Pin

APART, COLUMN = 4.0, 7.0
_LEGS = {Bipolar: ("C", "B", "E"), Jfet: ("D", "G", "S")}


def automatic(d: Draft) -> None:
    """Lines from the input's down to the output's, common at the foot, supplies on top."""
    drawn = [e for e in d.net.elements if e.name not in d.net.unseen and nodes_of(e)]
    order = _order(d, drawn)
    d.inlet()
    high = COMMON - APART * len(order)
    for k, node in enumerate(order):
        d.row(node, min(high, HOT) + APART * k if node != d.common else COMMON)
    d.row(d.common, COMMON)
    inlet, outlet = d.net.inlet.hot, d.net.outlet.hot
    if d.row_of(inlet) != HOT:
        d.riser(inlet, 1.0, HOT, d.row_of(inlet))
        d.touch(inlet, 0.0, HOT)
    x = 4.0
    for element in drawn:
        x += _placed(d, element, x)
    for node in order:
        short = node.rpartition(":")[2]
        d.note(short, 1.6, d.row_of(node) - 0.4)
        d.volts(node, x + 3, d.row_of(node) - 0.4, "right")
    if d.row_of(outlet) != HOT:
        d.riser(outlet, x + 3, d.row_of(outlet), HOT)
        d.touch(outlet, x + 4, HOT)
    d.outlet(x + 4, HOT)


def _placed(d: Draft, element: Element, x: float) -> float:
    """Put a part into its column; returns how wide that is."""
    part = element.name.removeprefix(d.net.name(""))
    if isinstance(element, Bipolar | Jfet):
        legs = _LEGS[type(element)]
        nodes = (
            (element.collector, element.base, element.emitter)
            if isinstance(element, Bipolar)
            else (element.drain, element.gate, element.source)
        )
        return _boxed(d, part, x, tuple(zip(legs, nodes, strict=True)))
    if isinstance(element, Resistor | Capacitor | Inductor | VoltageSource | CurrentSource):
        ends = (element.p, element.n)
    elif isinstance(element, Diode):
        ends = (element.anode, element.cathode)
    else:
        names = ("+", "−", "c+", "c−")
        return _boxed(d, part, x, tuple(zip(names, nodes_of(element), strict=False)))
    if ends[0] == ends[1]:
        return _boxed(d, part, x, (("1", ends[0]), ("2", ends[1])))
    top, bottom = sorted(ends, key=d.row_of)
    # its body stands in the first gap under its upper line, where no other line crosses it
    d.upright(part, x, nodes=(top, bottom), kind=_kind(element), at=d.row_of(top) + APART / 2)
    return COLUMN


def _kind(element: Element) -> str | None:
    return "battery" if isinstance(element, VoltageSource) and element.dc else None


def _boxed(d: Draft, part: str, x: float, legs: tuple[tuple[str, str], ...]) -> float:
    """A device of several legs: a box above all lines, a leg down to the line of each node."""
    foot = d.highest() - 3.0
    pins = tuple(Pin(name, node, x + 2.5 * k, foot) for k, (name, node) in enumerate(legs))
    for pin in pins:
        d.drop(pin.node, pin.x, foot)
        d.pin_words(pin.name, pin.x + 0.2, foot + 1.6)
    width = 2.5 * (len(legs) - 1)
    d.several(
        part, "device", (x + width / 2, foot - 1.5), pins, label="above", half=(width / 2 + 1, 1.5)
    )
    return width + 5.0


def _order(d: Draft, drawn: list[Element]) -> list[str]:
    """Nodes as lines from above: supplies, then from the input on; common is apart."""
    near: dict[str, set[str]] = {}
    for element in drawn:
        nodes = set(nodes_of(element))
        for node in nodes:
            near.setdefault(node, set()).update(nodes - {node})
    supplies = [e.p for e in drawn if isinstance(e, VoltageSource) and e.n == d.common and e.dc]
    seen = dict.fromkeys(s for s in supplies if s != d.net.inlet.hot)
    waiting = deque([d.net.inlet.hot])
    while waiting:
        node = waiting.popleft()
        if node in seen or node == d.common:
            continue
        seen[node] = None
        waiting += sorted(near.get(node, set()) - seen.keys())
    rest = [n for n in near if n not in seen and n != d.common]
    return [*seen, *rest]
