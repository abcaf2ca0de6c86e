"""The transmit line on the bench: its switch pressed and let go, or what a serial port drives.

A switch and a relay's contact are rung out at the plug; a transistor or an opto-coupler is given
what the radio's line gives, its volts behind its ohms, and shows what is left of them.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.circuit.ac import Floats
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import (
    GROUND,
    Circuit,
    Element,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.instance import instantiate, nodes_of
from tonleiter.core.circuit.system import System
from tonleiter.core.station.contacts import At
from tonleiter.core.wiring import keyed
from tonleiter.core.wiring.model import Build

# a switch that is open; what is no contact that has welded
OPEN_OHM, OPEN_FROM_OHM = 1e10, 20e6
SWITCH_CONTACT, KEYER = "switch:contact", f"{keyed.KEYER}:"
PORT_GROUND = "port-ground"
# a serial port: what stands behind its lines; a relay has pulled in from so much of its volts
PORT_OHM, PULLS_IN = 300.0, 0.6
PULL_OHM = 1e10
Works = Literal["switch", "relay", "line"]
WAYS_OF: Mapping[str, Works] = {"serial-transistor": "line", "serial-opto": "line"}


@dataclass(frozen=True)
class Transmit:
    """Where the line is measured, what closes it, and what its elements are.

    ``contacts`` and ``nodes`` are those of the transmit line and of its ground; ``elements`` what
    is soldered besides the build; ``line_v`` and ``line_ohm`` what the radio gives; ``port_v`` what
    a port swings to.
    """

    contacts: tuple[At, At]
    nodes: tuple[str, str]
    works: Works
    elements: tuple[Element, ...]
    latches: bool
    line_v: float
    line_ohm: float
    port_v: float
    port_ground: str
    names: tuple[str, str]

    @property
    def unit(self) -> str:
        """What is read there: ohms at a contact, volts over a transistor."""
        return "V" if self.works == "line" else "Ω"

    @property
    def powered(self) -> bool:
        """Whether it takes power to be measured."""
        return self.works != "switch"

    def port(self, pressed: bool) -> list[Element]:
        """A serial port's control line, which swings both ways."""
        volts = self.port_v if pressed else -self.port_v
        return [
            VoltageSource("bench:port", "bench:port", self.port_ground, dc=volts),
            Resistor("bench:port_r", "bench:port", "port-line", PORT_OHM, noisy=False),
        ]


def transmit_of(
    build: Build, soldered: Sequence[Element], pins: Mapping[At, str], borrowed: At | None
) -> Transmit | None:
    """How the transmit line of a build is keyed; None where nothing of it is wired.

    ``soldered`` are the part's elements with the joints of its plugs, ``pins`` the nodes of their
    contacts; ``borrowed`` is the contact of the radio's plug whose ground the switch shares where
    it has no wire of its own.
    """
    keying = build.keying
    if keying is None or not keying.wired:
        return None
    ends = {c.leg: c.end for c in build.conductors if c.leg in keyed.LEGS and c.end is not None}
    if set(keyed.LEGS) - ends.keys():
        return None
    line, ground = (ends[leg] for leg in keyed.LEGS)
    made: list[Element] = []
    wires = []
    for ref, leg in zip((line, ground), keyed.LEGS, strict=True):
        joint = next((e for e in soldered if e.name == f"joint:{ref}:{leg}"), None)
        if isinstance(joint, Resistor):
            wires.append(joint.n)
            continue
        # a ground that is borrowed, or a plug of its own
        wires.append(f"switch:{leg}")
        node = pins.get(ref) or _inside(build, ref, soldered) or f"pin:{ref}"
        made.append(Resistor(f"joint:{ref}:{leg}", node, wires[-1], 2e-3, noisy=False))
    works: Works = "switch"
    port_ground = PORT_GROUND
    keyer = build.keyer_net
    if keyer is None:
        made.append(Resistor(SWITCH_CONTACT, wires[0], wires[1], OPEN_OHM, noisy=False))
    else:
        works = WAYS_OF.get(keying.way, "relay")
        ports = {keyer.outlet.hot: wires[0], keyer.outlet.chassis: wires[1]}
        port_ground = ports.get(PORT_GROUND, PORT_GROUND)
        made += instantiate(keyer.elements, ports, lambda name: name)
    if borrowed is not None:
        # it is soldered at the far end, and measured at the plug
        ground = borrowed
    amps = max(abs(keying.line_a), 1e-6)
    names = {e.id: e.name for e in build.ends}
    if build.key_end is not None:
        names[build.key_end.id] = build.key_end.name
    return Transmit(
        contacts=(line, ground),
        nodes=(pins.get(line, f"pin:{line}"), pins.get(ground, f"pin:{ground}")),
        works=works,
        elements=tuple(made),
        latches=keying.latches,
        line_v=keying.line_v,
        line_ohm=abs(keying.line_v) / amps,
        port_v=build.wiring.serial_v.value,
        port_ground=port_ground,
        names=(names.get(line.thing, line.thing), names.get(ground.thing, ground.thing)),
    )


