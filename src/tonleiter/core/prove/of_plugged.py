"""Faults of what is plugged to a build: the input's bias and the microphone, which hands chose."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.bench.unit import BIAS, Unit
from tonleiter.core.circuit.elements import Jfet, ModulatedResistor, Resistor, VoltageSource
from tonleiter.core.prove.edits import OPEN_OHM, SHORT_OHM, in_series, instead, with_fields
from tonleiter.core.prove.fault import Fault


def of_what_is_plugged(unit: Unit) -> Iterator[Fault]:
    """They are no part of the build, but hands chose them."""
    for element in unit.elements:
        match element:
            case VoltageSource(name=name, dc=dc) if name == BIAS:
                for word, says, volts in (
                    ("off", "the input gives no bias", 0.0),
                    ("half", "another bias source: half the volts", 0.5 * dc),
                    ("reversed", "another bias source: minus where plus should be", -dc),
                ):
                    change = with_fields(name, dc=volts)
                    yield Fault(f"bias-{word}", says, "supply", "bias", change)
            case Jfet(name=name, drain=p, source=n) if name in unit.source:
                yield from _capsule(name, p, n)
            case ModulatedResistor(name=name, p=p, n=n) if name in unit.source:
                yield from _capsule(name, p, n)
    for coil in unit.coil:
        broken = in_series(coil, "p", OPEN_OHM)
        yield Fault("coil-open", "the microphone's coil is dead: open", "coil", "coil", broken)
        short = with_fields(coil.name, ohm=SHORT_OHM)
        yield Fault("coil-short", "the microphone's coil is shorted", "dead", "coil", short)


def _capsule(name: str, p: str, n: str) -> Iterator[Fault]:
    for word, says, ohm in (
        ("dead", "the capsule is dead: it draws nothing", OPEN_OHM),
        ("short", "the capsule is shorted", SHORT_OHM),
    ):
        made = Resistor(name, p, n, ohm, noisy=False)
        yield Fault(f"capsule-{word}", says, "dead", "capsule", instead(made))
