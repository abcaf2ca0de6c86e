"""From a variant of a chain to one circuit with a port at each joint."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from tonleiter.core.circuit.elements import GROUND, Circuit, Element, Spectrum, VoltageSource
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure
from tonleiter.core.gear.net import AIR, TIE_OHM, Mark, Port, StageNet
from tonleiter.core.gear.signals import SIGNALS, Signal
from tonleiter.core.gear.voice import room_spectrum, speech_pressure_pa
from tonleiter.core.station.model import Chain, Operator, Station, Variant

VOICE = "voice"


@dataclass(frozen=True)
class PlacedStage:
    """A piece of gear in the circuit: its ports, the indices of its elements, its marks."""

    id: str
    gear: Gear
    inlet: Port
    outlet: Port
    elements: frozenset[int]
    marks: tuple[Mark, ...]
    distance_m: float
    room: Spectrum

    def net(self, gear: Gear | None = None) -> StageNet:
        """Its circuit built anew, of ``gear`` in its place if given (same kind, same nodes)."""
        return _built(
            self.id, gear or self.gear, self.inlet, self.outlet, self.distance_m, self.room
        )


def _built(
    stage_id: str, gear: Gear, before: Port, outlet: Port, distance_m: float, room: Spectrum
) -> StageNet:
    """A stage's circuit; a plug without a cold pin of its own ties the cold leg to the screen."""
    net = StageNet(stage_id, _taken(gear, before), outlet, distance_m, room)
    gear.build(net)
    if before.screen is not None and not gear.takes_balanced():
        net.resistor("tie", before.cold, before.screen, TIE_OHM, noisy=False, stray=True)
    return net


def _taken(gear: Gear, before: Port) -> Port:
    return before if gear.takes_balanced() else Port(before.hot, before.cold)


@dataclass(frozen=True)
class CompiledChain:
    """One circuit for a whole chain. The voice is a source of 1 V at AIR for 1 Pa."""

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


def compile_chain(
    station: Station,
    chain_id: str | None = None,
    variant_id: str | None = None,
    instead: Mapping[str, Gear] = MappingProxyType({}),
    distance_mm: float | None = None,
) -> CompiledChain:
    """Compile a variant (by default the one shown). Raises KeyError for ids that do not exist.

    ``instead`` replaces pieces by id, ``distance_mm`` the distance of the voice: what a draw of
    uncertain figures does.
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
    placed: list[PlacedStage] = []
    inlet = Port(AIR, GROUND)
    for stage in variant.stages:
        gear = instead.get(stage.gear) or station.placed(stage)
        outlet = gear.outlet(_taken(gear, inlet))
        net = _built(gear.id, gear, inlet, outlet, distance_m, room)
        first = len(elements)
        elements += net.elements
        indices = frozenset(range(first, len(elements)))
        placed.append(
            PlacedStage(gear.id, gear, inlet, outlet, indices, tuple(net.marks), distance_m, room)
        )
        inlet = outlet
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
        room_dba=station.room_noise_dba.value,
    )


def _speech_pa(chain: Chain, operator: Operator, microphone: Gear) -> float:
    """Sound pressure that counts at the diaphragm; figures are for speaking across it."""
    into = microphone.into_it_db() if chain.speaks == "into-it" else 0.0
    return speech_pressure_pa(chain.distance_mm.value, operator.effort) * 10 ** (into / 20)
