"""Levels and gains. A level has a reference, a gain has none, and the two do not mix by accident.

References (IEC 60268-17 usage): 0 dBu is the voltage of 1 mW in 600 ohm, sqrt(0.6) V = 0.7746 V;
0 dBV is 1 V; 0 dBm (600) is a power and equals 0 dBu only across 600 ohm; 0 dB SPL is 20 uPa.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from tonleiter.core.units.quantity import (
    DBU,
    MOST_CHARACTERS,
    VOLT,
    QuantityError,
    format_quantity,
    parse_quantity,
)
from tonleiter.core.words import quoted

DBU_REFERENCE_V = math.sqrt(0.6)
SPL_REFERENCE_PA = 20e-6


def db_from_ratio(ratio: float) -> float:
    """20 log10 of an amplitude ratio; minus infinity for zero."""
    return 20.0 * math.log10(ratio) if ratio > 0 else -math.inf


def ratio_from_db(gain_db: float) -> float:
    """Amplitude ratio of a gain in dB."""
    return float(10.0 ** (gain_db / 20.0))


def power_sum_db(*levels_db: float) -> float:
    """Level of several that know nothing of each other, together: their powers add."""
    return 10.0 * math.log10(max(sum(10.0 ** (level / 10.0) for level in levels_db), 1e-30))


def dbu_from_volts(volts_rms: float) -> float:
    """Level in dBu of a voltage in volts RMS."""
    return db_from_ratio(volts_rms / DBU_REFERENCE_V)


def volts_from_dbu(level_dbu: float) -> float:
    """Volts RMS of a level in dBu."""
    return DBU_REFERENCE_V * ratio_from_db(level_dbu)


def spl_from_pascals(pressure_pa: float) -> float:
    """Sound pressure level in dB SPL of a pressure in pascals RMS."""
    return db_from_ratio(pressure_pa / SPL_REFERENCE_PA)


@dataclass(frozen=True, order=True)
class Gain:
    """A ratio of two levels, in dB. Adds to gains and levels."""

    db: float

    def __add__(self, other: Gain) -> Gain:
        return Gain(self.db + other.db) if isinstance(other, Gain) else NotImplemented

    def __sub__(self, other: Gain) -> Gain:
        return Gain(self.db - other.db) if isinstance(other, Gain) else NotImplemented

    def __neg__(self) -> Gain:
        return Gain(-self.db)

    @property
    def ratio(self) -> float:
        """Amplitude ratio."""
        return ratio_from_db(self.db)


@dataclass(frozen=True, order=True)
class Level:
    """A voltage level. Level + Gain is a Level, Level − Level a Gain, Level + Level an error."""

    volts_rms: float

    @classmethod
    def from_dbu(cls, dbu: float) -> Level:
        """From dBu (re 0.7746 V, no load implied)."""
        return cls(volts_from_dbu(dbu))

    @classmethod
    def from_dbv(cls, dbv: float) -> Level:
        """From dBV (re 1 V)."""
        return cls(ratio_from_db(dbv))

    @classmethod
    def from_volts_pp(cls, volts_pp: float) -> Level:
        """From the peak-to-peak volts of a sine."""
        return cls(volts_pp / (2.0 * math.sqrt(2.0)))

    @classmethod
    def from_dbm(cls, dbm: float, load_ohm: float = 600.0) -> Level:
        """From a power in dBm into ``load_ohm``; equals dBu only for 600 ohm."""
        return cls(math.sqrt(1e-3 * 10.0 ** (dbm / 10.0) * load_ohm))

    @classmethod
    def from_dbfs(cls, dbfs: float, full_scale_v_rms: float) -> Level:
        """From dBFS of a converter whose 0 dBFS sine is ``full_scale_v_rms``."""
        return cls(full_scale_v_rms * ratio_from_db(dbfs))

    @property
    def dbu(self) -> float:
        """Level re 0.7746 V."""
        return dbu_from_volts(self.volts_rms)

    @property
    def dbv(self) -> float:
        """Level re 1 V."""
        return db_from_ratio(self.volts_rms)

    @property
    def volts_pp(self) -> float:
        """Peak-to-peak volts of a sine of this level."""
        return 2.0 * math.sqrt(2.0) * self.volts_rms

    def __add__(self, other: Gain) -> Level:
        return Level(self.volts_rms * other.ratio) if isinstance(other, Gain) else NotImplemented

    def __sub__(self, other: Level) -> Gain:
        if not isinstance(other, Level):
            return NotImplemented
        return Gain(db_from_ratio(self.volts_rms / other.volts_rms))


_LEVEL_TEXT = re.compile(
    r"^\s*(?P<number>[+\-−]?[\d.,]+(?:[eE][+-]?\d+)?)\s*(?P<unit>dBu|dBV|dBm|dBFS|dB|)\s*$", re.I
)


def parse_level(text: str) -> Level:
    """Read a level as people write it: ``-42 dBV``, ``8.2 mV``, ``30 mVpp``, ``-52`` (dBu).

    A bare number is dBu, the unit shown by default. ``dB`` alone is refused, since it names no
    reference. Raises QuantityError.
    """
    accepted = "write it like −52 dBu, −42 dBV, 8.2 mV or 30 mVpp"
    refusal = QuantityError(f"{quoted(text)} is not a level; {accepted}")
    if len(text.strip()) > MOST_CHARACTERS:
        raise refusal
    if match := _LEVEL_TEXT.match(text):
        try:
            number = float(match["number"].replace(",", ".").replace("−", "-"))
        except ValueError:
            raise refusal from None
        unit = match["unit"].lower()
        if unit == "db":
            raise QuantityError(f"{quoted(text)} names no reference; {accepted}")
        if unit == "dbfs":
            raise QuantityError(
                f"{quoted(text)} needs the converter's full-scale volts; {accepted}"
            )
        DBU.check(number)
        if unit == "dbv":
            return Level.from_dbv(number)
        if unit == "dbm":
            return Level.from_dbm(number)
        return Level.from_dbu(number)
    body = text.strip()
    peak_to_peak = bool(re.search(r"v\s*p-?p$", body, re.I))
    body = re.sub(r"(?<=[vV])\s*(p-?p|rms|eff)$", "", body, flags=re.I)
    try:
        volts = parse_quantity(body, VOLT)
    except QuantityError:
        raise refusal from None
    if volts <= 0:
        raise QuantityError(f"{quoted(text)} is not above zero volts; {accepted}")
    return Level.from_volts_pp(volts) if peak_to_peak else Level(volts)


def format_dbu(level_dbu: float, digits: int = 1) -> str:
    """Print a level in dBu with a real minus sign, never a bare ``dB``."""
    return f"{signed(level_dbu, digits)} dBu"


def format_volts(level_dbu: float) -> str:
    """Print the volts RMS of a level in dBu, engineering style."""
    return format_quantity(volts_from_dbu(level_dbu), VOLT, 2)


def signed(value: float, digits: int = 1, plus: bool = False) -> str:
    """Fixed decimals with a typographic minus; ``plus`` adds a plus to values above zero."""
    if not math.isfinite(value):
        return "—"
    text = f"{value:+.{digits}f}" if plus else f"{value:.{digits}f}"
    if float(text) == 0:
        text = f"{0:.{digits}f}"
    return text.replace("-", "−")
