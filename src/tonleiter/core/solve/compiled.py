"""From a variant of a chain to one circuit with a port at each joint."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Literal

from tonleiter.core.circuit.elements import GROUND, Circuit, Element, Spectrum, VoltageSource
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure
from tonleiter.core.gear.net import AIR, TIE_OHM, Chassis, Earthing, Mark, Port, StageNet
from tonleiter.core.gear.signals import SIGNALS, Signal
from tonleiter.core.gear.voice import room_spectrum, speech_pressure_pa
from tonleiter.core.solve.grounds import Grounds, around
from tonleiter.core.solve.splice import Splice, Splicer
from tonleiter.core.station.devices import Device
from tonleiter.core.station.fed import bias_of
from tonleiter.core.station.model import Chain, Operator, Stage, Station, Variant
from tonleiter.core.station.pinout import Side, has_plugs, plug_place

VOICE = "voice"
# the connector that a piece is fed by, or the one that it feeds
Half = Literal["in", "out"]


@dataclass(frozen=True)
class Place:
    """Where a piece stands: its voice and room, and how its box is joined to earth."""

    distance_m: float
    room: Spectrum
    earthing: Earthing | None = None


@dataclass(frozen=True)
class PlacedStage:
    """A piece of gear in the circuit: its ports, the indices of its elements, its marks.

    ``joints`` are those of the connectors before it: the first of its elements.
    """

    id: str
    gear: Gear
    inlet: Port
    outlet: Port
    elements: frozenset[int]
    marks: tuple[Mark, ...]
    place: Place
    joints: tuple[Element, ...] = ()

    def net(self, gear: Gear | None = None) -> StageNet:
        """Its circuit built anew, of ``gear`` in its place if given (same kind, same nodes)."""
        return _built(self.id, gear or self.gear, self.inlet, self.outlet, self.place)

    @property
    def chassis(self) -> str | None:
        """The node of its chassis; None for leads and loose parts."""
        return next((m.node for m in self.marks if isinstance(m, Chassis)), None)


def _built(stage_id: str, gear: Gear, before: Port, outlet: Port, place: Place) -> StageNet:
    """A stage's circuit; a plug without a cold pin of its own ties the cold leg to the screen."""
    inlet = _taken(gear, before)
    net = StageNet(stage_id, inlet, outlet, place.distance_m, place.room, earthing=place.earthing)
    gear.build(net)
    if before.screen is not None and not gear.takes_balanced():
        net.resistor("tie", before.cold, before.screen, TIE_OHM, noisy=False, stray=True)
    return net


def _taken(gear: Gear, before: Port) -> Port:
    return before if gear.takes_balanced() else Port(before.hot, before.cold)


@dataclass
class _Bench:
    """The circuit as it grows: elements, and the chassis of each box that stands in it."""

    station: Station
    elements: list[Element]
    chassis: dict[str, str] = field(default_factory=dict)

    def put(
        self,
        stage: Stage,
        gear: Gear,
        inlet: Port,
        where: Place,
        joints: tuple[Element, ...] = (),
    ) -> PlacedStage:
        """Add a piece behind ``inlet``; ``joints`` are those of the connectors before it."""
        box = self.station.device_by_port.get(gear.id)
        if box is not None:
            where = replace(where, earthing=self._earthing(box, stage, gear))
        outlet = gear.outlet(_taken(gear, inlet))
        net = _built(gear.id, gear, inlet, outlet, where)
        first = len(self.elements)
        self.elements += (*joints, *net.elements)
        indices = frozenset(range(first, len(self.elements)))
        placed = PlacedStage(gear.id, gear, inlet, outlet, indices, tuple(net.marks), where, joints)
        if box is not None and placed.chassis is not None:
            self.chassis.setdefault(box.id, placed.chassis)
        return placed

    def _earthing(self, box: Device, stage: Stage, gear: Gear) -> Earthing:
        # what is set at this stage alone is so in this variant
        set_here = {"supply", "earth_emf_v"} & set(stage.set)
        supply = (gear.own_supply() if set_here else None) or box.supply
        emf = (gear.own_earth_emf() if set_here else None) or box.earth_emf_v
        return Earthing(supply, emf.value, self.chassis.get(box.id))


@dataclass(frozen=True)
class CompiledChain:
    """One circuit for a whole chain. The voice is a source of 1 V at AIR for 1 Pa.

    ``grounds`` is the station's earth network around it, ``beside`` what other chains that stay
    plugged in add.
    """

    chain: Chain
    variant: Variant
    operator: Operator
    circuit: Circuit
    stages: tuple[PlacedStage, ...]
    speech_pa: float
    signal: Signal
    room_dba: float
    acoustic: bool
    mains_hz: float
    grounds: Grounds
    beside: tuple[PlacedStage, ...] = ()
    splices: Mapping[tuple[str, Half], Splice] = field(default_factory=dict)
    contacts: bool = False
    keyed: bool = False

    def again(
        self, station: Station, instead: Mapping[str, Gear], distance_mm: float | None = None
    ) -> CompiledChain:
        """The same with other pieces, or from elsewhere: at its contacts, where it was at them."""
        return compile_chain(
            station,
            self.chain.id,
            self.variant.id,
            instead,
            distance_mm if distance_mm is not None else self.chain.distance_mm.value,
            self.contacts,
            self.keyed,
        )


