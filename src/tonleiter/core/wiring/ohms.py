"""What an ohmmeter finds on a finished build, unplugged at both ends and without its batteries.

The meter is one of low volts, 0.3 V open behind 1 kΩ, so that no junction conducts: coils, windings
and resistors count, capacitors are open after their kick.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import (
    GROUND,
    Capacitor,
    Circuit,
    CircuitError,
    Element,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import System
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.units.quantity import OHM, format_quantity
from tonleiter.core.wiring.build import Build, Span

METER_V, METER_OHM = 0.3, 1000.0
# what a meter shows as open; damp that gives every node a potential; a wire
OPEN_OHM, DAMP_OHM, WIRE_OHM = 20e6, 1e11, 1e-3
BEEPS_BELOW_OHM = 50.0


@dataclass(frozen=True)
class Reading:
    """Between two contacts: ohms, None for open; ``kick`` if a capacitor is charged on the way."""

    one: str
    other: str
    ohm: float | None
    kick: bool = False

    def words(self) -> str:
        """As somebody would say it who reads it off."""
        if self.ohm is None:
            return "open, after a capacitor's kick" if self.kick else "open"
        if self.ohm < 1.0:
            return "beeps, under 1 Ω"
        said = format_quantity(self.ohm, OHM, 2)
        return f"{said}, beeps" if self.ohm < BEEPS_BELOW_OHM else said


class Ohmmeter:
    """Measures one part of a chain's build, from box to box."""

    def __init__(self, build: Build, solution: ChainSolution, span: Span) -> None:
        stages = solution.compiled.stages
        kept = span.own_elements(solution.compiled)
        left = build.splices[stages[span.first].id, "out"]
        right = build.splices[stages[span.last].id, "in"]
        self._nodes: dict[str, str] = {}
        for splice in (left, right):
            for leg, label in splice.landed.items():
                if label is None:
                    continue
                ref, node = splice.end.ref(label), splice.wires[leg]
                if ref in self._nodes and self._nodes[ref] != node:
                    kept.append(Resistor(f"tin:{ref}:{leg}", self._nodes[ref], node, WIRE_OHM))
                self._nodes.setdefault(ref, node)
            for bridge in build.wiring.bridges:
                ends = [self._nodes.get(splice.end.ref(c)) for c in bridge.contacts]
                if bridge.end == splice.end.id and None not in ends:
                    a, b = str(ends[0]), str(ends[1])
                    kept.append(Resistor(f"tin:{bridge.contacts}", a, b, WIRE_OHM))
        # a battery is taken out before anybody rings
        self._elements = [e for e in kept if not isinstance(e, VoltageSource)]
        self._circuit = [e for e in self._elements if not isinstance(e, Capacitor)]

    @property
    def contacts(self) -> tuple[str, ...]:
        """Contacts that it can be held to."""
        return tuple(self._nodes)

    def between(self, one: str, other: str) -> Reading:
        """Hold it to two contacts. Raises KeyError for one that no wire of this part goes to."""
        a, b = self._nodes[one], self._nodes[other]
        ohm = self._measured(self._circuit, a, b)
        if ohm is not None:
            return Reading(one, other, ohm)
        charged = [
            Resistor(e.name, e.p, e.n, WIRE_OHM) if isinstance(e, Capacitor) and e.farad > 1e-8
            else e
            for e in self._elements if not isinstance(e, Capacitor) or e.farad > 1e-8
        ]  # fmt: skip
        return Reading(one, other, None, self._measured(charged, a, b) is not None)

    def readings(self) -> tuple[Reading, ...]:
        """Every pair of contacts of this part."""
        names = self.contacts
        return tuple(
            self.between(a, b) for k, a in enumerate(names) for b in names[k + 1 :]
        )  # fmt: skip

    def _measured(self, elements: Iterable[Element], a: str, b: str) -> float | None:
        if a == b:
            return 0.0
        kept = [replace(e, noisy=False) if isinstance(e, Resistor) else e for e in elements]
        nodes = {getattr(e, f) for e in kept for f in ("p", "n") if hasattr(e, f)} | {a, b}
        nodes.discard(GROUND)
        damp = [Resistor(f"damp:{n}", n, GROUND, DAMP_OHM, noisy=False) for n in sorted(nodes)]
        meter: list[Element] = [
            VoltageSource("meter", "meter:tip", b, dc=METER_V),
            Resistor("meter:r", "meter:tip", a, METER_OHM, noisy=False),
        ]
        try:
            op = solve_dc(System(Circuit((*kept, *damp, *meter))))
        except CircuitError:
            return None
        volts = op.volts(a, b)
        if METER_V - volts < METER_V * METER_OHM / OPEN_OHM:
            return None
        return max(METER_OHM * volts / (METER_V - volts), 0.0)
