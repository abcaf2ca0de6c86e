"""Resistors and capacitors of another value: a decade off, a colour off, another of the drawer."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.circuit.elements import Capacitor, Resistor
from tonleiter.core.prove.edits import with_fields
from tonleiter.core.prove.fault import Fault
from tonleiter.core.units.preferred import between, mantissas, nearest
from tonleiter.core.units.quantity import FARAD, OHM, format_quantity

# colours that are taken for each other by lamplight, as digits: black and brown, brown and red, red
# and orange, orange and yellow, green and blue, blue and violet, violet and grey, grey and white
_LOOKS_LIKE = {
    0: (1,),
    1: (0, 2),
    2: (1, 3),
    3: (2, 4),
    4: (3,),
    5: (6,),
    6: (5, 7),
    7: (6, 8),
    8: (7, 9),
    9: (8,),
}
E24 = frozenset(round(10 * m) for m in mantissas("E24"))
# how far another value of the drawer may be off, and what is so near that it is the same
DECADE, SAME = 10.0, 0.12
# capacitors come in fewer values
OTHER_FARADS = (0.1, 0.22, 0.47, 2.2, 4.7, 10.0)


def resistor_values(ref: str, r: Resistor) -> Iterator[Fault]:
    """Every other value that hands may have taken, from the least to the largest."""
    kinds: dict[float, str] = dict.fromkeys(_drawer(r.ohm), "drawer")
    kinds |= dict.fromkeys(one_band_off(r.ohm), "band")
    kinds |= {round(r.ohm * f, 9): "decade" for f in (0.1, 10.0)}
    said = {"band": "of another colour", "drawer": "of another value"}
    for ohm in sorted(kinds):
        kind, words = kinds[ohm], format_quantity(ohm, OHM)
        change, of = with_fields(r.name, ohm=ohm), f"{ref}-value"
        if kind == "decade":
            size = "large" if ohm > r.ohm else "small"
            says = f"{ref} ten times too {size}: {words}"
            yield Fault(f"{ref}-{size}", says, kind, ref, change, of)
        else:
            name, says = f"{ref}-{kind}-{ohm:g}", f"{ref} {said[kind]}: {words}"
            yield Fault(name, says, kind, ref, change, of)


def _drawer(ohm: float) -> Iterator[float]:
    """Every value of E12 within a decade to either side; none that is about the same."""
    for value in between(ohm / DECADE, ohm * DECADE, "E12"):
        if SAME < abs(math.log(value / ohm)) < math.log(DECADE) - SAME:
            yield value


def capacitor_values(ref: str, c: Capacitor) -> Iterator[Fault]:
    """Ten times too large or small, or another one of the drawer, which are those of E6."""
    for factor in OTHER_FARADS:
        is_decade = factor in (0.1, 10.0)
        farad = c.farad * factor if is_decade else nearest(c.farad * factor, "E6")
        words, change = format_quantity(farad, FARAD), with_fields(c.name, farad=farad)
        if is_decade:
            size = "large" if factor > 1 else "small"
            said = f"{ref} ten times too {size}: {words}"
            yield Fault(f"{ref}-{size}", said, "decade", ref, change, f"{ref}-value")
        else:
            name, said = f"{ref}-drawer-{factor:g}", f"{ref} of another value: {words}"
            yield Fault(name, said, "drawer", ref, change, f"{ref}-value")


def one_band_off(ohm: float) -> tuple[float, ...]:
    """Values of the E24 series that come of one colour taken for its neighbour: of 22, 12."""
    digits, ten = first_digits(ohm)
    found = []
    for place in (10, 1):
        digit = digits // place % 10
        for other in _LOOKS_LIKE.get(digit, ()):
            made = digits + (other - digit) * place
            if made in E24:
                found.append(made * ten)
    return tuple(found)


def first_digits(ohm: float) -> tuple[int, float]:
    """The two digits of a resistor's code and what they are multiplied by. Raises ValueError."""
    if not (math.isfinite(ohm) and ohm > 0):
        raise ValueError(f"{ohm} is no resistance")
    ten = 10.0 ** (math.floor(math.log10(ohm) + 1e-9) - 1)
    return round(ohm / ten), ten
