"""A build as values: nets, wires, contacts that nothing uses, parts, and what hands decided.

Nets are the nodes of the very circuit that was solved; the conductors of a lead, the joints in its
plugs and the tie in one are one net, since they are one piece of metal to a builder.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from tonleiter.core.circuit.elements import Element
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import StageNet
from tonleiter.core.gear.parts import Part
from tonleiter.core.gear.shopping import Item
from tonleiter.core.solve.compiled import CompiledChain, Half, PlacedStage
from tonleiter.core.solve.splice import Splice
from tonleiter.core.station.contacts import At
from tonleiter.core.station.devices import Role
from tonleiter.core.station.pinout import End
from tonleiter.core.station.wiring import Wiring
from tonleiter.core.wiring.keying import Keying

# a conductor's colour says its leg, as a word too
COLOURS = {
    "hot": "white",
    "cold": "yellow",
    "screen": "bare braid",
    "transmit": "red",
    "bias": "orange",
    "transmit-ground": "black",
}
LEG_WORDS = {"transmit-ground": "transmit ground"}
SWITCH = "switch"


@dataclass(frozen=True)
class Net:
    """Contacts and pins that are one conductor; DC in volts, speech in dBu on a hot one."""

    name: str
    contacts: tuple[At, ...]
    dc_v: float
    speech_dbu: float | None
    node: str = ""
    keys: bool = False
    """Whether it is the transmit line or its ground."""


@dataclass(frozen=True)
class Conductor:
    """A wire from contact to contact; an end that is None is cut back and ends in air.

    ``key`` is what the station calls it, ``leg`` what it carries; a link inside a plug or a piece
    has none of its own. ``span`` is the part of the chain in which it lies, ``inside`` whether it
    runs between pins of one piece, ``near`` and ``far`` whether it belongs to the left or the right
    plug of its part.
    """

    start: At | None
    end: At | None
    net: str
    colour: str
    length_m: float | None
    key: str = ""
    leg: str = ""
    span: int = 0
    inside: bool = False
    near: bool = False
    far: bool = False

    @property
    def ends(self) -> tuple[At, ...]:
        """Where it is soldered: the start first; once where both ends are one contact."""
        return tuple(dict.fromkeys(at for at in (self.start, self.end) if at is not None))

    @property
    def of_switch(self) -> bool:
        """Whether it is a wire of the transmit switch."""
        return self.key.startswith(f"{SWITCH}:")

    def label_at(self, thing: str) -> str | None:
        """The contact that it is soldered to at a connector; None where it does not end there."""
        return next((at.label for at in reversed(self.ends) if at.thing == thing), None)


@dataclass(frozen=True)
class Leftover:
    """A contact of an entered connector that nothing uses, and what to do with it."""

    contact: At
    role: Role
    do: str
    insulated: bool = False


@dataclass(frozen=True)
class Span:
    """What is wired between two boxes: their connectors, and their places in the chain.

    ``plug_at`` is the place of what stands first behind the right connector: a piece that was built
    into the box, or the box itself.
    """

    left: End
    right: End
    first: int
    last: int
    plug_at: int

    def between(self, stages: Sequence[PlacedStage]) -> tuple[PlacedStage, ...]:
        """Of the chain's stages those between the two connectors."""
        return tuple(stages[self.first + 1 : self.plug_at])

    def own_elements(self, compiled: CompiledChain) -> list[Element]:
        """Elements of the circuit that are the pieces' between the connectors, not their joints."""
        inside = self.between(compiled.stages)
        own = {s.id for s in inside}
        elements = compiled.circuit.elements
        return [
            elements[k]
            for s in inside
            for k in sorted(s.elements)
            if elements[k].name.partition(":")[0] in own
        ]


@dataclass(frozen=True)
class Build:
    """Everything to solder for a chain, and what stays free."""

    ends: tuple[End, ...]
    nets: tuple[Net, ...]
    conductors: tuple[Conductor, ...]
    parts: tuple[Part, ...]
    leftovers: tuple[Leftover, ...]
    unknown: tuple[str, ...] = ()
    spans: tuple[Span, ...] = ()
    wiring: Wiring = field(default_factory=Wiring)
    keying: Keying | None = None
    keyer: Sheet = field(default_factory=Sheet)
    """The drawing of what a serial port drives."""
    keyer_net: StageNet | None = None
    """Its circuit."""
    key_end: End | None = None
    """The connector with the transmit contact; None where nobody knows one."""
    splices: Mapping[tuple[str, Half], Splice] = field(default_factory=dict)
    refs: Mapping[str, str] = field(default_factory=dict)
    items: tuple[Item, ...] = ()
    stale: tuple[str, ...] = ()
    cores: Mapping[str, int] = field(default_factory=dict)
    """How many cores each lead must have, by its piece."""
    net_at: Mapping[str, str] = field(default_factory=dict)
    """The net of each node of the circuit that is one."""

    def wires_in(self, span: int) -> tuple[Conductor, ...]:
        """The conductors of one part of the chain."""
        return tuple(c for c in self.conductors if c.span == span)

    def has_parts_in(self, span: int) -> bool:
        """Whether anything is soldered between the plugs of one part."""
        return any(self._is_pin(c) for c in self.wires_in(span))

    def _is_pin(self, wire: Conductor) -> bool:
        """Whether an end of a wire is a pin of a part."""
        named = set(self.refs.values())
        return any(x.thing in named for x in wire.ends)

    def joints_in(self, span: int) -> int:
        """How many joints are to be soldered in one part."""
        return len({x for c in self.wires_in(span) for x in c.ends})

    @property
    def joints(self) -> int:
        """How many joints are to be soldered."""
        return len({x for c in self.conductors for x in c.ends})

    def net_of(self, contact: str) -> Net | None:
        """The net of a contact or pin."""
        return next((n for n in self.nets if contact in n.contacts), None)

    def lettered(self, letter: str) -> frozenset[str]:
        """Names of the parts of one letter: all resistors, all transformers."""
        return frozenset(
            self.refs[i.place] for i in self.items if i.letter == letter and i.place in self.refs
        )

    def end_of(self, contact: At) -> End | None:
        """The connector that a contact is of; None for a pin of a part."""
        return next((e for e in self.ends if e.id == contact.thing), None)


def is_soldered(gear: Gear) -> bool:
    """Whether a piece is made of parts that stand in the build, and is no box with sockets."""
    return not gear.bought_whole and gear.role == "between"


def is_new(gear: Gear) -> bool:
    """Whether a piece is still to be made: what sits in a radio as its maker built it is not."""
    return not gear.cut_into_radio or bool(gear.remarks())
