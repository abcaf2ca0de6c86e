"""The station as immutable values. Every edit makes a new station; the old one stays for undo."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import BeforeValidator, Field, ValidationError, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.gear.base import Gear, Id, Name
from tonleiter.core.gear.catalogue import AnyGear
from tonleiter.core.gear.figure import Farads, Millimetres, NoiseDba, Ohms, typical
from tonleiter.core.gear.voice import Effort
from tonleiter.core.once import cached_property
from tonleiter.core.refused import GoneError
from tonleiter.core.safety.cautions import Hazard
from tonleiter.core.station.devices import Device, Link, completed, may_be
from tonleiter.core.station.instruments import INSTRUMENTS, InstrumentId
from tonleiter.core.station.purpose import PURPOSES, Purpose, PurposeId
from tonleiter.core.station.settings import PanelState
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.station.value import Value, known, unique
from tonleiter.core.station.wiring import AS_DERIVED, Wiring
from tonleiter.core.units.preferred import Series
from tonleiter.core.words import quoted

FORMAT: Literal["tonleiter-station"] = "tonleiter-station"
VERSION: Literal[8] = 8

# no station of this world is larger; what is, is a mistake or an attack
MOST_GEAR, MOST_CHAINS, MOST_VARIANTS, MOST_STAGES = 20_000, 2_000, 200, 1_000
MOST_PEOPLE, MOST_VALUES, MOST_LINKS = 500, 5_000, 5_000


class Operator(Value):
    """Who speaks."""

    id: Id
    name: Name
    effort: Effort = "normal"
    pitch: Literal["deep", "middle", "high"] = "middle"
    distance_mm: Millimetres = typical(30.0)


class Drawer(Value):
    """Parts at hand. An empty drawer means that a shop is near: preferred values of a series."""

    series: Series = "E12"
    resistors: tuple[Ohms, ...] = Field((), max_length=MOST_VALUES)
    capacitors: tuple[Farads, ...] = Field((), max_length=MOST_VALUES)

    def ohms(self) -> list[float]:
        """Values of the resistors."""
        return [r.value for r in self.resistors]

    def farads(self) -> list[float]:
        """Values of the capacitors."""
        return [c.value for c in self.capacitors]


class Stage(Value):
    """A piece of gear at a place in a variant; ``set`` overrides its fields there only."""

    gear: Id
    set: dict[str, Any] = Field(default_factory=dict)


class Variant(Value):
    """One way of wiring a chain, from microphone to radio."""

    id: Id
    name: Name
    stages: tuple[Stage, ...] = Field(min_length=2, max_length=MOST_STAGES)
    wiring: Wiring = AS_DERIVED

    def through(self, stages: tuple[Stage, ...]) -> Variant:
        """The same with other stages; what hands decided stays."""
        return Variant(id=self.id, name=self.name, stages=stages, wiring=self.wiring)


def _two_frequencies(raw: Any) -> Any:  # noqa: ANN401 - a validator sees anything
    ok = isinstance(raw, list | tuple) and len(raw) == 2
    ok = ok and all(isinstance(x, int | float) and not isinstance(x, bool) for x in raw)
    if not ok or not 20 <= raw[0] < raw[1] <= 20_000:
        raise PydanticCustomError("band", "two frequencies from 20 to 20000 are wanted, low first")
    return tuple(raw)


Band = Annotated[tuple[float, float], BeforeValidator(_two_frequencies)]


Speaks = Literal["across-it", "into-it"]


class _Shelf(dict[str, Gear]):
    """Pieces by their ids."""

    def __missing__(self, gear_id: str) -> Gear:
        raise GoneError(f"there is no piece {quoted(gear_id)}")


class _Boxes(dict[str, Device]):
    """Boxes by their ids."""

    def __missing__(self, device_id: str) -> Device:
        raise GoneError(f"there is no box {quoted(device_id)}")


class Chain(Value):
    """A path from a voice to a radio, for a purpose, with its variants."""

    id: Id
    name: Name
    purpose: PurposeId = "ssb-chat"
    operator: Id
    distance_mm: Millimetres = typical(30.0)
    speaks: Speaks = "across-it"
    band_hz: Band | None = None
    panel: PanelState = PanelState()
    stays_plugged: bool = False
    """Whether its leads stay where they are while another chain is in use."""
    variants: tuple[Variant, ...] = Field(min_length=1, max_length=MOST_VARIANTS)
    shown: Id
    ghost: Id | None = None

    def variant(self, variant_id: str | None = None) -> Variant:
        """The variant of that id, or the one shown. Raises GoneError, a KeyError."""
        wanted = self.shown if variant_id is None else variant_id
        for variant in self.variants:
            if variant.id == wanted:
                return variant
        raise GoneError(f"the chain {quoted(self.name)} has no variant {quoted(wanted)}")

    @property
    def band(self) -> tuple[float, float]:
        """Where speech and noise are weighed, in Hz: as set, or the purpose's."""
        return self.band_hz or self.purpose_facts.band_hz

    @property
    def purpose_facts(self) -> Purpose:
        """Targets of this chain's purpose."""
        return PURPOSES[self.purpose]


