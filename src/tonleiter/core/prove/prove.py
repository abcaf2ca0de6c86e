"""Proving a build: its readings with their brackets, its faults, what explains what was read."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tonleiter.core.bench.measure import measure
from tonleiter.core.bench.reading import Reading, Step
from tonleiter.core.bench.readings import readings_of
from tonleiter.core.bench.unit import Unit, unit_of
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.once import cached_property
from tonleiter.core.prove.fault import Fault
from tonleiter.core.prove.faults import faults_of
from tonleiter.core.prove.how import how_to
from tonleiter.core.prove.rank import Bench, Ranking
from tonleiter.core.prove.say import headline
from tonleiter.core.prove.simulated import Predicted
from tonleiter.core.prove.spread import Units
from tonleiter.core.refused import RefusedError
from tonleiter.core.units.levels import volts_from_dbu
from tonleiter.core.units.quantity import (
    AMPERE,
    OHM,
    VOLT,
    QuantityError,
    format_quantity,
    parse_quantity,
)
from tonleiter.core.words import cut, quoted

UNITS = {"Ω": OHM, "V": VOLT, "A": AMPERE}
OPEN_WORDS = ("open", "ol", "inf", "infinite", "∞")
BEEP_WORDS = ("beep", "beeps", "short")
PP_OF_RMS = 2 * math.sqrt(2)
FEWEST_FOR_PAIRS = 3
# a whistle is about as loud as the loudest speech; typical
WHISTLE_DB = 12.0


class ReadingError(RefusedError):
    """A reading that cannot be taken; one line says which, why, and what would be accepted."""


@dataclass(frozen=True)
class Proof:
    """One part of a build on the bench."""

    found: Verdict
    at: int

    @cached_property
    def unit(self) -> Unit:
        """What is on the bench."""
        return unit_of(self.found, self.at)

    @cached_property
    def readings(self) -> tuple[Reading, ...]:
        """Every reading, in the order of the path."""
        return readings_of(self.unit)

    @cached_property
    def places(self) -> dict[str, int]:
        """Where each reading stands among them, by its id."""
        return {r.id: k for k, r in enumerate(self.readings)}

    @cached_property
    def faults(self) -> tuple[Fault, ...]:
        """Every single fault."""
        return faults_of(self.found, self.unit)

    @cached_property
    def bench(self) -> Bench:
        """All faults simulated; this takes its time."""
        return Bench(self.unit, self.readings, self.faults, Units(self.unit, self.found, self.at))

    @cached_property
    def predicted(self) -> Predicted:
        """Brackets of every reading."""
        return self.bench.predicted

    def rank(self, readings: Mapping[str, float]) -> Ranking:
        """What would explain these readings. Raises ReadingError for one that is none of ours."""
        for name in readings:
            if name not in self.places:
                raise ReadingError(
                    f"there is no reading called {quoted(name)}; known:"
                    f" {cut(', '.join(self.places), 400)}"
                )
        single = self.bench.rank(readings)
        if not single.suspicious or len(readings) < FEWEST_FOR_PAIRS:
            return single
        # what no single fault explains, two may
        double = self.bench.with_pairs(readings).rank(readings)
        return double if not double.suspicious else single

    def fault(self, fault_id: str) -> Fault:
        """A fault by its id. Raises ReadingError."""
        for fault in self.faults:
            if fault.id == fault_id:
                return fault
        raise ReadingError(
            f"there is no fault called {quoted(fault_id)}; known:"
            f" {cut(', '.join(f.id for f in self.faults), 400)}"
        )

    def shown(self, fault: Fault | None) -> dict[str, float]:
        """What the simulated bench shows, with a fault in place or without; open is infinite."""
        elements = self.unit.elements
        values = measure(self.unit, fault.change(elements) if fault else elements, self.readings)
        return {
            r.id: float(v) for r, v in zip(self.readings, values, strict=True) if not math.isnan(v)
        }

    def whistle_v(self) -> float | None:
        """Volts RMS that a whistle at the speaker's distance gives; None without a microphone."""
        span = self.found.build.spans[self.at]
        assessment = self.found.assessment
        if self.at != 0 or not assessment.solution.compiled.stages[span.first].gear.acoustic:
            return None
        return volts_from_dbu(assessment.rows[span.first].speech_dbu + WHISTLE_DB)

    def how(self, reading: Reading) -> str:
        """How a reading is taken."""
        return how_to(reading, float(self.predicted.nominal[self.places[reading.id]]))

    def off(self, readings: Mapping[str, float]) -> frozenset[str]:
        """Those of the readings that lie outside their brackets."""
        return frozenset(i for i, value in readings.items() if not self.as_predicted(i, value))

    def headline(self, ranking: Ranking, readings: Mapping[str, float]) -> str:
        """What readings come to."""
        worst = ranking.explained[0].worst if ranking.explained else ""
        odd = self.readings[self.places[worst]].says if worst else ""
        return headline(ranking, len(self.off(readings)), odd)

    def as_predicted(self, reading_id: str, value: float) -> bool:
        """Whether a reading lies in its brackets."""
        k = self.places[reading_id]
        low, high = self.predicted.low[k], self.predicted.high[k]
        if math.isinf(value):
            return bool(np.isinf(high))
        return bool(low <= value <= high)


