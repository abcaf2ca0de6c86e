"""What a drawing is made of. Coordinates are in grid units, x to the right, y downwards.

A drawing is also a circuit: symbols touch wires at their pins, wires touch each other where an end
lies on another; ``traced.py`` reads it back.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

Label = Literal["right", "left", "above", "below", "inside", "none"]


@dataclass(frozen=True)
class Pin:
    """An end of a symbol, with the node of the circuit that it stands on."""

    name: str
    node: str
    x: float
    y: float


@dataclass(frozen=True)
class Symbol:
    """A part: what it looks like, where its pins are, what of the circuit it stands for.

    ``place`` is that of its line in the parts list, ``plus`` the pin of a polarised one's plus
    side. ``x`` and ``y`` are the middle of its body.
    """

    kind: str
    pins: tuple[Pin, ...]
    elements: frozenset[str]
    place: str
    x: float
    y: float
    value: str = ""
    ref: str = ""
    upright: bool = False
    label: Label = "right"
    plus: str = ""
    words: tuple[str, ...] = ()
    half: tuple[float, float] = (1.5, 0.6)

    def pin(self, name: str) -> Pin:
        """A pin by its name. Raises KeyError."""
        for pin in self.pins:
            if pin.name == name:
                return pin
        raise KeyError(name)


@dataclass(frozen=True)
class Wire:
    """A straight conductor."""

    node: str
    x0: float
    y0: float
    x1: float
    y1: float


@dataclass(frozen=True)
class Dot:
    """Wires that meet here are joined."""

    x: float
    y: float


@dataclass(frozen=True)
class Bar:
    """A foot on common, drawn where the line itself would be in the way."""

    node: str
    x: float
    y: float


@dataclass(frozen=True)
class Terminal:
    """Where a connector joins a stage to the next one; ``side`` is where its words stand."""

    node: str
    x: float
    y: float
    leg: Literal["hot", "cold", "screen", "feed"]
    side: Literal["left", "right"]


@dataclass(frozen=True)
class Text:
    """Words: DC volts, names of a transistor's legs, notes. ``x`` and ``y`` are their corner."""

    x: float
    y: float
    words: str
    role: Literal["volts", "pin", "note", "rail"]
    align: Literal["left", "right", "middle"] = "left"


@dataclass(frozen=True)
class Case:
    """A dashed line round what stands in one case."""

    x0: float
    y0: float
    x1: float
    y1: float
    words: str = ""


@dataclass(frozen=True)
class Box:
    """What a drawing takes up."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def width(self) -> float:
        """In grid units."""
        return self.x1 - self.x0

    @property
    def height(self) -> float:
        """In grid units."""
        return self.y1 - self.y0


@dataclass(frozen=True)
class Sheet:
    """A whole drawing."""

    symbols: tuple[Symbol, ...] = ()
    wires: tuple[Wire, ...] = ()
    dots: tuple[Dot, ...] = ()
    bars: tuple[Bar, ...] = ()
    terminals: tuple[Terminal, ...] = ()
    texts: tuple[Text, ...] = ()
    cases: tuple[Case, ...] = ()

    def box(self) -> Box:
        """What it takes up, with room for labels."""
        xs, ys = [0.0], [0.0]
        for s in self.symbols:
            xs += [p.x for p in s.pins] + [s.x - s.half[0], s.x + s.half[0]]
            ys += [p.y for p in s.pins] + [s.y - s.half[1], s.y + s.half[1]]
            if s.label == "right":
                xs.append(s.x + s.half[1] + 5)
            if s.label == "left":
                xs.append(s.x - s.half[1] - 4)
            if s.label == "above":
                ys.append(s.y - s.half[1] - 3.2)
            if s.label == "below":
                ys.append(s.y + 3.4)
        for w in self.wires:
            xs += [w.x0, w.x1]
            ys += [w.y0, w.y1]
        for c in self.cases:
            xs += [c.x0, c.x1]
            ys += [c.y0, c.y1]
        xs += [b.x for b in self.bars] + [t.x for t in self.terminals]
        ys += [b.y for b in self.bars] + [t.y for t in self.terminals]
        ys += [t.y - 1.5 for t in self.texts]
        for text in self.texts:
            # a letter is some three quarters of a unit wide
            wide = 0.8 * len(text.words)
            left = {"left": 0.0, "middle": wide / 2, "right": wide}[text.align]
            xs += [text.x - left, text.x - left + wide]
        return Box(min(xs) - 1, min(ys) - 1, max(xs) + 1, max(ys) + 1.2)

    def moved(self, dx: float, dy: float) -> Sheet:
        """The same elsewhere."""
        return Sheet(
            tuple(
                replace(
                    s,
                    x=s.x + dx,
                    y=s.y + dy,
                    pins=tuple(replace(p, x=p.x + dx, y=p.y + dy) for p in s.pins),
                )
                for s in self.symbols
            ),
            tuple(Wire(w.node, w.x0 + dx, w.y0 + dy, w.x1 + dx, w.y1 + dy) for w in self.wires),
            tuple(Dot(d.x + dx, d.y + dy) for d in self.dots),
            tuple(Bar(b.node, b.x + dx, b.y + dy) for b in self.bars),
            tuple(replace(t, x=t.x + dx, y=t.y + dy) for t in self.terminals),
            tuple(replace(t, x=t.x + dx, y=t.y + dy) for t in self.texts),
            tuple(
                replace(c, x0=c.x0 + dx, y0=c.y0 + dy, x1=c.x1 + dx, y1=c.y1 + dy)
                for c in self.cases
            ),
        )

    def joined(self, other: Sheet) -> Sheet:
        """Both on one sheet."""
        return Sheet(
            self.symbols + other.symbols,
            self.wires + other.wires,
            self.dots + other.dots,
            self.bars + other.bars,
            self.terminals + other.terminals,
            self.texts + other.texts,
            self.cases + other.cases,
        )

    def named(self, refs: dict[str, str]) -> Sheet:
        """With the names of its parts."""
        return replace(
            self, symbols=tuple(replace(s, ref=refs.get(s.place, "")) for s in self.symbols)
        )

    def spoken(self) -> str:
        """Its parts in words, for who does not see it."""
        said = [
            " ".join(w for w in (s.ref, s.kind.replace("-", " "), s.value, *s.words) if w)
            for s in self.symbols
        ]
        return "; ".join(said)
