"""What parts must bear: the worst that can stand over them, not what stands there when all is well.

Solved with everything plugged in, with the source out, with the radio out, and with the phantom
supply of a mixer switched on that could be.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import replace

from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import (
    GROUND,
    Capacitor,
    Circuit,
    CircuitError,
    Element,
    Resistor,
)
from tonleiter.core.circuit.floating import islands
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.shopping import FILM_V, Item, power_words, rating_v
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.units.quantity import VOLT, WATT, format_quantity

# a resistance from here on is an insulation; what is left without another way is held by so much
INSULATION_OHM, HELD_OHM = 5e9, 1.0


class Worst:
    """The largest DC between two nodes over everything that can be plugged, pulled or switched."""

    def __init__(self, station: Station, solution: ChainSolution) -> None:
        self._ops = [solution.op, *_others(station, solution)]
        self._elements = {e.name: e for e in solution.compiled.circuit.elements}

    def volts(self, p: str, n: str) -> float:
        """Between two nodes; a case that does not have them does not count."""
        found = 0.0
        for op in self._ops:
            try:
                found = max(found, abs(op.volts(p, n)))
            except (KeyError, CircuitError):
                continue
        return found

    def rated(self, item: Item) -> Item:
        """A part with what it must bear, and what is over it or in it at worst."""
        if len(item.elements) != 1:
            return item
        element = self._elements.get(next(iter(item.elements)))
        if not isinstance(element, Resistor | Capacitor):
            return item
        volts, part = self.volts(element.p, element.n), item.part
        if isinstance(element, Resistor):
            watts = volts**2 / element.ohm
            rating = power_words(watts) or "¼ W"
            if math.isfinite(watts) and watts > 1e-9:
                rating = f"{rating}: {format_quantity(watts, WATT, 2)} in it at most"
            return replace(item, part=replace(part, note=rating))
        bipolar = ", bipolar" if part.note.endswith("bipolar") else ""
        film = part.name == "capacitor"
        rating = f"{max(rating_v(volts), FILM_V if film else 0.0):g} V{bipolar}"
        seen = f": {format_quantity(volts, VOLT, 2)} over it at most" if volts > 1e-3 else ""
        return replace(item, part=replace(part, note=f"{rating}{seen}"))


def _others(station: Station, solution: ChainSolution) -> Iterator[OperatingPoint]:
    compiled = solution.compiled
    elements = compiled.circuit.elements
    for stage in (compiled.stages[0], compiled.stages[-1]):
        yield from _solved(_without(elements, stage.elements))
    ids = compiled.chain.id, compiled.variant.id
    for k, stage in enumerate(compiled.stages):
        if stage.gear.phantom_switch() == "off":
            on = edits.set_value(station, *ids, k, "phantom", "on")
            made = compile_chain(on, *ids, contacts=True)
            yield from _solved(made.circuit.elements)
            yield from _solved(_without(made.circuit.elements, made.stages[0].elements))


def _without(elements: Iterable[Element], gone: frozenset[int]) -> list[Element]:
    """The circuit without what is pulled out; each part that hangs on nothing keeps a potential.

    It is held at one node: volts within it are what they are, and not what rounding over an
    insulation of gigohms makes of them.
    """
    kept = [e for k, e in enumerate(elements) if k not in gone]
    held = [
        next((n for n in island if n.endswith(":ground")), island[0])
        for island in islands(kept, INSULATION_OHM)
    ]
    return [*kept, *(Resistor(f"held:{n}", n, GROUND, HELD_OHM, noisy=False) for n in held)]


def _solved(elements: Iterable[Element]) -> Iterator[OperatingPoint]:
    """The case, where it has a solution: what has none is no case that somebody meets."""
    try:
        yield solve_dc(System(Circuit(tuple(elements))))
    except CircuitError:
        return