def _inside(build: Build, pin: At, soldered: Sequence[Element]) -> str | None:
    """The node of a part's pin in the box: any that is on its net."""
    net = build.net_of(pin)
    nodes = (n for e in soldered for n in nodes_of(e))
    return next((n for n in nodes if net is not None and build.net_at.get(n) == net.name), None)


def closes(
    line: Transmit, elements: Sequence[Element], pressed: bool, op: OperatingPoint | None
) -> tuple[str, str] | None:
    """Between which nodes a contact closes; None where none does, or the one there is stays.

    A relay's closes if its coil gets enough of the rail's volts; ``op`` is what drives it.
    """
    name = SWITCH_CONTACT if line.works == "switch" else f"{KEYER}contact"
    contact = next((e for e in elements if e.name == name), None)
    if not isinstance(contact, Resistor) or contact.ohm < OPEN_FROM_OHM:
        return None
    pulled = pressed if line.works == "switch" else op is not None and _pulls(elements, op)
    return (contact.p, contact.n) if pulled else None


def _pulls(elements: Sequence[Element], op: OperatingPoint) -> bool:
    coil = next((e for e in elements if e.name == f"{KEYER}coil"), None)
    rail = next(
        (e.dc for e in elements if e.name.startswith(KEYER) and isinstance(e, VoltageSource)), 0.0
    )
    return isinstance(coil, Resistor) and abs(op.volts(coil.p, coil.n)) > PULLS_IN * abs(rail)


def driven(
    line: Transmit,
    elements: Iterable[Element],
    pressed: bool,
    near: Mapping[str, Floats] | None = None,
) -> OperatingPoint:
    """What a port drives, on what the radio gives. Raises CircuitError for no solution.

    ``near`` has junction volts of a similar one, from which the search begins.
    """
    bench = [
        *line.port(pressed),
        VoltageSource("bench:line", "bench:line", line.nodes[1], dc=line.line_v),
        Resistor("bench:line_r", "bench:line", line.nodes[0], line.line_ohm, noisy=False),
    ]
    return solve_dc(_system(line, [*(e for e in elements if _is_near(e)), *bench]), near)


def _is_near(element: Element) -> bool:
    """What can stand between the contacts: wires, solder, and what the port drives."""
    return isinstance(element, Resistor) or element.name.startswith(KEYER)


def _system(line: Transmit, elements: Sequence[Element]) -> System:
    """Every node has a potential; the ground of the line is the bench's."""
    nodes = dict.fromkeys(n for e in elements for n in nodes_of(e) if n != GROUND)
    damp = [Resistor(f"damp {n}", n, GROUND, PULL_OHM, noisy=False) for n in nodes]
    tie: list[Element] = []
    if line.nodes[1] != GROUND:
        tie = [Resistor("bench:tie", line.nodes[1], GROUND, 1e-3, noisy=False)]
    return System(Circuit((*elements, *damp, *tie)))
