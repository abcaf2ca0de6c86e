"""How a reading is taken: range, tips, what an ordinary meter cannot show."""

from __future__ import annotations

import math

from tonleiter.core.bench.ohms import BEEPS_BELOW_OHM
from tonleiter.core.bench.reading import RAIL, REST, Reading
from tonleiter.core.bench.unit import GENERATOR_R, LOAD, Unit
from tonleiter.core.circuit.elements import Resistor
from tonleiter.core.units.quantity import HERTZ, OHM, VOLT, format_quantity

# an ordinary meter's AC range: good to some 1 kHz, and from some 20 mV
METER_TO_HZ, METER_FROM_V = 1000.0, 20e-3
# from here on fingers on the tips count, and cheap meters show open
FINGERS_OHM, LEADS_OHM = 500e3, 20.0


def how_to(reading: Reading, nominal: float) -> str:
    """One line; ``nominal`` is what is expected, open ohms infinite. "" for nothing special."""
    if reading.step == "tone":
        return _tone(reading, nominal)
    if reading.id == REST:
        return f"The beeper will do: it beeps under some {BEEPS_BELOW_OHM:g} Ω."
    if reading.id.startswith("diode"):
        return "The range with the diode's sign; an ohms range does not open a junction."
    if reading.unit == "Ω":
        return _ohms(reading, nominal)
    if reading.unit == "A":
        return "The meter in series with plus, on its mA range; back to volts before the next one."
    if reading.id.startswith("dc "):
        return "Red tip there, black on common; the sign counts."
    return ""


def _ohms(reading: Reading, nominal: float) -> str:
    said = []
    if reading.id.startswith(RAIL):
        said.append("Red on plus.")
    if math.isinf(nominal):
        said.append("On the highest range; it may kick, and must come back to open.")
    elif nominal < LEADS_OHM:
        said.append("Hold the tips together first, and take off what they show.")
    elif nominal > FINGERS_OHM:
        said.append("Fingers off the tips.")
    if reading.id.startswith((RAIL, "in ", "up ")):
        said.append("Wait until it stands: capacitors charge.")
    return " ".join(said)


def _tone(reading: Reading, nominal: float) -> str:
    hertz = 1000.0 if reading.id == "tone in" else float(reading.id.split()[1])
    too_high, too_small = hertz > METER_TO_HZ, nominal < METER_FROM_V
    if not (too_high or too_small):
        return "An ordinary meter's AC range shows it."
    why = format_quantity(hertz, HERTZ) if too_high else format_quantity(nominal, VOLT, 2)
    return (
        f"An ordinary meter's AC range does not show {why}: use a scope, or the computer's input."
    )


def generator_says(unit: Unit) -> str:
    """What is put to the build for the tone: the generator's volts and ohms, the load."""
    ohms = {e.name: e.ohm for e in unit.bench if isinstance(e, Resistor)}
    tone = format_quantity(unit.tone_v, VOLT, 2)
    behind, load = (format_quantity(ohms[k], OHM, 2) for k in (GENERATOR_R, LOAD))
    return (
        f"Generator: {tone} RMS (open) behind {behind}, where the sound comes from; {load} across"
        " the output, as the input will be. A generator of 50 Ω needs a resistor in series."
    )
