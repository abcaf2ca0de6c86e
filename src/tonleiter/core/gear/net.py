"""What a piece of gear builds its circuit into, and the marks it leaves for the findings."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal

from tonleiter.core.circuit.elements import (
    GROUND,
    Capacitor,
    CurrentSource,
    Element,
    Inductor,
    Resistor,
    Spectrum,
    Vccs,
    VoltageSource,
)
from tonleiter.core.gear.parts import BATTERY, Part, Whole, battery

ROOM = "voice:room"  # noise source of the room where a microphone hears it unlike the voice
AIR = "air"  # the node whose volts stand for the sound pressure in pascals at the microphone


@dataclass(frozen=True)
class Port:
    """The conductors of a joint: the signal, what it is measured against, and the screen.

    A joint without a screen of its own (None) is unbalanced: its cold conductor is the screen.
    """

    hot: str
    cold: str
    screen: str | None = None

    @property
    def chassis(self) -> str:
        """The conductor that joins the boxes."""
        return self.cold if self.screen is None else self.screen

    @property
    def balanced(self) -> bool:
        """Whether the cold conductor is a leg of its own."""
        return self.screen is not None and self.screen != self.cold


@dataclass(frozen=True)
class Winding:
    """A coil or winding that must carry no DC, by the name of its element."""

    element: str
    what: str
    tolerates_a: float


@dataclass(frozen=True)
class BiasRail:
    """A DC supply meant for a microphone: its source, its feed resistor, its open volts."""

    source: str
    resistor: str
    open_v: float


Supply = Literal["safety-earth", "double-insulated", "battery", "usb-computer", "lead"]
# from here on a capacitor of a usual size is an electrolytic
ELECTROLYTIC_FROM_F = 2.2e-6
PlusSide = Literal["inside", "outside"]
Dc = Literal["bias", "phantom", "current"]


@dataclass(frozen=True)
class DcNeeds:
    """The DC that a source lives on: which kind, and between what bounds at its element.

    ``draws_a`` is what it takes by itself; ``rest_ohm`` its resistance, where it is one.
    """

    dc: Dc
    needs_v: float
    bears_v: float = math.inf
    draws_a: float = 0.0
    needs_a: float = 0.0
    bears_a: float = math.inf
    rest_ohm: float = 0.0


@dataclass(frozen=True)
class Capsule:
    """An element that needs DC: its terminals, its device, and what it needs."""

    p: str
    n: str
    device: str
    needs: DcNeeds

    @property
    def needs_v(self) -> float:
        """Least volts over it."""
        return self.needs.needs_v


@dataclass(frozen=True)
class Diaphragm:
    """Where sound arrives in a case: the node of its pressure inside, and of that outside."""

    inside: str
    outside: str


@dataclass(frozen=True)
class Polarised:
    """An electrolytic capacitor: ``p`` is its plus side, which the gear's ``field`` chooses.

    An empty field stands for a side that the circuit itself settles.
    """

    element: str
    p: str
    n: str
    field: str = "plus_side"


@dataclass(frozen=True)
class Ripple:
    """Hum that a box makes by itself: volts RMS of rectified mains, in series with a resistance."""

    p: str
    n: str
    ohm: float
    volts: float


@dataclass(frozen=True)
class SeriesFeed:
    """Direct current that a stage draws through what follows it, in amperes."""

    amps: float


@dataclass(frozen=True)
class OwnSupply:
    """A battery of the stage itself, by the name of its source, with its volts."""

    source: str
    volts: float


@dataclass(frozen=True)
class Track:
    """A volume control at a stage's output: the stage's own resistor, both parts of the track."""

    own_ohm: float
    upper_ohm: float
    lower_ohm: float

    def works_into(self, z_load_ohm: float) -> float:
        """Ohms that the stage's current meets, with a load on the wiper."""
        down = self.upper_ohm + self._on_wiper(z_load_ohm)
        return self.own_ohm * down / (self.own_ohm + down)

    def share(self, z_load_ohm: float) -> float:
        """What of the swing arrives at the wiper, 0 to 1."""
        wiper = self._on_wiper(z_load_ohm)
        return wiper / (self.upper_ohm + wiper)

    def _on_wiper(self, z_load_ohm: float) -> float:
        if math.isinf(z_load_ohm):
            return self.lower_ohm
        return self.lower_ohm * z_load_ohm / (self.lower_ohm + z_load_ohm)


