"""Units as bought: whole units drawn from what is known of their parts, and of nothing else.

A range or tolerance that the user gave rules the elements that it moves; every other part spreads
as the table says. One draw is one unit: one battery, one pair of resistors, one meter.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.unit import BIAS, JOINT, TIN, Unit
from tonleiter.core.bench.unit import COIL as COIL_BY_ITSELF
from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    Diode,
    Element,
    Inductor,
    Jfet,
    ModulatedResistor,
    OpAmp,
    Regulator,
    Resistor,
    VoltageSource,
)
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.gear.net import ELECTROLYTIC_FROM_F, BiasRail, Winding
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.draws import MOST_REDRAWS, between

Elements = tuple[Element, ...]
Floats = NDArray[np.float64]
# How parts come out of a drawer where nobody gave a range. Each pair is the least and the most, as
# a factor of the nominal value; in between every ratio is as likely as every other.
RESISTOR = (0.95, 1.05)  # carbon film, ±5 %
FILM = (0.90, 1.10)  # film and ceramic of the stable kind, ±10 %; cable about as much
ELECTROLYTIC = (0.80, 1.20)  # ±20 % on the sleeve
COIL = (0.80, 1.20)  # primary inductance: the core's gap and the level decide
WINDING = (0.85, 1.15)  # a winding's copper
BATTERY = (0.83, 1.07)  # a block of 9 V: 7.5 V used, 9.6 V fresh
CELL_INSIDE = (0.7, 5.0)  # and its inside resistance, which grows as it empties
RAIL = (0.95, 1.05)  # a regulated supply, the bias of a radio
GAIN = (10**-0.5, 10**0.5)  # current gain of one type: a decade from the least to the most
SATURATION = (0.5, 2.0)  # saturation current: 18 mV either way at a base
PINCH_OFF = (2**-0.5, 2**0.5)  # two to one
IDSS = (3**-0.5, 3**0.5)  # three to one
CARBON = (0.6, 1.6)  # granules, by how they lie
CHIP_DRAWS = (0.6, 1.5)  # what a chip draws at rest
CHIP_KEEPS = (0.7, 1.3)  # what its output stays off the rails
BANDWIDTH = (0.7, 1.4)
REGULATED = (0.96, 1.04)
ZENER = (0.95, 1.05)
# what stands on the bench: generator's level and resistance, the load
BENCH_LEVEL, BENCH_OHM = (0.97, 1.03), (0.95, 1.05)


@dataclass(frozen=True)
class Drawn:
    """One unit: its elements, and what was put to it."""

    elements: Elements
    bench: Elements


@dataclass(frozen=True)
class _Range:
    """A figure to which the user gave a range."""

    stage: PlacedStage
    field: str
    quantity: Quantity
    low: float
    high: float

    def at(self, share: float) -> float:
        """Its value so far between its ends."""
        return float(between(self.quantity, self.low, self.high, np.array([share]))[0])


class Units:
    """Units of one build. Each stands at a share, 0 to 1, of the way between the ends of each part.

    ``count`` is how many shares there are.
    """

    def __init__(self, unit: Unit, found: Verdict, at: int) -> None:
        self.unit = unit
        span = found.build.spans[at]
        stages = found.assessment.solution.compiled.stages[span.first : span.last + 1]
        self._batteries = frozenset(c.source for c in unit.clips)
        self._inside = frozenset(f"{name}_inside" for name in self._batteries)
        self._ranges = [r for stage in stages for r in _ranges_of(stage)]
        self._wound = frozenset(
            name for item in found.build.items if len(item.elements) > 1 for name in item.elements
        )
        own = {e.name: e for e in unit.elements}
        ends = [self._made_of([s] * len(self._ranges)) for s in (0.0, 1.0)]
        # what a range of the user's moves spreads by that, and by nothing else
        self._moved = frozenset(
            name
            for made in ends
            for name, e in made.items()
            if name in own and valued(own[name], e) != own[name]
        )
        shares = _Shares(None)
        self._made(shares)
        self.count = len(self._ranges) + shares.taken

    def draw(self, rng: np.random.Generator, count: int) -> list[Floats]:
        """Shares of so many units, each of shape (count,): only what a piece could be."""
        return [self._possible(rng) for _ in range(count)]

    def _possible(self, rng: np.random.Generator) -> Floats:
        shares = rng.uniform(size=self.count)
        for _ in range(MOST_REDRAWS):
            if self._could_be(shares):
                break
            shares[: len(self._ranges)] = rng.uniform(size=len(self._ranges))
        return shares

    def _could_be(self, shares: Floats) -> bool:
        return all(stage.gear.could_be(fields) for stage, fields in self._figures(shares) if fields)

    def made(self, shares: Floats) -> Drawn:
        """The unit at these shares, shape (count,)."""
        ranged = len(self._ranges)
        made = self._made_of(shares[:ranged])
        kept = tuple(
            valued(e, made[e.name]) if e.name in self._moved and e.name in made else e
            for e in self.unit.elements
        )
        return self._made(_Shares(shares[ranged:]), kept)

    def _made(self, shares: _Shares, kept: Elements | None = None) -> Drawn:
        elements = self.unit.elements if kept is None else kept
        return Drawn(
            tuple(e if e.name in self._moved else self._bought(e, shares) for e in elements),
            tuple(_put(e, shares) for e in self.unit.bench),
        )

    def _figures(
        self, shares: Sequence[float] | Floats
    ) -> list[tuple[PlacedStage, dict[str, Figure]]]:
        by_stage: dict[str, tuple[PlacedStage, dict[str, Figure]]] = {}
        for r, share in zip(self._ranges, shares, strict=False):
            _, fields = by_stage.setdefault(r.stage.id, (r.stage, {}))
            fields[r.field] = Figure(value=r.at(float(share)))
        return list(by_stage.values())

    def _made_of(self, shares: Sequence[float] | Floats) -> dict[str, Element]:
        """Elements by name as the user's ranges make them."""
        return elements_with(self._figures(shares))

    def _bought(self, element: Element, shares: _Shares) -> Element:
        """A part as another one of its kind would be."""
        if element.name.startswith((JOINT, TIN)):
            return element
        match element:
            case Resistor(name=name, ohm=ohm):
                ends = RESISTOR
                if name in self._inside:
                    ends = CELL_INSIDE
                elif name in self._wound:
                    ends = WINDING
                return replace(element, ohm=ohm * shares.of(ends))
            case VoltageSource(name=name, dc=dc) if dc:
                ends = BATTERY if name in self._batteries else RAIL
                return replace(element, dc=dc * shares.of(ends))
        return _by_kind(element, shares.of)


