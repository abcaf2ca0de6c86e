"""A user's own circuit, given as netlist cards, standing in a chain as a stage."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, StringConstraints, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.circuit.cards.lines import CardError
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.elements import GROUND, CurrentSource, Element, VoltageSource
from tonleiter.core.circuit.instance import instantiate, nodes_of
from tonleiter.core.gear.base import DeviceKind, Gear, Lines, Role, Shelf, Surroundings, Window
from tonleiter.core.gear.earthing import earth_path
from tonleiter.core.gear.figure import LevelDbu, Volts, typical
from tonleiter.core.gear.net import StageNet, Supply
from tonleiter.core.words import quoted

Node = Annotated[
    str, StringConstraints(strip_whitespace=True, to_lower=True, min_length=1, max_length=60)
]
Cards = Annotated[Lines, StringConstraints(max_length=20_000)]
# a circuit of one's own is one stage among others; larger ones belong in a file of their own
MOST_ELEMENTS = 400


@lru_cache(maxsize=256)
def _elements(cards: str) -> tuple[Element, ...]:
    return read_deck(cards).circuit.elements


class OwnCircuit(Gear):
    """Cards with the nodes that are its input and output; its node 0 is the chain's ground.

    Its DC sources supply it; AC values on its sources are left out, since the chain feeds it.
    """

    device: ClassVar[DeviceKind | None] = "amplifier"
    role: ClassVar[Role] = "between"
    shelf: ClassVar[Shelf | None] = "Boxes"
    noun: ClassVar[str] = "own circuit"
    drives: ClassVar[bool] = True
    what: ClassVar[str] = "from a netlist of one's own"
    lines_field: ClassVar[str | None] = "cards"
    word_titles: ClassVar[dict[str, str]] = {
        "input_node": "Input node",
        "output_node": "Output node",
    }

    kind: Literal["own-circuit"] = "own-circuit"
    cards: Cards
    input_node: Node = Field("in")
    output_node: Node = Field("out")
    clip_dbu: LevelDbu = Field(typical(8.0), title="Output clips at")
    works_from_dbu: LevelDbu = Field(typical(-60.0), title="Works best from")
    works_to_dbu: LevelDbu = Field(typical(-4.0), title="Works best to")
    supply: Supply = Field("battery", title="Supply")
    earth_emf_v: Volts = Field(typical(1e-3), title="Earth EMF, if earthed")

    @model_validator(mode="after")
    def _can_be_read(self) -> Self:
        try:
            elements = _elements(self.cards)
        except CardError as error:
            raise PydanticCustomError("cards", "cards, {why}", {"why": str(error)}) from None
        if len(elements) > MOST_ELEMENTS:
            raise PydanticCustomError(
                "cards", f"the cards come to {len(elements)} elements; at most {MOST_ELEMENTS} do"
            )
        for element in elements:
            if isinstance(element, VoltageSource | CurrentSource) and element.wave is not None:
                raise PydanticCustomError(
                    "cards",
                    "{name} has a waveform: a stage is fed by its chain, and its sources are DC",
                    {"name": quoted(element.name)},
                )
        nodes = {n for e in elements for n in nodes_of(e)} - {GROUND}
        for field in ("input_node", "output_node"):
            if getattr(self, field) not in nodes:
                raise PydanticCustomError(
                    "cards",
                    "{field}: the cards have no node {node}; known: {known}",
                    {
                        "field": field,
                        "node": quoted(getattr(self, field)),
                        "known": ", ".join(sorted(nodes)),
                    },
                )
        return self

    def build(self, net: StageNet) -> None:
        """The cards' elements between the joints."""
        ports = {self.input_node: net.inlet.hot, self.output_node: net.outlet.hot}
        quiet = [
            replace(e, ac=0.0) if isinstance(e, VoltageSource | CurrentSource) else e
            for e in _elements(self.cards)
        ]
        net.add(*instantiate(quiet, ports, net.name, ground=net.inlet.cold))
        # a capacitor at either end would leave its joint without a potential
        net.resistor("leak_in", net.inlet.hot, net.inlet.cold, 1e9, noisy=False, stray=True)
        net.resistor("leak_out", net.outlet.hot, net.outlet.cold, 1e9, noisy=False, stray=True)
        earth_path(net, net.inlet.cold, self.supply, self.earth_emf_v.value)

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """As measured or read from the circuit's supply."""
        return self.clip_dbu.value

    def window(self) -> Window | None:
        """As given."""
        return Window(self.works_from_dbu.value, self.works_to_dbu.value)