class Station(Value):
    """Everything a station document holds."""

    format: Literal["tonleiter-station"] = FORMAT
    version: Literal[8] = VERSION
    title: Name
    mains_hz: Literal[50, 60] = 50
    room_noise_dba: NoiseDba = typical(38.0)
    operators: tuple[Operator, ...] = Field(min_length=1, max_length=MOST_PEOPLE)
    drawer: Drawer = Drawer()
    instruments: tuple[InstrumentId, ...] = Field(("multimeter",), max_length=len(INSTRUMENTS))
    gear: tuple[AnyGear, ...] = Field((), max_length=MOST_GEAR)
    devices: tuple[Device, ...] = Field((), max_length=MOST_GEAR)
    links: tuple[Link, ...] = Field((), max_length=MOST_LINKS)
    chains: tuple[Chain, ...] = Field((), max_length=MOST_CHAINS)
    open_chain: Id | None = None

    @cached_property
    def gear_by_id(self) -> dict[str, Gear]:
        """Gear looked up by id. An unknown one raises GoneError, a KeyError."""
        return _Shelf((g.id, g) for g in self.gear)

    @cached_property
    def device_by_port(self) -> dict[str, Device]:
        """The box of each piece that is a socket of one."""
        return {port: device for device in self.devices for port in device.ports}

    @cached_property
    def device_by_id(self) -> dict[str, Device]:
        """Boxes looked up by id. An unknown one raises GoneError, a KeyError."""
        return _Boxes((device.id, device) for device in self.devices)

    @cached_property
    def devices_at_leads(self) -> tuple[Device, ...]:
        """Boxes that a lead goes to."""
        at = {end for link in self.links for end in (link.a, link.b)}
        return tuple(d for d in self.devices if d.id in at)

    def hazards(self, gear: Gear) -> frozenset[Hazard]:
        """What to beware of at a piece: its own hazards, and those of the box that it is in."""
        box = self.device_by_port.get(gear.id)
        return gear.hazards | (box.hazards if box is not None else frozenset())

    def operator(self, operator_id: str) -> Operator:
        """The operator of that id. Raises GoneError, a KeyError."""
        for operator in self.operators:
            if operator.id == operator_id:
                return operator
        raise GoneError(f"nobody here is {quoted(operator_id)}")

    def chain(self, chain_id: str | None = None) -> Chain:
        """The chain of that id, or the one that is open, or the first. Raises GoneError."""
        wanted = chain_id or self.open_chain
        if wanted is None and self.chains:
            return self.chains[0]
        for chain in self.chains:
            if chain.id == wanted:
                return chain
        raise GoneError(
            "there is no chain" if wanted is None else f"there is no chain {quoted(wanted)}"
        )

    def placed(self, stage: Stage) -> Gear:
        """The stage's gear with the stage's own settings in force."""
        gear = self.gear_by_id[stage.gear]
        return gear.with_values(stage.set) if stage.set else gear

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        unique("gear", [g.id for g in self.gear])
        # a piece that no box holds is a box by itself: it is written down as one
        self.__dict__["devices"] = completed(self.devices, self.gear)
        self._check_devices()
        self._check_links()
        unique("operators", [o.id for o in self.operators])
        unique("chains", [c.id for c in self.chains])
        if self.open_chain is not None:
            known("open_chain", self.open_chain, [c.id for c in self.chains], "chain")
        for chain in self.chains:
            self._check_chain(chain)
        return self

    def _check_devices(self) -> None:
        unique("devices", [d.id for d in self.devices])
        held: dict[str, str] = {}
        for device in self.devices:
            where = f"device {device.id}"
            for port in device.ports:
                known(f"{where}, ports", port, self.gear_by_id, "gear")
                if port in held:
                    raise PydanticCustomError(
                        "device",
                        "{where}: {port} is a socket of {other} already",
                        {"where": where, "port": quoted(port), "other": quoted(held[port])},
                    )
                held[port] = device.id
                _has_its_supply(where, device, self.gear_by_id[port])
            unique(f"{where}, connectors", [c.id for c in device.connectors])
            for connector in device.connectors:
                at = f"{where}, connector {connector.id}"
                unique(f"{at}, ports", list(connector.ports))
                for port in connector.ports:
                    known(f"{at}, ports", port, device.ports, "socket")
                unique(f"{at}, contacts", [c.label for c in connector.contacts])
                for contact in connector.contacts:
                    labels = SHELLS[connector.shell].labels
                    known(f"{at}, contacts", contact.label, labels, "contact")

    def _check_links(self) -> None:
        unique("links", [link.id for link in self.links])
        for link in self.links:
            where = f"link {link.id}"
            for end in (link.a, link.b):
                known(where, end, self.device_by_id, "device")
            if link.a == link.b:
                raise PydanticCustomError(
                    "link",
                    "{where}: it joins {end} to itself; two boxes are wanted",
                    {"where": where, "end": quoted(link.a)},
                )
            if link.joins not in may_be(link.kind):
                raise PydanticCustomError(
                    "link",
                    "{where}: a lead of kind {kind} may join by: {ways}; not by {joins}",
                    {
                        "where": where,
                        "kind": quoted(link.kind),
                        "joins": quoted(link.joins),
                        "ways": ", ".join(may_be(link.kind)),
                    },
                )

    def _check_chain(self, chain: Chain) -> None:
        where = f"chain {chain.id}"
        known(f"{where}, operator", chain.operator, [o.id for o in self.operators], "operator")
        names = [v.id for v in chain.variants]
        unique(f"{where}, variants", names)
        known(f"{where}, shown", chain.shown, names, "variant")
        if chain.ghost is not None:
            known(f"{where}, ghost", chain.ghost, names, "variant")
        for variant in chain.variants:
            self._check_stages(f"{where}, variant {variant.id}", variant)

    def _check_stages(self, where: str, variant: Variant) -> None:
        last = len(variant.stages) - 1
        seen: list[str] = []
        for place, stage in enumerate(variant.stages):
            at = f"{where}, stage {place + 1}"
            known(at, stage.gear, self.gear_by_id, "gear")
            seen.append(stage.gear)
            try:
                gear = self.placed(stage)
            except ValidationError as error:
                first = error.errors()[0]
                field = ".".join(str(p) for p in first["loc"]) or stage.gear
                raise PydanticCustomError(
                    "stage", "{at}: {field}: {why}", {"at": at, "field": field, "why": first["msg"]}
                ) from None
            wanted = "microphone" if place == 0 else "input" if place == last else "between"
            if gear.role != wanted:
                raise PydanticCustomError(
                    "stage",
                    "{at}: a {noun} cannot stand there; {wanted} is wanted",
                    {"at": at, "noun": gear.noun, "wanted": _WANTED[wanted]},
                )
        unique(where, seen)


_WANTED = {
    "microphone": "a chain begins with a microphone, which",
    "input": "a chain ends at a radio's socket, which",
    "between": "something between microphone and radio",
}


def _has_its_supply(where: str, device: Device, port: Gear) -> None:
    """One chassis has one supply: what a socket says of it must agree with the box."""
    if port.device is None:
        raise PydanticCustomError(
            "device",
            "{where}: {port} is a {noun}, which is no socket of a box",
            {"where": where, "port": quoted(port.id), "noun": port.noun},
        )
    supply = port.own_supply() or device.supply
    if supply != device.supply:
        raise PydanticCustomError(
            "device",
            "{where}: its supply is {supply}, but its socket {port} says {other}; a box has one",
            {
                "where": where,
                "supply": quoted(device.supply),
                "port": quoted(port.id),
                "other": quoted(supply),
            },
        )
    emf = port.own_earth_emf() or device.earth_emf_v
    if emf != device.earth_emf_v:
        raise PydanticCustomError(
            "device",
            "{where}: its earth_emf_v and that of its socket {port} differ; a box has one",
            {"where": where, "port": quoted(port.id)},
        )
