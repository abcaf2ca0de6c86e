"""What a rule looks at: the station, the solved chain, its rows; and shorthands for edits."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from tonleiter.core.circuit.elements import Inductor, Resistor
from tonleiter.core.circuit.readings import read_dc
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import BiasRail, Capsule, PlusSide
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import Purpose

# under this there is no bias to speak of, only leakage
DEAD_BELOW_V = 0.1
# a supply reaches a joint when a volt more on it moves the joint by this much
REACHES_V_PER_V = 0.01
# so many volts are phantom power: switched off where another feed is put in
PHANTOM_FROM_V = 40.0


# what a microphone input without a window of its own is given
MIC_AIM_DBU = -50.0
# what a transformer for line level bears at its lowest frequency
LARGEST_CORE_DBU = 25.0


def aim_dbu(row: StageLevels) -> float:
    """Level to aim for at a microphone input."""
    if row.gear.role == "input" and row.window:
        return row.window.middle_dbu
    return MIC_AIM_DBU


@dataclass(frozen=True)
class Rail:
    """A bias supply in the chain and the index of its stage."""

    stage: int
    mark: BiasRail


@dataclass(frozen=True)
class Case:
    """One solved variant of one chain."""

    station: Station
    solution: ChainSolution
    rows: tuple[StageLevels, ...]

    @property
    def chain_id(self) -> str:
        """Id of the chain."""
        return self.solution.compiled.chain.id

    @property
    def variant_id(self) -> str:
        """Id of the variant."""
        return self.solution.compiled.variant.id

    @property
    def purpose(self) -> Purpose:
        """Targets of the chain."""
        return self.solution.compiled.chain.purpose_facts

    @property
    def what(self) -> str:
        """What goes through: “speech”, or another signal."""
        return self.solution.compiled.signal.noun

    @property
    def distance_mm(self) -> float:
        """Of the voice."""
        return self.solution.compiled.chain.distance_mm.value

    @property
    def last(self) -> int:
        """Index of the radio."""
        return len(self.rows) - 1

    def rails(self) -> list[Rail]:
        """All bias supplies, microphone side first."""
        return [
            Rail(k, mark)
            for k, stage in enumerate(self.solution.compiled.stages)
            for mark in stage.marks
            if isinstance(mark, BiasRail) and mark.open_v > 0
        ]

    def bias_reaches(self, index: int) -> bool:
        """Whether a bias supply from behind stands on the joint before stage ``index``."""
        return self._reaches(index, index)

    def feeds_capsule(self, index: int) -> bool:
        """Whether a capsule lives on a supply from stage ``index`` on: a pad would take it that."""
        return index > 0 and self.capsule() is not None and self._reaches(1, index)

    def _reaches(self, joint: int, index: int) -> bool:
        """Whether a supply of stage ``index`` or behind it stands before stage ``joint``."""
        inlet = self.solution.compiled.stages[joint].inlet
        readings = read_dc(self.solution.linear, [(inlet.hot, inlet.cold)])
        return any(
            r.stage >= index and abs(readings.from_source(r.mark.source)[0, 0]) > REACHES_V_PER_V
            for r in self.rails()
        )

    def plus_towards(self, index: int, inside_v: float) -> PlusSide:
        """Where the plus side of a capacitor before stage ``index`` belongs."""
        inlet = self.solution.compiled.stages[index].inlet
        readings = read_dc(self.solution.linear, [(inlet.hot, inlet.cold)])
        behind = [
            r.mark.open_v
            for r in self.rails()
            if r.stage >= index
            and r.mark.open_v < PHANTOM_FROM_V
            and abs(readings.from_source(r.mark.source)[0, 0]) > REACHES_V_PER_V
        ]
        return "outside" if max(behind, default=0.0) > inside_v else "inside"

    def capsule(self) -> Capsule | None:
        """The element that needs bias, if the microphone has one."""
        marks = self.solution.compiled.stages[0].marks
        return next((m for m in marks if isinstance(m, Capsule)), None)

    def is_dead(self) -> bool:
        """Whether the microphone gives nothing for want of a supply, so that levels mean nothing.

        What lives on phantom power does nothing sensible on a few volts that came from elsewhere.
        """
        capsule = self.capsule()
        if capsule is None:
            return False
        needs = capsule.needs
        least_v = needs.needs_v / 2 if needs.dc == "phantom" else DEAD_BELOW_V
        return abs(self.solution.op.volts(capsule.p, capsule.n)) < least_v

    def piece(self, index: int, step: int) -> int:
        """The stage at ``index``, or the next one in a direction that is no mere lead."""
        while 0 < index < self.last and self.rows[index].gear.lead:
            index += step
        return index

    def behind_source(self) -> int:
        """The joint behind the source and its leads, by the stage before it."""
        return self.piece(1, 1) - 1

    # --- edits of this variant -------------------------------------------------------------------

    def insert(self, station: Station, index: int, gear: Gear) -> Station:
        """Put new gear before stage ``index``, by another id where that is taken already."""
        if gear.id in station.gear_by_id:
            gear = gear.with_values({"id": edits.fresh_id(set(station.gear_by_id), gear.id)})
        return edits.insert_stage(station, self.chain_id, self.variant_id, index, gear)

    def remove(self, station: Station, indices: set[int]) -> Station:
        """Take stages out."""
        return edits.remove_stages(station, self.chain_id, self.variant_id, indices)

    def set_value(self, station: Station, index: int, field: str, value: object) -> Station:
        """Set a field of a stage."""
        return edits.set_value(station, self.chain_id, self.variant_id, index, field, value)

    def setting(self, index: int, values: Mapping[str, object]) -> Callable[[Station], Station]:
        """The edit that sets fields of a stage, in their order."""

        def apply(station: Station) -> Station:
            for field, value in values.items():
                station = self.set_value(station, index, field, value)
            return station

        return apply

    def fresh_id(self, name: str) -> str:
        """An id for a new piece of gear."""
        return edits.fresh_id(set(self.station.gear_by_id), name)


def current_a(case: Case, element_name: str) -> float:
    """DC in amperes through a resistor or a coil. Raises KeyError for other names."""
    op = case.solution.op
    for element in op.system.circuit.elements:
        if element.name == element_name:
            if isinstance(element, Inductor):
                return op.branch_a(element_name)
            if isinstance(element, Resistor):
                return op.volts(element.p, element.n) / element.ohm
    raise KeyError(element_name)
