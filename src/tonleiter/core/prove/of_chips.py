"""Faults of chips: left out, dead, put in the wrong way round, legs of another order."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import permutations

from tonleiter.core.circuit.elements import OpAmp, Regulator, Resistor
from tonleiter.core.prove.edits import (
    OPEN_OHM,
    beside,
    bridge,
    in_series,
    then,
    with_fields,
    without,
)
from tonleiter.core.prove.fault import Fault

# an output that died low or high: what is left between it and its rail
STUCK_OHM = 30.0
# what leaks to a pin that floats
DRIFT_OHM = 10e6
_LEGS = {
    "plus": "+ input",
    "minus": "− input",
    "out": "output",
    "upper": "+ supply",
    "lower": "ground",
}


def chip(ref: str, u: OpAmp) -> Iterator[Fault]:
    """An operational amplifier."""
    yield Fault(f"{ref}-absent", f"{ref} left out, or dead", "dead", ref, without(u))
    low, high = bridge(u.out, u.lower, STUCK_OHM), bridge(u.out, u.upper, STUCK_OHM)
    yield Fault(f"{ref}-low", f"{ref}: its output is dead and stays low", "dead", ref, low)
    yield Fault(f"{ref}-high", f"{ref}: its output is dead and stays high", "dead", ref, high)
    turned = with_fields(u.name, upper=u.lower, lower=u.upper)
    yield Fault(f"{ref}-turned", f"{ref} turned round: supply reversed", "turned", ref, turned)
    # what is fed back then drives it on, until it stands at a rail
    inputs = then(with_fields(u.name, plus=u.minus, minus=u.plus), high)
    yield Fault(f"{ref}-inputs", f"{ref}: + and − inputs exchanged", "swapped", ref, inputs)
    for leg, words in _LEGS.items():
        change = in_series(u, leg, OPEN_OHM)
        if leg in ("plus", "minus"):
            # a pin in air drifts with what leaks in the chip
            leak = Resistor(
                f"fault:{u.name}:leak", f"{u.name}:dry", u.upper, DRIFT_OHM, noisy=False
            )
            change = then(change, beside(leak))
        says = f"{ref}: {words} not joined"
        yield Fault(f"{ref}-open-{leg}", says, "open", ref, change)


def regulator(ref: str, u: Regulator) -> Iterator[Fault]:
    """A regulator of three legs."""
    legs = ("inlet", "common", "out")
    at = [getattr(u, leg) for leg in legs]
    for order in permutations(range(3)):
        if order != (0, 1, 2):
            name = "".join("IGO"[k] for k in order)
            moved = {leg: at[order[k]] for k, leg in enumerate(legs)}
            says = f"{ref} with its legs as {name} for IGO (in, ground, out)"
            yield Fault(f"{ref}-turned-{name}", says, "turned", ref, with_fields(u.name, **moved))
    yield Fault(f"{ref}-absent", f"{ref} left out, or dead", "dead", ref, without(u))
    through = bridge(u.inlet, u.out, 1.0)
    yield Fault(f"{ref}-through", f"{ref} shorted from in to out", "dead", ref, through)
    for leg in legs:
        says, change = f"{ref}: {leg} not joined", in_series(u, leg, OPEN_OHM)
        yield Fault(f"{ref}-open-{leg}", says, "open", ref, change)
