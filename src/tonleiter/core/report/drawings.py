"""Drawings of a solved chain, of a piece by itself, and the parts list that goes with each."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import GROUND, Circuit, CircuitError, Resistor, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.drawing.chain import in_strips
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import AIR, OwnSupply, StageNet
from tonleiter.core.gear.parts import Part
from tonleiter.core.gear.shopping import items_of, listed, merged, numbered
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.words import count_of

# alone on a bench: what lies open has this to earth
OPEN_OHM = 1e9
# what usual batteries hold, in ampere-hours, up to so many volts each; typical
BATTERY_AH = ((1.6, 2.5), (6.5, 2.5), (9.5, 0.5), (float("inf"), 2.0))


# how long something lasts: from so many of a unit on, its hours, its word
LIVES = ((2.0, 8766.0, "year"), (2.0, 730.5, "month"), (2.0, 24.0, "day"), (1.5, 1.0, "hour"))


@dataclass(frozen=True)
class Drawn:
    """A drawing and the parts that are in it."""

    sheet: Sheet
    parts: tuple[Part, ...]


def draw_piece(gear: Gear) -> Drawn:
    """A piece by itself, with nothing plugged in; DC as its own supply makes it."""
    net = gear.built_alone()
    op = _alone(net)
    volts = None if op is None else _Volts(op, net.common(gear.role))
    items = items_of(gear, net, volts)
    refs = numbered(items)
    sheet = draw_stage(gear, net, volts=volts, items=items)
    return Drawn(sheet.named(refs), _lived(listed(items, refs), net, op))


def draw_chain(
    solution: ChainSolution, indices: Iterable[int] | None = None, most_width: float = float("inf")
) -> Drawn:
    """Stages of a solved chain on one sheet, by default all of them."""
    stages = solution.compiled.stages
    wanted = range(len(stages)) if indices is None else indices
    return draw_stages(solution, [stages[k] for k in wanted], most_width)


def draw_stages(
    solution: ChainSolution, stages: Iterable[PlacedStage], most_width: float = float("inf")
) -> Drawn:
    """Some stages of a solved chain, in their order, with its DC."""
    sheets = []
    lines: list[Part] = []
    made = []
    for stage in stages:
        net = stage.net()
        volts = _Volts(solution.op, net.common(stage.gear.role))
        made.append((stage, net, volts, items_of(stage.gear, net, volts)))
    refs = numbered(item for *_, items in made for item in items)
    for stage, net, volts, items in made:
        sheets.append(draw_stage(stage.gear, net, stage.inlet, volts, items).named(refs))
        lines += _lived(listed(items, refs), net, solution.op)
    return Drawn(in_strips(sheets, most_width), merged(lines))


class _Volts:
    """DC of a node against a stage's common."""

    def __init__(self, op: OperatingPoint, common: str) -> None:
        self._op, self._common = op, common

    def __call__(self, node: str) -> float | None:
        try:
            return self._op.volts(node, self._common)
        except (KeyError, CircuitError):
            return None


def _alone(net: StageNet) -> OperatingPoint | None:
    """DC of a piece by itself; None where it has none that is worth finding."""
    if not any(isinstance(e, VoltageSource) and e.dc for e in net.elements):
        return None
    ports = {n for p in (net.inlet, net.outlet) for n in (p.hot, p.cold, p.chassis)} - {GROUND, AIR}
    ties = [Resistor(f"open:{n}", n, GROUND, OPEN_OHM, noisy=False) for n in sorted(ports)]
    try:
        return solve_dc(
            System(Circuit((VoltageSource("voice", AIR, GROUND), *net.elements, *ties)))
        )
    except CircuitError:
        return None


def _lived(lines: tuple[Part, ...], net: StageNet, op: OperatingPoint | None) -> tuple[Part, ...]:
    """Batteries with how long they last, by what the circuit draws from them."""
    lives = _life(net, op)
    if lives is None:
        return lines
    hours, amps = lives
    life = f"about {_hours(hours)} at {amps * 1e3:.2g} mA"
    return tuple(replace(p, note=life) if p.is_battery else p for p in lines)


def _life(net: StageNet, op: OperatingPoint | None) -> tuple[float, float] | None:
    """How many hours a stage's own supply lasts, and the amperes drawn; None of what has none."""
    marks = [m for m in net.marks if isinstance(m, OwnSupply)]
    if op is None or len(marks) != 1:
        return None
    amps = abs(op.branch_a(marks[0].source))
    if amps < 1e-9:
        return None
    held_ah = next(ah for volts, ah in BATTERY_AH if marks[0].volts <= volts)
    return held_ah / amps, amps


def battery_hours(solution: ChainSolution) -> dict[str, float]:
    """How many hours each battery of a chain lasts, by the id of its stage; mains last for ever."""
    made: dict[str, float] = {}
    for stage in solution.compiled.stages:
        net = stage.net()
        volts = _Volts(solution.op, net.common(stage.gear.role))
        if any(i.part.is_battery for i in items_of(stage.gear, net, volts)):
            lives = _life(net, solution.op)
            if lives is not None:
                made[stage.id] = lives[0]
    return made


def _hours(hours: float) -> str:
    """As people say it: hours for two days, days for two months, then months, then years."""
    for least, unit, word in LIVES:
        if hours >= least * unit:
            return count_of(round(hours / unit), word)
    return f"{hours:.2g} hours"
