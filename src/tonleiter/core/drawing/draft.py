"""Making a drawing by hand: a plan says where nodes run and where parts stand, the rest follows.

A node runs along one or more rows; a part stands upright between the rows of its two nodes, or lies
along a row between two nodes of the same height. Wires, dots and feet come from that, so that a
plan cannot join what the circuit does not join.
"""

from __future__ import annotations

from collections.abc import Iterable

from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    CurrentSource,
    Diode,
    Element,
    Inductor,
    Jfet,
    Resistor,
    Vccs,
    VoltageSource,
)
from tonleiter.core.drawing.sheet import (
    Bar,
    Case,
    Dot,
    Label,
    Pin,
    Sheet,
    Symbol,
    Terminal,
    Text,
    Wire,
)
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import Polarised, Port, StageNet
from tonleiter.core.gear.shopping import Item, Volts, items_of
from tonleiter.core.units.quantity import VOLT, format_quantity, format_short

# rows that every stage has, so that stages can stand side by side
HOT, COLD_LEG, COMMON = 0.0, 6.0, 12.0

_KINDS = {
    Resistor: "resistor",
    Capacitor: "capacitor",
    Inductor: "coil",
    VoltageSource: "battery",
    CurrentSource: "current-source",
    Diode: "diode",
    Vccs: "source",
}


# ends of what is no resistor: a diode's cathode has the ring
_ENDS = {"battery": ("+", "−"), "diode": ("A", "K"), "diode-up": ("K", "A"), "zener": ("K", "A")}