def read_value(text: str, unit: str, step: Step = "dc") -> float:
    """A reading as people write it: “0.84”, “840m”, “open”, “beep”, “2.8 Vpp” of a tone.

    Raises ReadingError: for what is no reading, and for what no meter can have shown.
    """
    word = text.strip().lower()
    opens = unit == "Ω" or step == "ring"
    if opens and word in OPEN_WORDS:
        return math.inf
    if unit == "Ω" and word in BEEP_WORDS:
        return 0.0
    if opens and OVER_RANGE.fullmatch(word):
        raise ReadingError(
            f"{quoted(text)}: a lone 1 at the left is how many meters show over range: turn to the"
            " next range up; on the highest it is open. For one ohm type 1.0"
        )
    swing = step == "tone" and word.endswith("pp")
    try:
        value = parse_quantity(text.strip()[:-2] if swing else text, UNITS[unit])
    except QuantityError as error:
        also = "; or open, or beep" if unit == "Ω" else "; or open" if opens else ""
        also += "; or volts peak to peak, as 2.8 Vpp" if step == "tone" else ""
        said = str(error)
        # what is wrong may be quoted already
        raise ReadingError(
            f"{said}{also}" if said.startswith("“") else f"{quoted(text)}: {said}{also}"
        ) from None
    value = value / PP_OF_RMS if swing else value
    check_value(value, unit, step)
    return value


# a display with nothing but a one at its left
OVER_RANGE = re.compile(r"1\s*[.,]")
# the most that a meter shows on each range of a bench like this; what no sign can stand before
MOST = {"V": 2000.0, "A": 20.0, "Ω": 1e10}
MOST_DIODE_V = 5.0


def check_value(value: float, unit: str, step: Step = "dc") -> None:
    """Refuse what no meter can have shown. Raises ReadingError."""
    of = {"V": VOLT, "A": AMPERE, "Ω": OHM}[unit]
    most = MOST_DIODE_V if unit == "V" and step == "ring" else MOST[unit]
    if not abs(value) <= most:
        what = "the diode range shows" if most == MOST_DIODE_V else "such a reading is"
        raise ReadingError(
            f"{format_quantity(value, of)}: {what} at most {format_quantity(most, of)}"
        )
    if value < 0 and unit == "Ω":
        raise ReadingError(
            f"{format_quantity(value, of)}: ohms have no sign. A minus there is a volt that stands"
            " in the circuit: battery out, capacitors discharged"
        )
    if value < 0 and step == "tone":
        raise ReadingError(f"{format_quantity(value, of)}: a tone's volts RMS have no sign")
