"""Why a reading of the bench should be what it is, and which parts it follows most."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from tonleiter.core.bench.measure import measure
from tonleiter.core.bench.reading import Reading
from tonleiter.core.circuit.elements import (
    Capacitor,
    CurrentSource,
    Element,
    Inductor,
    Resistor,
    VoltageSource,
)
from tonleiter.core.prove.prove import UNITS, Proof
from tonleiter.core.report.why.hangs import MOVED_SHARE, strongest
from tonleiter.core.report.why.model import Step, Why
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.stop import checkpoint
from tonleiter.core.units.quantity import FARAD, HENRY, OHM, VOLT, Unit, format_quantity
from tonleiter.core.words import the, within

# what of a part is moved, and how it is printed
_VALUES: dict[type, tuple[str, Unit]] = {
    Resistor: ("ohm", OHM),
    Capacitor: ("farad", FARAD),
    Inductor: ("henry", HENRY),
    VoltageSource: ("dc", VOLT),
    CurrentSource: ("dc", VOLT),
}


def why_reading(proof: Proof, reading: Reading) -> Why:
    """Out of the circuit on the bench, with its parts as bought. Raises StoppedError."""
    k = proof.places[reading.id]
    known = proof.predicted
    nominal, low, high = (float(x[k]) for x in (known.nominal, known.low, known.high))
    plugged = " with the microphone and the radio plugged in" if reading.step != "ring" else ""
    steps = (
        Step(f"the circuit on the bench{plugged}, solved with its printed values",
             _said(nominal, reading)),
        Step("with parts within their tolerances, read with your meter, from", _said(low, reading)),
        Step("to", _said(high, reading)),
    )  # fmt: skip
    asks = f"Why {_said(nominal, reading)}: {within(reading.says)}?"
    return Why(asks, steps).with_hangs(_hangs(proof, reading, nominal))


def _said(value: float, reading: Reading) -> str:
    if math.isinf(value):
        return "open"
    return format_quantity(value, UNITS[reading.unit], 2)


def _hangs(proof: Proof, reading: Reading, nominal: float) -> tuple[Step, ...]:
    """Each part a tenth larger, and the bench read again."""
    if not math.isfinite(nominal):
        return ()
    return strongest(_moved(proof, reading, nominal), _said(nominal, reading))


def _moved(proof: Proof, reading: Reading, nominal: float) -> Iterator[tuple[float, Step]]:
    """What a tenth more of each part makes of a reading, and by how much that is another one."""
    k = proof.places[reading.id]
    for place, element in enumerate(proof.unit.elements):
        checkpoint()
        other = _larger(element)
        if other is None:
            continue
        elements = (*proof.unit.elements[:place], other, *proof.unit.elements[place + 1 :])
        value = float(measure(proof.unit, elements, proof.readings)[k])
        if math.isfinite(value) and value != nominal:
            says = f"{_named(proof, element)}: a tenth more"
            yield abs(value - nominal), Step(says, _said(value, reading), _stage(proof, element))


def _larger(element: Element) -> Element | None:
    known = _VALUES.get(type(element))
    if known is None:
        return None
    field, _ = known
    value = getattr(element, field)
    if not value:
        return None
    return replace(element, **{field: value * (1 + MOVED_SHARE)})


def _named(proof: Proof, element: Element) -> str:
    """A part by its value and the piece that it stands in."""
    field, unit = _VALUES[type(element)]
    value = format_quantity(float(getattr(element, field)), unit, 2)
    piece = next((s.gear.name for s in _stages(proof) if s.id == _stage(proof, element)), "")
    return f"{value} in {the(piece)}" if piece else f"{value} on the bench"


def _stage(proof: Proof, element: Element) -> str:
    stage = element.name.partition(":")[0]
    return stage if any(s.id == stage for s in _stages(proof)) else ""


def _stages(proof: Proof) -> tuple[PlacedStage, ...]:
    return proof.found.assessment.solution.compiled.stages