def elements_with(figures: Iterable[tuple[PlacedStage, dict[str, Figure]]]) -> dict[str, Element]:
    """Elements by name, as stages make them with these figures in the place of their own."""
    made: dict[str, Element] = {}
    for stage, fields in figures:
        net = stage.net(stage.gear.model_copy(update=fields))
        made |= {e.name: e for e in net.elements}
        for rail in (m for m in net.marks if isinstance(m, BiasRail)):
            # the bench's bias stands for the radio's own
            made["bench:bias_r"] = made[rail.resistor]
            made[BIAS] = VoltageSource(BIAS, "", "", dc=rail.open_v)
        if stage.gear.role == "microphone":
            for coil in (m.element for m in net.marks if isinstance(m, Winding)):
                # by itself, at its own plug
                made[COIL_BY_ITSELF] = made[coil]
    return made


class _Shares:
    """Hands out one share after the other; in the middle where there are none."""

    def __init__(self, shares: Floats | None) -> None:
        self._shares, self.taken = shares, 0

    def of(self, ends: tuple[float, float]) -> float:
        """The factor at the next share of the way between two ends, evenly in ratio."""
        share = 0.5 if self._shares is None else float(self._shares[self.taken])
        self.taken += 1
        low, high = ends
        return float(low * (high / low) ** share)


def _ranges_of(stage: PlacedStage) -> list[_Range]:
    found = []
    for field, (quantity, _) in stage.gear.figures().items():
        figure = stage.gear.figure(field)
        if figure.low is not None and figure.high is not None and figure.high > figure.low:
            found.append(_Range(stage, field, quantity, figure.low, figure.high))
    return found


def _by_kind(element: Element, by: Callable[[tuple[float, float]], float]) -> Element:
    """What spreads by what it is alone."""
    match element:
        case Capacitor(farad=farad):
            ends = ELECTROLYTIC if farad >= ELECTROLYTIC_FROM_F else FILM
            return replace(element, farad=farad * by(ends))
        case Inductor(henry=henry):
            return replace(element, henry=henry * by(COIL))
        case ModulatedResistor(ohm=ohm):
            return replace(element, ohm=ohm * by(CARBON))
        case Bipolar(model=m):
            return replace(
                element, model=replace(m, bf=m.bf * by(GAIN), is_a=m.is_a * by(SATURATION))
            )
        case Jfet(model=m):
            # the current at no bias is beta times the pinch-off squared
            pinch, idss = by(PINCH_OFF), by(IDSS)
            changed = replace(
                m, vto_v=m.vto_v * pinch, beta_a_per_v2=m.beta_a_per_v2 * idss / pinch**2
            )
            return replace(element, model=changed)
        case Diode(model=m):
            if math.isfinite(m.bv_v):
                return replace(element, model=replace(m, bv_v=m.bv_v * by(ZENER)))
            return replace(element, model=replace(m, is_a=m.is_a * by(SATURATION)))
        case OpAmp(model=m):
            chip = replace(
                m,
                draws_a=m.draws_a * by(CHIP_DRAWS),
                keeps_v=m.keeps_v * by(CHIP_KEEPS),
                input_siemens=m.input_siemens * by(BANDWIDTH),
            )
            return replace(element, model=chip)
        case Regulator(model=m):
            held = replace(m, holds_v=m.holds_v * by(REGULATED), draws_a=m.draws_a * by(CHIP_DRAWS))
            return replace(element, model=held)
    return element


def _put(element: Element, shares: _Shares) -> Element:
    """What stands on the bench, as far as it counts."""
    match element:
        case VoltageSource(ac=ac) if ac:
            return replace(element, ac=ac * shares.of(BENCH_LEVEL))
        case Resistor(ohm=ohm) if 1.0 < ohm < 1e8:
            return replace(element, ohm=ohm * shares.of(BENCH_OHM))
    return element


def valued(element: Element, drawn: Element) -> Element:
    """The element where it stands, with the values of another one of its kind."""
    if type(element) is not type(drawn):
        return element
    values = {
        f: value
        for f in element.__dataclass_fields__
        if not isinstance(value := getattr(drawn, f), str)
    }
    return replace(element, **values)  # type: ignore[arg-type]