@dataclass(frozen=True)
class OutputDevice:
    """The transistor that swings a stage's output: terminals and the volts it keeps to itself.

    ``behind`` is the control between it and the joint, where there is one: its current works into
    that and what hangs on the wiper, not into the joint's impedance.
    """

    device: str
    out: str
    foot: str
    keeps_v: float
    behind: Track | None = None


@dataclass(frozen=True)
class EarthPath:
    """How a chassis is joined to earth: an admittance with an EMF in it.

    ``ohm`` for a safety earth (None otherwise), ``farad`` for the leakage of a double-insulated
    supply. ``mains_v`` and ``comb_v`` are the EMFs at the mains frequency and at 1 kHz (USB).
    """

    chassis: str
    ohm: float | None
    farad: float
    mains_v: float
    comb_v: float = 0.0


@dataclass(frozen=True)
class Chassis:
    """The node of a box's chassis."""

    node: str


@dataclass(frozen=True)
class Between:
    """A node in the middle of a conductor that joins chassis, such as a choke's cold wire."""

    node: str


@dataclass(frozen=True)
class BridgeLeg:
    """A leg of a bridged output, by its resistor: DC through it means that it is grounded."""

    element: str
    tolerates_a: float


@dataclass(frozen=True)
class Pickup:
    """A lead in a mains field: volts per hertz of frequency, in series with a resistance."""

    p: str
    n: str
    ohm: float
    volts_per_hz: float


Mark = (
    Diaphragm
    | Pickup
    | BridgeLeg
    | Winding
    | BiasRail
    | Capsule
    | Polarised
    | OutputDevice
    | OwnSupply
    | SeriesFeed
    | Ripple
    | EarthPath
    | Chassis
    | Between
)


@dataclass(frozen=True)
class Earthing:
    """How a box is joined to earth: its supply, and the EMF in its safety earth.

    ``bonded_to`` is the chassis node of a box that stands in the circuit already: another of its
    sockets is then only joined to that.
    """

    supply: Supply
    earth_emf_v: float = 0.0
    bonded_to: str | None = None


