"""What somebody reads that hangs on several figures at once, as it is typed, with its error."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tonleiter.core.gear.figure import VOLTS
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.kept_reading import KeptReading, ReadingKind
from tonleiter.core.units.quantity import VOLT, QuantityError, format_quantity, parse_quantity
from tonleiter.core.words import quoted

Kind = ReadingKind
KINDS: dict[Kind, str] = {
    "open": "volts on the radio's contact, nothing plugged in",
    "volts": "volts DC at the input of a stage, everything plugged in",
    "speech": "volts AC there while somebody speaks as on the air",
    "knob": "where the gain control stands with the meter as it should be",
}


# those that are read at the input of some stage
AT_STAGES: tuple[Kind, ...] = ("volts", "speech")


def words_of(kind: Kind, name: str | None) -> str:
    """What is read, for people; of a stage by its name."""
    at = f"at the input of the {name}" if name else "at the input of a stage"
    return {
        "open": KINDS["open"],
        "volts": f"volts DC {at}, everything plugged in",
        "speech": f"volts AC {at} while somebody speaks as on the air",
        "knob": KINDS["knob"],
    }[kind]


def shown(kind: Kind, value: float) -> str:
    """A value of a reading with its unit."""
    if kind == "knob":
        return f"{value:.0f}"
    volts = 10 ** (value / 20) if kind == "speech" else value
    return format_quantity(volts, VOLT, 3)


# minutes that each takes, and with what
EFFORT: dict[Kind, tuple[float, str]] = {
    "open": (1.0, "a multimeter"),
    "volts": (2.0, "a multimeter"),
    "speech": (2.0, "a multimeter, AC"),
    "knob": (3.0, "the radio's own meter, a dummy load"),
}
# a cheap meter: half a per cent and a digit; AC of speech by eye, dB; a knob read by eye, marks
METER_SHARE, SPEECH_DB, KNOB_MARKS = 0.005, 2.0, 2.0
LEAST_V = 0.002


class ReadingError(RefusedError):
    """A reading that is none; one line says what, and what would be accepted."""


@dataclass(frozen=True)
class Reading:
    """One of them: at which stage's input, if it is of one; volts, dB re 1 V of speech, or marks.

    ``sd`` is one standard deviation of its error.
    """

    kind: Kind
    stage: str | None
    value: float
    sd: float
    typed: str


def parse_reading(text: str, stages: tuple[str, ...]) -> Reading:
    """`open=7.9`, `volts@hf-set=2.31 V`, `speech@hf-set=1 mV`, `knob=58`. Raises ReadingError."""
    name, equals, typed = text.partition("=")
    kind_text, _, stage = name.strip().partition("@")
    kind = next((k for k in KINDS if k == kind_text), None)
    if kind is None or not equals or not typed.strip():
        raise ReadingError(
            f"{quoted(text)}: open=7.9, volts@STAGE=2.31, speech@STAGE=1mV or knob=58 is wanted"
        )
    return reading_of(kind, stage, typed, stages, text)


def reading_of(
    kind: Kind, stage: str | None, typed: str, stages: tuple[str, ...], text: str = ""
) -> Reading:
    """A reading of a kind, at a stage where it is of one; ``text`` names it in refusals.

    Raises ReadingError.
    """
    typed = typed.strip()
    text = text or typed
    if kind in AT_STAGES:
        if stage not in stages:
            raise ReadingError(f"{quoted(text)}: a stage is wanted: {', '.join(stages)}")
    elif stage:
        raise ReadingError(f"{quoted(text)}: {kind} is of the radio, without a stage")
    if kind == "knob":
        return Reading(kind, None, _marks(text, typed), KNOB_MARKS, typed)
    try:
        volts = VOLTS.check(parse_quantity(typed, VOLT))
    except QuantityError as error:
        raise ReadingError(f"{quoted(text)}: {error}") from None
    if kind == "speech":
        if volts <= 0:
            raise ReadingError(f"{quoted(text)}: more than nothing is wanted")
        return Reading(kind, stage, 20 * math.log10(volts), SPEECH_DB, typed)
    return Reading(kind, stage or None, volts, meter_sd(volts), typed)


def taken(kept: KeptReading, stages: tuple[str, ...]) -> Reading:
    """What a kept one says of a chain of these stages. Raises ReadingError."""
    return reading_of(kept.kind, kept.stage, kept.typed, stages)


def meter_sd(volts: float) -> float:
    """Of a reading of volts DC."""
    return max(METER_SHARE * abs(volts), LEAST_V)


def _marks(text: str, typed: str) -> float:
    try:
        marks = float(typed.replace(",", "."))
    except ValueError:
        marks = math.nan
    if not 0 <= marks <= 1000:
        raise ReadingError(f"{quoted(text)}: a place on the knob's scale is wanted, 0 to 100")
    return marks
