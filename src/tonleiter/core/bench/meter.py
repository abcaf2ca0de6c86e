"""The meter and the supply as instruments: held to any two points, they load what they touch."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from tonleiter.core.bench.clipped import tone_left
from tonleiter.core.bench.junctions import tested
from tonleiter.core.bench.measure import METER_F, METER_OHM
from tonleiter.core.bench.ohms import BEEPS_BELOW_OHM, resistances, unpowered
from tonleiter.core.bench.unit import GENERATOR, Junction, Unit
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import (
    Capacitor,
    Circuit,
    CircuitError,
    Element,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import System

Mode = Literal["dc", "ac", "ohms", "diode", "beeper", "current"]
MODES: dict[Mode, str] = {
    "dc": "volts DC",
    "ac": "volts AC",
    "ohms": "ohms",
    "diode": "diode range",
    "beeper": "beeper",
    "current": "supply's current",
}
TONE_HZ = 1000.0
# what a meter drops while it measures current: its shunt, fuse and leads
BURDEN_OHM = 10.0
# a source in which nothing may be below this is no source
LEAST_A = 1e-9
# how near the volts are found at which a limit holds
NEAR_V = 1e-3


@dataclass(frozen=True)
class Shown:
    """What the display says: a value (NaN for none, infinite for open), its unit, a remark."""

    value: float
    unit: str
    remark: str = ""


@dataclass(frozen=True)
class Supply:
    """What the bench supply gives, and whether its limit holds it down."""

    volts: float
    amps: float
    limited: bool


def held(
    unit: Unit, elements: Sequence[Element], mode: Mode, red: str, black: str, tone_v: float
) -> Shown:
    """What the meter shows, red on one node and black on another, the generator at ``tone_v`` RMS.

    Raises CircuitError where the circuit has no solution.
    """
    if mode == "current":
        return _current(unit, elements)
    build = unit.unplugged(elements)
    if mode in ("ohms", "beeper", "diode"):
        return _without_power(unit, build, mode, red, black)
    meter: tuple[Element, ...] = ()
    if red != black:
        meter = (Resistor("meter:r", red, black, METER_OHM, noisy=False),)
        if mode == "ac":
            meter += (Capacitor("meter:c", red, black, METER_F),)
    bench = [
        replace(e, ac=tone_v) if isinstance(e, VoltageSource) and e.name == GENERATOR else e
        for e in unit.bench
    ]
    system = System(Circuit((*build, *bench, *meter)))
    op = solve_dc(system)
    if mode == "dc":
        return Shown(op.volts(red, black), "V")
    matrix = op.conductances() + 2j * math.pi * TONE_HZ * system.C
    x = np.linalg.solve(matrix, system.b_ac)
    # what goes in is not cut off by what comes behind
    left = 1.0 if {red, black} <= {*unit.inlet} else tone_left(op, x)
    return Shown(float(abs(system.unit(red, black) @ x)) * left, "V")


def _without_power(unit: Unit, build: list[Element], mode: Mode, red: str, black: str) -> Shown:
    system = System(Circuit((*build, *unit.bench)))
    kept = unpowered(build, unit.plugged)
    if mode == "diode":
        shown = tested(system, kept, (Junction("", "", "", red, black),))
        return Shown(shown[0].volts, "V", "open" if math.isinf(shown[0].volts) else "")
    ohm = float(resistances(system, kept, (red, black))[0, 1])
    if mode == "beeper":
        return Shown(ohm, "Ω", "beeps" if ohm < BEEPS_BELOW_OHM else "silent")
    return Shown(ohm, "Ω", "open" if math.isinf(ohm) else "")


def _current(unit: Unit, elements: Sequence[Element]) -> Shown:
    """In the supply's lead, with what the meter drops there."""
    battery = unit.battery()
    if battery is None:
        return Shown(math.nan, "A", "no supply of its own")
    made: list[Element] = []
    for e in elements:
        if e.name == battery.name and isinstance(e, VoltageSource):
            made.append(replace(e, p="meter:shunt"))
            made.append(Resistor("meter:burden", "meter:shunt", e.p, BURDEN_OHM, noisy=False))
        else:
            made.append(e)
    op = _at_rest(unit, made)
    return Shown(-op.branch_a(battery.name), "A")


def fed(unit: Unit, elements: Sequence[Element], volts: float) -> tuple[Element, ...]:
    """The elements with so many volts in the battery's place, its poles as it has them."""
    battery = unit.battery()
    if battery is None:
        return tuple(elements)
    own = math.copysign(volts, battery.dc)
    # a battery turned round stays so: the supply's leads are clipped on as its own were
    return tuple(
        replace(e, dc=own if e.dc * battery.dc >= 0 else -own)
        if isinstance(e, VoltageSource) and e.name == battery.name
        else e
        for e in elements
    )


def supplied(unit: Unit, elements: Sequence[Element], volts: float, limit_a: float) -> Supply:
    """A bench supply in the battery's place. Raises CircuitError."""
    battery = unit.battery()
    if battery is None:
        raise CircuitError("this build has no supply of its own")

    def drawn(at_v: float) -> float:
        made = fed(unit, elements, at_v)
        source = next(e for e in made if e.name == battery.name)
        assert isinstance(source, VoltageSource)
        return -math.copysign(1.0, source.dc) * _at_rest(unit, made).branch_a(battery.name)

    amps = drawn(volts)
    if amps <= limit_a:
        return Supply(volts, amps, limited=False)
    low, high = 0.0, volts
    while high - low > NEAR_V * volts:
        middle = (low + high) / 2
        low, high = (middle, high) if drawn(middle) <= limit_a else (low, middle)
    return Supply(low, max(drawn(low), LEAST_A), limited=True)


def _at_rest(unit: Unit, elements: Sequence[Element]) -> OperatingPoint:
    build = unit.unplugged(elements)
    return solve_dc(System(Circuit((*build, *unit.bench))))