@dataclass
class StageNet:
    """Collects one stage's elements; names and inner nodes carry the stage's id.

    ``heard`` is the node of the pressure at the diaphragm; ``unseen`` names elements that are no
    parts on a schematic (air, filters inside a box); ``wholes`` say which are got as one part.
    ``earthing`` is the box's, where the station says it; else the piece's own figures count.
    """

    stage_id: str
    inlet: Port
    outlet: Port
    distance_m: float = 0.05
    room: Spectrum = ()
    heard: str = AIR
    earthing: Earthing | None = None
    unseen: set[str] = field(default_factory=set)
    wholes: list[Whole] = field(default_factory=list)
    elements: list[Element] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)

    def common(self, role: str) -> str:
        """The node that feet and supplies of a piece in that role stand on."""
        return (self.outlet if role == "microphone" else self.inlet).chassis

    def name(self, part: str) -> str:
        """Name of an element or inner node of this stage."""
        return f"{self.stage_id}:{part}"

    def add(self, *elements: Element) -> None:
        """Take over elements."""
        self.elements += elements

    def hide_since(self, count: int) -> None:
        """Keep elements from number ``count`` on out of schematics."""
        self.unseen |= {e.name for e in self.elements[count:]}

    def mark(self, *marks: Mark) -> None:
        """Leave marks for the findings."""
        self.marks += marks

    def add_stray(self, element: Element) -> None:
        """Take over an element that stands for an effect, and is no part on a schematic."""
        self.add(element)
        self.unseen.add(element.name)

    def resistor(
        self, part: str, p: str, n: str, ohm: float, noisy: bool = True, stray: bool = False
    ) -> str:
        """Add a resistor and return its element name; a stray one is no part on a schematic."""
        made = Resistor(self.name(part), p, n, ohm, noisy)
        (self.add_stray if stray else self.add)(made)
        return made.name

    def capacitor(self, part: str, p: str, n: str, farad: float, stray: bool = False) -> str:
        """Add a capacitor and return its element name; a stray one is no part on a schematic."""
        made = Capacitor(self.name(part), p, n, farad)
        (self.add_stray if stray else self.add)(made)
        return made.name

    def coupling(self, part: str, inside: str, outside: str, farad: float, plus: PlusSide) -> None:
        """Add an electrolytic at an output, its plus side where ``plus`` says."""
        element = self.capacitor(part, inside, outside, farad)
        ends = (inside, outside) if plus == "inside" else (outside, inside)
        self.mark(Polarised(element, *ends, "output_plus"))

    def at_base(self, part: str, outside: str, inside: str, farad: float) -> None:
        """Add an input capacitor; one so large that it is an electrolytic has its plus inside."""
        element = self.capacitor(part, outside, inside, farad)
        if farad >= ELECTROLYTIC_FROM_F:
            self.mark(Polarised(element, inside, outside, ""))

    def to_common(self, part: str, above: str, common: str, farad: float) -> None:
        """Add a capacitor from a node that stands above common; a large one has its plus there."""
        element = self.capacitor(part, above, common, farad)
        if farad >= ELECTROLYTIC_FROM_F:
            self.mark(Polarised(element, above, common, ""))

    def whole(self, place: str, letter: str, part: Part, *elements: str) -> None:
        """Say that elements (by the names that the stage gave them) are got as one part."""
        names = frozenset(self.name(e) for e in elements)
        self.wholes.append(Whole(self.name(place), letter, part, names))

    def battery(
        self, p: str, n: str, volts: float, part: str = "battery", noise: Spectrum = ()
    ) -> None:
        """Add a supply of the stage's own, whose current counts, behind its inside resistance."""
        inside = self.name(f"{part}_cell")
        self.add(VoltageSource(self.name(part), inside, n, dc=volts, noise=noise))
        self.resistor(f"{part}_inside", inside, p, inside_ohm(volts), noisy=False)
        self.whole("battery", BATTERY, battery(volts), part, f"{part}_inside")
        self.mark(OwnSupply(self.name(part), volts))

    def inductor(self, part: str, p: str, n: str, henry: float) -> str:
        """Add an inductor and return its element name."""
        self.add(Inductor(self.name(part), p, n, henry))
        return self.name(part)

    def transconductor(
        self, part: str, out: tuple[str, str], control: tuple[str, str], siemens: float
    ) -> None:
        """Drive ``siemens`` times the control voltage INTO ``out[0]``, back through ``out[1]``."""
        self.add(Vccs(self.name(part), out[1], out[0], *control, siemens))

    def noise_current(self, part: str, p: str, n: str, spectrum: Spectrum) -> None:
        """Add a noise current between two nodes."""
        self.add_stray(CurrentSource(self.name(part), p, n, noise=spectrum))


# the resistance inside a fresh block of six small cells, and of a single larger one; typical of
# alkaline ones at room temperature
BLOCK_FROM_V, BLOCK_OHM, CELL_OHM, CELL_V = 6.5, 2.0, 0.2, 1.5


def inside_ohm(volts: float) -> float:
    """What a fresh battery of so many volts has inside."""
    return BLOCK_OHM if abs(volts) >= BLOCK_FROM_V else CELL_OHM * max(abs(volts) / CELL_V, 1.0)


# what joins a cold leg to the screen in an unbalanced plug
TIE_OHM = 2e-3

# A shell in the hand or on a desk is joined to the world by its stray capacitance and by damp:
# without it a microphone behind an isolating transformer would have no potential at all.
STRAY_F = 100e-12
STRAY_OHM = 1e10


def bonded(net: StageNet, node: str) -> bool:
    """Mark a chassis; join it to that of its box where another socket brought that already."""
    net.mark(Chassis(node))
    at = None if net.earthing is None else net.earthing.bonded_to
    if at is None:
        return False
    if at != node:
        net.resistor("bond", node, at, TIE_OHM, noisy=False, stray=True)
    return True


def stray(net: StageNet, node: str) -> None:
    """Join an otherwise unearthed shell to the room."""
    if bonded(net, node):
        return
    net.resistor("stray", node, GROUND, STRAY_OHM, noisy=False, stray=True)
    net.capacitor("stray_c", node, GROUND, STRAY_F, stray=True)
