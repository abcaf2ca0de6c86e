"""What a meter of the bench shows, as somebody reads it off."""

from __future__ import annotations

import math

from tonleiter.core.bench.scope import Flattens
from tonleiter.core.prove.prove import PP_OF_RMS
from tonleiter.core.units.quantity import AMPERE, OHM, VOLT, format_quantity

_UNITS = {"Ω": OHM, "V": VOLT, "A": AMPERE}
# what no meter of a bench shows
LEAST_SHOWN = {"V": 1e-5, "A": 1e-7}


def flattens(found: Flattens | None) -> str:
    """Where the output flattens as the generator is turned up, in words."""
    if found is None:
        return (
            "Does not flatten here: parts that are solved over their curves are not driven so"
            " far, and where the others end is on the Ladder (3)."
        )
    if found.out_v == 0:
        return "Nothing comes out, so nothing flattens."
    return (
        f"Flattens from {as_read(found.in_v, 'V')} in, {as_read(found.out_v, 'V')} out (RMS),"
        f" {as_read(PP_OF_RMS * found.out_v, 'V')} peak to peak."
    )


def as_read(value: float, unit: str, digits: int = 4) -> str:
    """A value as a meter of so many digits shows it."""
    if math.isinf(value):
        return "open"
    if abs(value) < LEAST_SHOWN.get(unit, 0.0):
        value = 0.0
    if unit == "Ω" and value < 0.05:
        value = 0.0
    return format_quantity(value, _UNITS[unit], digits).replace("\u202f", " ")
