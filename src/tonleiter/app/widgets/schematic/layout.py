"""From a stage's circuit to a drawing: signal path left to right, everything else hangs from it.

Works on the very elements that are solved. Parts that only stand for stray effects are left out.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.circuit.elements import (
    Capacitor,
    Coupling,
    Element,
    Inductor,
    Jfet,
    Resistor,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.gear.net import AIR, Port, StageNet
from tonleiter.core.units.quantity import VOLT, format_quantity, format_short

# stray paths, insulation, the pole of an amplifier: in the circuit, but not on anybody's schematic
_UNDRAWN = frozenset(
    {"stray", "stray_c", "leak", "insulation", "leakage", "earth", "pole_r", "pole_c", "buffer_r",
     "noise", "self_noise", "diaphragm", "c_between"}
)  # fmt: skip


@dataclass(frozen=True)
class Part:
    """A drawn symbol with its value: ``kind`` names the symbol."""

    kind: str
    label: str


@dataclass(frozen=True)
class Slot:
    """One place along the path: a part in line, or parts hanging down, one below the other."""

    inline: Part | None = None
    hanging: tuple[Part, ...] = ()
    below: Part | None = None


@dataclass(frozen=True)
class Drawing:
    """Slots from left to right; ``source`` draws what stands at the left end."""

    slots: tuple[Slot, ...]
    source: str = "port"
    common: bool = True


def lay_out(net: StageNet) -> Drawing:
    """Lay out a stage's circuit."""
    return _Layout(net).drawing()


class _Layout:
    def __init__(self, net: StageNet) -> None:
        self._net = net
        self._cold = {net.inlet.cold, net.outlet.cold, "0"}
        self._parts = [e for e in net.elements if self._short(e) not in _UNDRAWN]
        self._used: set[str] = set()

    def _short(self, element: Element) -> str:
        return element.name.rpartition(":")[2]

    def drawing(self) -> Drawing:
        inlet, outlet = self._net.inlet, self._net.outlet
        fet = next((e for e in self._parts if isinstance(e, Jfet)), None)
        if fet is not None:
            return Drawing((Slot(hanging=(Part("electret", _fet_label(fet)),)),), "none")
        coupling = next((e for e in self._parts if isinstance(e, Coupling)), None)
        slots: list[Slot] = []
        source = "port"
        node = inlet.hot
        if node == AIR:
            source, node = "microphone", self._after_source()
        if coupling is not None:
            return Drawing(tuple(self._transformer(inlet, outlet)), common=False)
        for _ in range(12):
            slots += self._hanging_at(node)
            if node == outlet.hot:
                break
            step = self._next(node)
            if step is None:
                break
            slot, node = step
            slots += slot
        return Drawing(tuple(slots), source)

    def _after_source(self) -> str:
        """Node that the EMF drives; the resistance beside it is drawn in series (Thévenin)."""
        emf = next(e for e in self._parts if isinstance(e, Vccs) and e.cp == AIR)
        self._used.add(emf.name)
        self._driven = emf.n
        return emf.n

    def _two_ended(self, node: str) -> list[tuple[Element, str]]:
        found: list[tuple[Element, str]] = []
        for element in self._parts:
            if element.name in self._used:
                continue
            if isinstance(element, Resistor | Capacitor | Inductor | VoltageSource):
                if element.p == node:
                    found.append((element, element.n))
                elif element.n == node:
                    found.append((element, element.p))
        return found

    def _hanging_at(self, node: str) -> list[Slot]:
        """Branches from ``node`` down to the common conductor, each a slot of its own."""
        slots = []
        driven = getattr(self, "_driven", None)
        for element, other in self._two_ended(node):
            if other in self._cold:
                self._used.add(element.name)
                if node == driven and isinstance(element, Resistor):
                    slots.append(Slot(inline=_part(element)))
                    continue
                slots.append(Slot(hanging=(_part(element),)))
            else:
                chain = self._down_from(other, element)
                if chain:
                    slots.append(Slot(hanging=tuple(chain)))
        return slots

    def _down_from(self, node: str, first: Element) -> list[Part]:
        """A branch like a resistor to a battery: parts until the common conductor."""
        if node == self._net.outlet.hot:
            return []
        further = [(e, o) for e, o in self._two_ended(node) if e.name != first.name]
        if len(further) == 1 and further[0][1] in self._cold and not self._drives(node):
            last = further[0][0]
            if isinstance(last, VoltageSource):
                self._used |= {first.name, last.name}
                return [_part(first), _part(last)]
        return []

    def _drives(self, node: str) -> bool:
        return any(isinstance(e, Vccs | Vcvs) and e.cp == node for e in self._parts)

    def _next(self, node: str) -> tuple[list[Slot], str] | None:
        for element in self._parts:
            if isinstance(element, Vccs) and element.cp == node and element.name not in self._used:
                return self._amplifier(element)
        for element, other in self._two_ended(node):
            if other not in self._cold:
                self._used.add(element.name)
                return [Slot(inline=_part(element))], other
        return None

    def _amplifier(self, first: Vccs) -> tuple[list[Slot], str]:
        """Controlled sources one behind the other are one triangle."""
        driven = first
        self._used.add(first.name)
        while follower := next(
            (e for e in self._parts if isinstance(e, Vccs) and e.cp == driven.n), None
        ):
            self._used.add(follower.name)
            driven = follower
        self._driven = driven.n
        return [Slot(inline=Part("amplifier", ""))], driven.n

    def _transformer(self, inlet: Port, outlet: Port) -> list[Slot]:
        by_name = {self._short(e): e for e in self._parts}
        primary, secondary = by_name["primary"], by_name["secondary"]
        assert isinstance(primary, Inductor)
        assert isinstance(secondary, Inductor)
        turns = (secondary.henry / primary.henry) ** 0.5
        ratio = f"1 : {turns:.3g}" if turns >= 1 else f"{1 / turns:.3g} : 1"
        return [
            Slot(inline=_part(by_name["primary_r"])),
            Slot(inline=Part("transformer", ratio), below=Part("", _value(primary))),
            Slot(inline=_part(by_name["secondary_r"])),
            Slot(hanging=(_part(by_name["c_winding"]),)),
        ]


def _value(element: Element) -> str:
    match element:
        case Resistor(ohm=ohm):
            return format_short(ohm)
        case Capacitor(farad=farad):
            return format_short(farad)
        case Inductor(henry=henry):
            return format_short(henry) + ("H" if henry >= 1 else "")
        case VoltageSource(dc=dc):
            return format_quantity(dc, VOLT, 3)
    return ""


def _part(element: Element) -> Part:
    kinds = {
        Resistor: "resistor", Capacitor: "capacitor", Inductor: "coil", VoltageSource: "battery",
    }  # fmt: skip
    return Part(kinds[type(element)], _value(element))


def _fet_label(fet: Jfet) -> str:
    idss = fet.model.beta_a_per_v2 * fet.model.vto_v**2
    return f"{idss * 1e3:.2g} mA"