class Draft:
    """A drawing in the making, of one stage's circuit."""

    def __init__(
        self,
        gear: Gear,
        net: StageNet,
        before: Port | None = None,
        volts: Volts | None = None,
        items: Iterable[Item] | None = None,
    ) -> None:
        self.gear, self.net = gear, net
        self.before = before or net.inlet
        self._volts = volts or (lambda _: None)
        self._elements = {e.name: e for e in net.elements}
        self.items = {i.place: i for i in items or items_of(gear, net)}
        self._plus = {m.element: m.p for m in net.marks if isinstance(m, Polarised)}
        self._rows: dict[str, float] = {}
        self._touched: dict[tuple[str, float], set[float]] = {}
        self._led: dict[tuple[float, float], set[str]] = {}
        self._symbols: list[Symbol] = []
        self._wires: list[Wire] = []
        self._bars: list[Bar] = []
        self._terminals: list[Terminal] = []
        self._texts: list[Text] = []
        self._cases: list[Case] = []

    # --- what there is ---------------------------------------------------------------------------

    def has(self, part: str) -> bool:
        """Whether the stage built a part of that name."""
        name = self.net.name(part)
        return name in self.items or (name in self._elements and name not in self.net.unseen)

    def has_element(self, part: str) -> bool:
        """Whether the stage has an element of that name, if only inside of something."""
        return self.net.name(part) in self._elements

    def element(self, part: str) -> Element:
        """An element by the name that the stage gave it."""
        return self._elements[self.net.name(part)]

    def node(self, part: str) -> str:
        """A node of the stage's own."""
        return self.net.name(part)

    @property
    def common(self) -> str:
        """The node that feet and supplies stand on."""
        return self.net.common(self.gear.role)

    def value_of(self, element: Element) -> str:
        """As people write it on a schematic."""
        match element:
            case Resistor(ohm=ohm):
                return format_short(ohm)
            case Capacitor(farad=farad):
                return format_short(farad)
            case Inductor(henry=henry):
                return format_short(henry) + "H"
            case VoltageSource(dc=dc):
                return format_quantity(dc, VOLT, 3)
        return ""

    # --- rows and wires --------------------------------------------------------------------------

    def row(self, node: str, y: float) -> None:
        """Where a node runs, unless said otherwise."""
        self._rows[node] = y

    def row_of(self, node: str) -> float:
        """Where a node runs. Raises KeyError."""
        return self._rows[node]

    def highest(self) -> float:
        """The row above all others."""
        return min(self._rows.values())

    def touch(self, node: str, x: float, y: float | None = None) -> None:
        """A node's row reaches to here."""
        y = self._rows[node] if y is None else y
        self._touched.setdefault((node, y), set()).add(x)

    def riser(self, node: str, x: float, y0: float, y1: float) -> None:
        """A node goes from one height to another."""
        if y0 != y1:
            self._wires.append(Wire(node, x, y0, x, y1))
        self.touch(node, x, y0)
        self.touch(node, x, y1)

    def drop(self, node: str, x: float, y: float) -> None:
        """A node is led from its row to a pin that stands elsewhere."""
        self.touch(node, x)
        self._wires.append(Wire(node, x, self._rows[node], x, y))
        self._led.setdefault((x, y), set()).add(node)

    def foot(self, node: str, x: float, y: float) -> None:
        """A foot of its own for what stands on common."""
        self._bars.append(Bar(node, x, y))
        self._led.setdefault((x, y), set()).add(node)

    # --- parts -----------------------------------------------------------------------------------

    def _item(self, part: str) -> Item:
        return self.items[self.net.name(part)]

    def upright(
        self,
        part: str,
        x: float,
        *,
        nodes: tuple[str, str] | None = None,
        kind: str | None = None,
        y0: float | None = None,
        y1: float | None = None,
        bar: float | None = None,
        at: float | None = None,
        value: str | None = None,
        label: Label = "right",
    ) -> None:
        """A part between two rows, the first of ``nodes`` above.

        ``bar`` is the height of a foot of its own in place of the common row, ``at`` that of its
        body where that is not in the middle.
        """
        top, bottom = nodes or self._ends(part)
        high = self._rows[top] if y0 is None else y0
        low = self._rows[bottom] if y1 is None and bar is None else (bar if bar is not None else y1)
        assert low is not None
        self.touch(top, x, high)
        if bar is None:
            self.touch(bottom, x, low)
        else:
            self.foot(bottom, x, bar)
        names = _ENDS.get(kind or "", ("1", "2"))
        pins = (Pin(names[0], top, x, high), Pin(names[1], bottom, x, low))
        middle = (high + low) / 2 if at is None else at
        self._add(part, kind, pins, (x, middle), value, label, upright=True)

    def along(
        self,
        part: str,
        x: float,
        *,
        nodes: tuple[str, str] | None = None,
        kind: str | None = None,
        y: float | None = None,
        half: float = 3.0,
        value: str | None = None,
        label: Label = "above",
    ) -> None:
        """A part in a row, the first of ``nodes`` to the left."""
        left, right = nodes or self._ends(part)
        height = self._rows[left] if y is None else y
        self.touch(left, x - half, height)
        self.touch(right, x + half, height)
        pins = (Pin("1", left, x - half, height), Pin("2", right, x + half, height))
        self._add(part, kind, pins, (x, height), value, label, upright=False)

    def _ends(self, part: str) -> tuple[str, str]:
        element = self.element(part)
        assert isinstance(element, Resistor | Capacitor | Inductor | VoltageSource | CurrentSource)
        return element.p, element.n

    def _add(
        self,
        part: str,
        kind: str | None,
        pins: tuple[Pin, ...],
        at: tuple[float, float],
        value: str | None,
        label: Label,
        upright: bool,
        words: tuple[str, ...] = (),
        half: tuple[float, float] = (1.5, 0.6),
    ) -> None:
        item = self._item(part)
        element = self._elements.get(item.place)
        if kind is None:
            assert element is not None
            kind = _KINDS[type(element)]
        if value is None:
            value = item.part.value if element is None else self.value_of(element)
        plus = ""
        wanted = self._plus.get(item.place)
        if wanted is not None:
            plus = next(p.name for p in pins if p.node == wanted)
        self._symbols.append(
            Symbol(
                kind,
                pins,
                item.elements,
                item.place,
                *at,
                value,
                "",
                upright,
                label,
                plus,
                words,
                half,
            )
        )

    def several(
        self,
        part: str,
        kind: str,
        at: tuple[float, float],
        pins: tuple[Pin, ...],
        *,
        value: str | None = None,
        label: Label = "right",
        words: tuple[str, ...] = (),
        half: tuple[float, float] = (1.5, 1.5),
    ) -> None:
        """A part of several pins; each pin must lie on its node's row, or be led there."""
        for pin in pins:
            if pin.node in self._led.get((pin.x, pin.y), ()):
                continue
            rows = {y for node, y in self._touched if node == pin.node} | {
                self._rows.get(pin.node, pin.y)
            }
            if pin.y in rows:
                self.touch(pin.node, pin.x, pin.y)
            else:
                self.riser(pin.node, pin.x, pin.y, self._rows[pin.node])
        self._add(part, kind, pins, at, value, label, upright=False, words=words, half=half)

    def transistor(self, part: str, x: float, y: float, label: Label = "right") -> None:
        """Base at (x, y); collector above and emitter below, 3 to the right."""
        element = self.element(part)
        if isinstance(element, Bipolar):
            names = (("B", element.base), ("C", element.collector), ("E", element.emitter))
            kind = "npn" if element.model.polarity > 0 else "pnp"
            value = "NPN" if element.model.polarity > 0 else "PNP"
        else:
            assert isinstance(element, Jfet)
            names = (("G", element.gate), ("D", element.drain), ("S", element.source))
            kind = "n-fet" if element.model.polarity > 0 else "p-fet"
            value = "N-FET" if element.model.polarity > 0 else "P-FET"
        spots = ((x, y), (x + 3, y - 2), (x + 3, y + 2))
        pins = tuple(
            Pin(name, node, *spot) for (name, node), spot in zip(names, spots, strict=True)
        )
        self.several(part, kind, (x + 2, y), pins, value=value, label=label)
        for (name, _), (px, py), dx, dy, align in zip(
            names, spots, (-0.4, 0.5, 0.5), (1.6, 0.9, 0.1), ("right", "left", "left"), strict=True
        ):
            self._texts.append(Text(px + dx, py + dy, name, "pin", align))  # type: ignore[arg-type]

    # --- ends ------------------------------------------------------------------------------------

    def inlet(self, x: float = 0.0) -> None:
        """Terminals at the left, and the rows of their conductors."""
        port, taken = self.before, self.net.inlet
        self.row(port.hot, HOT)
        self._terminal(port.hot, x, HOT, "hot", "left")
        if port.screen is None:
            self._rows.setdefault(port.cold, COMMON)
            self._terminal(port.cold, x, COMMON, "cold", "left")
            return
        if taken.screen is None and port.screen != port.cold:
            # a plug without a cold pin of its own ties the cold leg to the screen
            self._rows.setdefault(port.cold, COMMON)
            self._terminal(port.cold, x, COLD_LEG, "cold", "left")
            self.riser(port.cold, x + 0.7, COLD_LEG, COMMON)
            self.touch(port.cold, x, COLD_LEG)
            self._terminal(port.screen, x, COMMON, "screen", "left")
            self._wires.append(Wire(port.cold, x, COMMON, x + 0.7, COMMON))
            return
        if port.screen != port.cold:
            self._rows.setdefault(port.cold, COLD_LEG)
            self._terminal(port.cold, x, COLD_LEG, "cold", "left")
        self._rows.setdefault(port.screen, COMMON)
        self._terminal(port.screen, x, COMMON, "screen", "left")

    def outlet(self, x: float, hot_y: float = HOT) -> None:
        """Terminals at the right."""
        port = self.net.outlet
        self._rows.setdefault(port.hot, hot_y)
        self._terminal(port.hot, x, hot_y, "hot", "right")
        if port.screen is None:
            self._rows.setdefault(port.cold, COMMON)
            self._terminal(port.cold, x, COMMON, "cold", "right")
            return
        if port.screen != port.cold:
            self._rows.setdefault(port.cold, COLD_LEG)
            self._terminal(port.cold, x, self._rows[port.cold], "cold", "right")
        self._rows.setdefault(port.screen, COMMON)
        self._terminal(port.screen, x, COMMON, "screen", "right")

    def _terminal(self, node: str, x: float, y: float, leg: str, side: str) -> None:
        self._terminals.append(Terminal(node, x, y, leg, side))  # type: ignore[arg-type]
        if self._rows.get(node) == y:
            self.touch(node, x, y)

    def contact(self, node: str, x: float, words: str) -> None:
        """A wire from elsewhere ends here."""
        y = self._rows[node]
        self._terminals.append(Terminal(node, x, y, "feed", "left"))
        self.touch(node, x, y)
        self.note(words, x + 0.8, y - 0.8)

    # --- words -----------------------------------------------------------------------------------

    def volts(self, node: str, x: float, y: float, align: str = "left") -> None:
        """The DC that is predicted there, if there is any to speak of; always in volts."""
        value = self._volts(node)
        if value is not None and abs(value) >= TELLING_V:
            words = f"{value:.2g} V".replace("-", "−")
            self._texts.append(Text(x, y, words, "volts", align))  # type: ignore[arg-type]

    def note(self, words: str, x: float, y: float, align: str = "left") -> None:
        """Words on the sheet."""
        self._texts.append(Text(x, y, words, "note", align))  # type: ignore[arg-type]

    def pin_words(self, words: str, x: float, y: float, align: str = "left") -> None:
        """A number or letter at a pin."""
        self._texts.append(Text(x, y, words, "pin", align))  # type: ignore[arg-type]

    def case(self, x0: float, y0: float, x1: float, y1: float, words: str = "") -> None:
        """A dashed line round what stands in one case."""
        self._cases.append(Case(x0, y0, x1, y1, words))

    # --- the end ---------------------------------------------------------------------------------

    def sheet(self) -> Sheet:
        """The drawing: rows as far as something touches them, dots where three meet."""
        wires = list(self._wires)
        for (node, y), xs in self._touched.items():
            if len(xs) > 1:
                wires.append(Wire(node, min(xs), y, max(xs), y))
        return Sheet(
            tuple(self._symbols),
            tuple(wires),
            tuple(_dots(wires, self._symbols, self._bars)),
            tuple(self._bars),
            tuple(self._terminals),
            tuple(self._texts),
            tuple(self._cases),
        )


