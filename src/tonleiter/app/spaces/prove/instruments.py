"""What is set on the instruments of the simulated bench, and what they show."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from tonleiter.core.bench.meter import Mode, Shown, Supply, held, supplied
from tonleiter.core.bench.scope import Settings
from tonleiter.core.bench.unit import Unit
from tonleiter.core.circuit.elements import GROUND, CircuitError, Element
from tonleiter.core.prove.prove import Proof

COMMON = "common"
# the meter's range in each step of the path
_MODE_OF: dict[str, Mode] = {"ring": "ohms", "dc": "dc", "tone": "ac"}
LEAST_LIMIT_A, LIMIT_OVER = 1e-3, 1.5


@dataclass
class Instruments:
    """The meter's range and where its tips are, the supply's knobs, the scope's.

    A supply of None follows what is right for the build.
    """

    mode: Mode = "ohms"
    red: str = ""
    black: str = COMMON
    supply_v: float | None = None
    limit_a: float | None = None
    scope: Settings = field(default_factory=Settings)

    def for_step(self, step: str) -> None:
        """Turn the meter to what a step wants."""
        self.mode = _MODE_OF.get(step, self.mode)

    def forget(self, unit: Unit | None) -> None:
        """Another build: tips on its first point, supply as it should be."""
        self.red = unit.points[0].letter if unit is not None and unit.points else COMMON
        self.black, self.supply_v, self.limit_a = COMMON, None, None

    def turn_scope(self, **knobs: object) -> None:
        """Turn knobs of the scope."""
        self.scope = replace(self.scope, **knobs)  # type: ignore[arg-type]

    def tips(self, unit: Unit) -> tuple[str, str]:
        """The nodes that red and black are on."""
        places = places_of(unit)
        return places.get(self.red, GROUND), places.get(self.black, GROUND)

    def read(self, unit: Unit, elements: tuple[Element, ...], tone_v: float) -> Shown:
        """What the meter shows."""
        try:
            return held(unit, elements, self.mode, *self.tips(unit), tone_v)
        except CircuitError as error:
            return Shown(float("nan"), "V", str(error))

    def supply(self, proof: Proof, elements: tuple[Element, ...]) -> Supply | None:
        """What the bench supply shows; None where nothing is to be fed."""
        battery = proof.unit.battery()
        if battery is None:
            return None
        volts = abs(battery.dc) if self.supply_v is None else self.supply_v
        limit = limit_of(proof) if self.limit_a is None else self.limit_a
        try:
            return supplied(proof.unit, elements, volts, limit)
        except CircuitError:
            return None


def limit_of(proof: Proof) -> float:
    """Where a supply's current limit belongs: a little over the most that a healthy build draws."""
    high = float(proof.predicted.high[proof.places["supply"]])
    return max(LIMIT_OVER * high, LEAST_LIMIT_A)


def places_of(unit: Unit) -> dict[str, str]:
    """Where tips can be put, by what is printed there, and their nodes."""
    places = {p.letter: p.node for p in unit.points}
    places |= {ref: node for ref, node in unit.contacts.items() if node != GROUND}
    return places | {COMMON: GROUND}
