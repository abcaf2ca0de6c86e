"""What somebody reads that hangs on several figures at once, as it is typed, with its error."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.gear.figure import DECIBELS, VOLTS
from tonleiter.core.guide.meters import SHARES
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.kept_reading import KeptReading, ReadingKind
from tonleiter.core.units.levels import parse_level, volts_from_dbu
from tonleiter.core.units.quantity import (
    DECIBEL,
    VOLT,
    QuantityError,
    format_quantity,
    parse_quantity,
)
from tonleiter.core.words import quoted, the

# proved: a reading of a bring-up, on the bench
Kind = Literal["open", "volts", "speech", "gain", "knob", "noise", "proved"]
Source = Literal["typed", "prove", "own-radio", "recording"]
KINDS: dict[ReadingKind, str] = {
    "open": "volts on the radio's contact, nothing plugged in",
    "volts": "volts DC at the input of a stage, everything plugged in",
    "speech": "volts AC there while somebody speaks as on the air",
    "gain": "decibels from the microphone's contacts to there, by a tone of 1 kHz",
    "knob": "where the gain control stands with the meter as it should be",
    "noise": "decibels that noise between words lies under speech, recorded without compressor",
}
# those that are read at the input of some stage
AT_STAGES: tuple[Kind, ...] = ("volts", "speech", "gain")
# a cheap meter: half a per cent and a digit; AC of speech by eye, a tone at both ends, a recording,
# dB; a knob read by eye, marks
METER_SHARE, SPEECH_DB, TONE_DB, NOISE_DB, KNOB_MARKS = 0.005, 2.0, 0.7, 5.0, 2.0
LEAST_V = 0.002
# phantom power and its tolerance, with room
MOST_V = 60.0
# scales up to here are read to tenths
SMALL_SCALE = 20.0
EXAMPLES = "open=7.9, volts@STAGE=2.31, speech@STAGE=1mV, gain@STAGE=32 dB, knob=58 or noise=40"


def words_of(kind: Kind, name: str | None) -> str:
    """What is read, for people; of a stage by its name."""
    at = f"at the input of {the(name)}" if name else "at the input of a stage"
    if kind == "volts":
        return f"volts DC {at}, everything plugged in"
    if kind == "speech":
        return f"volts AC {at} while somebody speaks as on the air"
    if kind == "gain":
        return f"decibels from the microphone's contacts to {the(name or 'stage')}, by a tone"
    return "a reading of the bench" if kind == "proved" else KINDS[kind]


_BRIEF: dict[Kind, str] = {
    "open": "bias, nothing plugged in",
    "volts": "DC at {}",
    "speech": "speech at {}",
    "gain": "gain up to {}",
    "knob": "the gain stands at",
    "noise": "noise under speech",
}


def brief(kind: Kind, name: str | None) -> str:
    """What is read in few words, for beside a bar."""
    return _BRIEF.get(kind, "on the bench").format(the(name or "stage"))


def marks_text(value: float, marked_to: float) -> str:
    """A place on a knob's scale: tenths where that ends at ten or so."""
    return f"{value:.{int(marked_to <= SMALL_SCALE)}f}".replace("-", "−")


def shown(kind: Kind, value: float, marked_to: float = 100.0) -> str:
    """A value of a reading with its unit."""
    if kind == "knob":
        return marks_text(value, marked_to)
    if kind in ("gain", "noise"):
        return format_quantity(value, DECIBEL, 3)
    volts = 10 ** (value / 20) if kind == "speech" else value
    return format_quantity(volts, VOLT, 3)


class ReadingError(RefusedError):
    """A reading that is none; one line says what, and what would be accepted."""


@dataclass(frozen=True)
class Reading:
    """One of them, from wherever it was kept.

    ``stage`` is the one at whose input it was read, if it is of one. ``value`` is in volts, dB re
    1 V of speech, decibels or marks; of a bring-up in the scale of the bench, with the ``token`` of
    the reading and the ``part`` of the build. ``sd`` is one standard deviation of its error.
    ``words`` says what it is of, where its kind does not. ``key`` is where it is kept.
    """

    kind: Kind
    stage: str | None
    value: float
    sd: float
    typed: str
    part: int = 0
    token: str = ""
    words: str = ""
    key: str = ""
    source: Source = "typed"

    @property
    def same(self) -> tuple[object, ...]:
        """What two readings share that are one, read twice."""
        return self.kind, self.stage, self.part, self.token, round(self.value, 9)

    @property
    def place(self) -> tuple[object, ...]:
        """What is read, and where."""
        return self.kind, self.stage, self.part, self.token