# DC below this is not worth a meter
TELLING_V = 0.02


def _dots(wires: list[Wire], symbols: list[Symbol], bars: list[Bar]) -> list[Dot]:
    """Where three or more conductors meet."""
    ends: dict[tuple[float, float], int] = {}
    level: dict[float, list[Wire]] = {}
    plumb: dict[float, list[Wire]] = {}
    for wire in wires:
        (
            level.setdefault(wire.y0, []) if wire.y0 == wire.y1 else plumb.setdefault(wire.x0, [])
        ).append(wire)
    for wire in wires:
        for at in ((wire.x0, wire.y0), (wire.x1, wire.y1)):
            ends[at] = ends.get(at, 0) + 1
    for symbol in symbols:
        for pin in symbol.pins:
            ends[pin.x, pin.y] = ends.get((pin.x, pin.y), 0) + 1
    for bar in bars:
        ends[bar.x, bar.y] = ends.get((bar.x, bar.y), 0) + 1
    found = []
    for (x, y), count in ends.items():
        near = (*level.get(y, ()), *plumb.get(x, ()))
        through = sum(inside(wire, x, y) for wire in near)
        if count + 2 * through >= 3:
            found.append(Dot(x, y))
    return found


def inside(wire: Wire, x: float, y: float) -> bool:
    """Whether a point lies on a wire, but not at its ends."""
    if wire.y0 == wire.y1:
        return y == wire.y0 and min(wire.x0, wire.x1) < x < max(wire.x0, wire.x1)
    return x == wire.x0 and min(wire.y0, wire.y1) < y < max(wire.y0, wire.y1)
