"""From a stage's circuit to a drawing: signal path left to right, everything else hangs from it.

Works on the very elements that are solved. Parts that only stand for stray effects are left out.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    Coupling,
    Element,
    Inductor,
    Jfet,
    ModulatedResistor,
    Resistor,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.gear.net import AIR, StageNet
from tonleiter.core.units.quantity import VOLT, format_quantity, format_short


@dataclass(frozen=True)
class Part:
    """A drawn symbol with its value: ``kind`` names the symbol."""

    kind: str
    label: str


@dataclass(frozen=True)
class Slot:
    """One place along the path: a part in line, or parts hanging down, one below the other.

    ``cold`` is the twin of a part in line, in the cold leg of a balanced path.
    """

    inline: Part | None = None
    hanging: tuple[Part, ...] = ()
    cold: Part | None = None


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
        self._parts = [e for e in net.elements if e.name not in net.unseen]
        self._used: set[str] = set()
        self._named: set[str] = set()

    def _short(self, element: Element) -> str:
        return element.name.rpartition(":")[2]

    def drawing(self) -> Drawing:
        inlet, outlet = self._net.inlet, self._net.outlet
        fet = next((e for e in self._parts if isinstance(e, Jfet)), None)
        if fet is not None and fet.drain == outlet.hot:
            return Drawing((Slot(hanging=(Part("electret", _fet_label(fet)),)),), "none")
        granules = next((e for e in self._parts if isinstance(e, ModulatedResistor)), None)
        if granules is not None:
            part = Part("granules", format_short(granules.ohm))
            return Drawing((Slot(hanging=(part,)),), "none")
        slots: list[Slot] = []
        source = "port"
        node = inlet.hot
        if node == AIR:
            source, node = "microphone", self._after_source(fet)
        coils = {self._short(e): e for e in self._parts if isinstance(e, Inductor)}
        if "cold_coil" in coils:
            both = Slot(inline=_part(coils["hot_coil"]), cold=_part(coils["cold_coil"]))
            return Drawing((both,), source)
        if any(isinstance(e, Coupling) for e in self._parts):
            return Drawing(tuple(self._transformer()), source, common=source == "microphone")
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

    def _after_source(self, fet: Jfet | None) -> str:
        """Node that the EMF drives; a resistance beside it is drawn in series (Thévenin)."""
        if fet is not None:
            return fet.source
        emf = next(e for e in self._parts if isinstance(e, Vccs | Vcvs) and e.cp == self._net.heard)
        self._used.add(emf.name)
        node = emf.n if isinstance(emf, Vccs) else emf.p
        self._driven = node if isinstance(emf, Vccs) else None
        return node

    def _supplied(self, node: str) -> float | None:
        """Volts of a node that a battery holds, None for others."""
        for element in self._parts:
            if isinstance(element, VoltageSource) and element.p == node:
                return element.dc
        return None

    def _reaches_outlet(self, node: str, seen: frozenset[str] = frozenset()) -> bool:
        """Whether the signal path goes on from ``node``."""
        if node == self._net.outlet.hot:
            return True
        if node in self._cold or node in seen or self._supplied(node) is not None:
            return False
        seen |= {node}
        onwards = [other for _, other in self._two_ended(node)]
        onwards += [e.n for e in self._parts if isinstance(e, Vccs) and e.cp == node]
        onwards += [_collector(e) for e in self._parts
                    if isinstance(e, Bipolar | Jfet) and _base(e) == node]  # fmt: skip
        return any(self._reaches_outlet(other, seen) for other in onwards)

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
            if element.name in self._used:
                continue
            volts = self._supplied(other)
            if other in self._cold:
                self._used.add(element.name)
                if node == driven and isinstance(element, Resistor):
                    slots.append(Slot(inline=_part(element)))
                    continue
                slots.append(Slot(hanging=(_part(element),)))
            elif volts is not None:
                self._used.add(element.name)
                # the same battery is named once
                named = format_quantity(volts, VOLT, 3)
                battery = Part("battery", "" if named in self._named else named)
                self._named.add(named)
                slots.append(Slot(hanging=(_part(element), battery)))
            elif not self._reaches_outlet(other, frozenset({node})):
                slots.append(Slot(hanging=tuple(self._down_from(other, element))))
        return slots

    def _down_from(self, node: str, first: Element) -> list[Part]:
        """A branch that ends at the common conductor: its parts from the top."""
        self._used.add(first.name)
        parts = [_part(first)]
        while node not in self._cold:
            further = self._two_ended(node)
            if not further:
                break
            element, node = further[0]
            self._used.add(element.name)
            parts.append(_part(element))
        return parts

    def _next(self, node: str) -> tuple[list[Slot], str] | None:
        for element in self._parts:
            if element.name in self._used:
                continue
            if isinstance(element, Vccs) and element.cp == node:
                return self._amplifier(element)
            if isinstance(element, Bipolar | Jfet) and _base(element) == node:
                self._used.add(element.name)
                return [self._transistor(element)], _collector(element)
        for element, other in self._two_ended(node):
            if other not in self._cold and self._reaches_outlet(other, frozenset({node})):
                self._used.add(element.name)
                return [Slot(inline=_part(element), cold=self._twin(element))], other
        return None

    def _twin(self, element: Element) -> Part | None:
        """The part that does in the cold leg what this one does in the hot leg."""
        short = self._short(element)
        names = {f"{short}_cold", short.replace("_hot", "_cold"), f"cold_{short}"} - {short}
        found = (e for e in self._net.elements if self._short(e) in names)
        twin = next((e for e in found if type(e) is type(element)), None)
        return _part(twin) if twin is not None else None

    def _transistor(self, element: Bipolar | Jfet) -> Slot:
        """A transistor in the path, with what stands at its foot."""
        foot = element.emitter if isinstance(element, Bipolar) else element.source
        parts = []
        for part, other in self._two_ended(foot):
            if other in self._cold:
                self._used.add(part.name)
                parts.append(_part(part))
        kind = "bipolar" if isinstance(element, Bipolar) else "fet"
        return Slot(inline=Part(kind, ""), hanging=tuple(parts[:2]))

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

    def _transformer(self) -> list[Slot]:
        by_name = {self._short(e): e for e in self._parts}
        primary, secondary = by_name["primary"], by_name["secondary"]
        assert isinstance(primary, Inductor)
        assert isinstance(secondary, Inductor)
        turns = (secondary.henry / primary.henry) ** 0.5
        ratio = f"1 : {turns:.3g}" if turns >= 1 else f"{1 / turns:.3g} : 1"
        in_line = [
            Slot(inline=Part("transformer", ratio))
            if name == "transformer"
            else Slot(inline=_part(by_name[name]))
            for name in ("ribbon", "primary_r", "transformer", "secondary_r", "winding")
            if name == "transformer" or name in by_name
        ]
        across = by_name.get("c_winding")
        return [*in_line, Slot(hanging=(_part(across),))] if across else in_line


def _base(element: Bipolar | Jfet) -> str:
    return element.base if isinstance(element, Bipolar) else element.gate


def _collector(element: Bipolar | Jfet) -> str:
    return element.collector if isinstance(element, Bipolar) else element.drain


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