def parse_reading(text: str, stages: tuple[str, ...], marked_to: float = 100.0) -> Reading:
    """`open=7.9`, `volts@hf-set=2.31 V`, `speech@hf-set=1 mV`, `knob=58`. Raises ReadingError."""
    name, equals, typed = text.partition("=")
    kind_text, _, stage = name.strip().partition("@")
    kind = next((k for k in KINDS if k == kind_text), None)
    if kind is None or not equals or not typed.strip():
        raise ReadingError(f"{quoted(text)}: {EXAMPLES} is wanted")
    return reading_of(kind, stage, typed, stages, text, marked_to)


def reading_of(
    kind: ReadingKind,
    stage: str | None,
    typed: str,
    stages: tuple[str, ...],
    text: str = "",
    marked_to: float = 100.0,
) -> Reading:
    """A reading of a kind, at a stage where it is of one; ``text`` names it in refusals.

    ``marked_to`` is what is printed at the end of the gain's scale. Raises ReadingError.
    """
    typed = typed.strip()
    text = text or typed
    if kind in AT_STAGES:
        if stage not in stages:
            raise ReadingError(f"{quoted(text)}: a stage is wanted: {', '.join(stages)}")
    elif stage:
        raise ReadingError(f"{quoted(text)}: {kind} is of the radio, without a stage")
    if kind == "knob":
        scale = marked_to / 100.0
        return Reading(kind, None, _marks(text, typed, marked_to), KNOB_MARKS * scale, typed)
    if kind in ("gain", "noise"):
        decibels = _decibels(text, typed)
        if kind == "noise":
            # how far under: people write it with the minus or without
            return Reading(kind, None, abs(decibels), NOISE_DB, typed)
        return Reading(kind, stage, decibels, TONE_DB, typed)
    try:
        if kind == "speech" and "db" in typed.lower():
            volts = volts_from_dbu(parse_level(typed).dbu)
        else:
            volts = VOLTS.check(parse_quantity(typed, VOLT))
    except QuantityError as error:
        raise ReadingError(f"{quoted(text)}: {error}") from None
    if volts > MOST_V:
        raise ReadingError(
            f"{quoted(text)}: {format_quantity(volts, VOLT, 3)} stand on no microphone's contact;"
            f" up to {MOST_V:g} V is accepted"
        )
    if kind == "speech":
        if volts <= 0:
            raise ReadingError(f"{quoted(text)}: more than nothing is wanted")
        return Reading(kind, stage, 20 * math.log10(volts), SPEECH_DB, typed)
    return Reading(kind, stage or None, volts, meter_sd(volts), typed)


def taken(kept: KeptReading, stages: tuple[str, ...], marked_to: float) -> Reading:
    """What a kept one says of a chain of these stages. Raises ReadingError."""
    return reading_of(kept.kind, kept.stage, kept.typed, stages, marked_to=marked_to)


def meter_sd(volts: float) -> float:
    """Of a reading of volts DC."""
    return max(METER_SHARE * abs(volts), LEAST_V)


def _decibels(text: str, typed: str) -> float:
    try:
        return DECIBELS.check(parse_quantity(typed, DECIBEL))
    except QuantityError as error:
        raise ReadingError(f"{quoted(text)}: {error}") from None


def _marks(text: str, typed: str, marked_to: float) -> float:
    """A place on a knob's scale: a figure, a share (“half”, “60 %”)."""
    plain = " ".join(typed.lower().replace(",", ".").replace("−", "-").split())
    try:
        if plain in SHARES:
            marks = SHARES[plain] * marked_to
        elif plain.endswith("%"):
            marks = float(plain[:-1]) / 100 * marked_to
        else:
            marks = float(plain)
    except ValueError:
        marks = math.nan
    if not 0 <= marks <= marked_to:
        raise ReadingError(
            f"{quoted(text)}: a place on the knob's scale is wanted, 0 to {marked_to:g}, or a share"
            " as half or 60 %"
        )
    return marks