def compile_chain(
    station: Station,
    chain_id: str | None = None,
    variant_id: str | None = None,
    instead: Mapping[str, Gear] = MappingProxyType({}),
    distance_mm: float | None = None,
    contacts: bool = False,
    keyed: bool = False,
) -> CompiledChain:
    """Compile a variant (by default the one shown). Raises KeyError for ids that do not exist.

    ``instead`` replaces pieces by id, ``distance_mm`` the distance of the voice: what a draw of
    uncertain figures does. ``contacts``: every connector contact by contact, not only those that
    hands changed; ``keyed``: with the transmit switch pressed.
    """
    chain = station.chain(chain_id)
    if distance_mm is not None:
        chain = chain.model_copy(update={"distance_mm": Figure(value=distance_mm)})
    variant = chain.variant(variant_id)
    operator = station.operator(chain.operator)
    acoustic = station.gear_by_id[variant.stages[0].gear].acoustic
    room = room_spectrum(station.room_noise_dba.value) if acoustic else ()
    distance_m = chain.distance_mm.value / 1000
    # a directional microphone hears the room unlike the voice, and brings it in by itself
    apart = station.placed(variant.stages[0]).hears_room_apart()
    elements: list[Element] = [
        VoltageSource(VOICE, AIR, GROUND, ac=1.0, noise=() if apart else room)
    ]
    bench = _Bench(station, elements)
    where = Place(distance_m, room)
    placed: list[PlacedStage] = []
    pieces = [instead.get(s.gear) or station.placed(s) for s in variant.stages]
    given = bias_of(station, pieces[-1])
    pieces = [p.fed_from(given.volts, given.ohm) for p in pieces]
    wires = _Wires(Splicer(station, variant.wiring, contacts, keyed), pieces)
    for stage, gear in zip(variant.stages, pieces, strict=True):
        inlet, joints = wires.into(gear, placed)
        placed.append(bench.put(stage, gear, inlet, where, joints))
    beside = _plugged_beside(bench, chain, placed, where)
    grounds = around(station, bench.chassis)
    elements += grounds.elements
    carries = station.placed(variant.stages[0]).carries()
    signal = SIGNALS[chain.purpose_facts.signal if carries == "by-purpose" else carries]
    return CompiledChain(
        chain=chain,
        variant=variant,
        operator=operator,
        circuit=Circuit(tuple(elements), title=f"{chain.name}, {variant.name}"),
        stages=tuple(placed),
        # a line source reads the voice node as full program, whoever speaks and from where
        speech_pa=_speech_pa(chain, operator, placed[0].gear) if acoustic else 1.0,
        signal=signal,
        acoustic=acoustic,
        mains_hz=float(station.mains_hz),
        grounds=grounds,
        beside=beside,
        splices=wires.splices,
        room_dba=station.room_noise_dba.value,
        contacts=contacts,
        keyed=keyed,
    )


class _Wires:
    """The connectors between the pieces, as the chain grows."""

    def __init__(self, splicer: Splicer, pieces: list[Gear]) -> None:
        self._splicer, self._pieces = splicer, pieces
        self._plug_at = plug_place(pieces)
        self.splices: dict[tuple[str, Half], Splice] = {}

    def into(self, gear: Gear, placed: list[PlacedStage]) -> tuple[Port, tuple[Element, ...]]:
        """The port that the next piece is built behind, and the joints up to there."""
        if not placed:
            return Port(AIR, GROUND), ()
        before = placed[-1]
        inlet, joints = before.outlet, list[Element]()
        if has_plugs(before.gear):
            side: Side = "plug" if len(placed) == 1 else "out"
            made = self._splicer.at_outlet(before.gear, inlet, side)
            if made is not None:
                self.splices[before.id, "out"] = made
                inlet = made.port
                joints += made.elements
        ends = len(placed) == self._plug_at
        if ends or (has_plugs(gear) and len(placed) < self._plug_at):
            box = self._pieces[-1] if ends else gear
            source = self._pieces[0] if ends else None
            # a lead's far end is where a switch in the microphone can borrow its ground
            far = before.inlet.cold if before.gear.lead else inlet.cold
            made = self._splicer.at_inlet(box, gear, inlet, source, far)
            if made is not None:
                self.splices[box.id, "in"] = made
                inlet = made.port
                joints += made.elements
        return inlet, tuple(joints)


def _plugged_beside(
    bench: _Bench, chain: Chain, placed: list[PlacedStage], where: Place
) -> tuple[PlacedStage, ...]:
    """Chains that stay plugged in while this one is in use, as far as their plugs find a place.

    Where one shares its first pieces with this chain, it goes on from the last of those.
    """
    beside: list[PlacedStage] = []
    for other in bench.station.chains:
        if other.id == chain.id or not other.stays_plugged:
            continue
        at = {p.id: p.outlet for p in (*placed, *beside)}
        stages = other.variant().stages
        shared = next((k for k, s in enumerate(stages) if s.gear not in at), len(stages))
        if any(s.gear in at for s in stages[shared:]):
            continue  # a socket takes one plug, and this chain's is in it
        inlet = at[stages[shared - 1].gear] if shared else Port(AIR, GROUND)
        for stage in stages[shared:]:
            first = len(bench.elements)
            beside.append(bench.put(stage, bench.station.placed(stage), inlet, where))
            # nobody speaks into it
            bench.elements[first:] = [_unheard(e) for e in bench.elements[first:]]
            inlet = beside[-1].outlet
    return tuple(beside)


def _unheard(element: Element) -> Element:
    """An element that the voice does not reach."""
    deaf = {f: GROUND for f in element.__dataclass_fields__ if getattr(element, f) == AIR}
    return replace(element, **deaf) if deaf else element  # type: ignore[arg-type]


def _speech_pa(chain: Chain, operator: Operator, microphone: Gear) -> float:
    """Sound pressure that counts at the diaphragm; figures are for speaking across it."""
    into = microphone.into_it_db() if chain.speaks == "into-it" else 0.0
    return speech_pressure_pa(chain.distance_mm.value, operator.effort) * 10 ** (into / 20)
