"""Microphone sensitivity in the ways that data sheets give it.

1 µbar is 0.1 Pa, so 0 dB re 1 V/µbar is 20 dBV/Pa. "Close talk" is the open-circuit voltage for the
reference voice of ITU-T P.64 (−4.7 dBPa at 25 mm from the lips).
"""

from __future__ import annotations

import math
import re

from tonleiter.core.units.levels import dbu_from_volts
from tonleiter.core.units.quantity import (
    DBV_PER_PA,
    MOST_CHARACTERS,
    VOLT,
    QuantityError,
    parse_quantity,
)
from tonleiter.core.words import quoted

CLOSE_TALK_PA = 10 ** (-4.7 / 20)
_FORMS = "1.8 mV/Pa, −55 dBV/Pa, −75 dB re 1 V/µbar or 1 mV close talk"

_NUMBER = r"(?P<number>[+\-−]?[\d.,]+)"
_DBV_PER_PA = re.compile(rf"^{_NUMBER}\s*(dBV?\s*/\s*Pa|dB\s*(re|rel)\.?\s*1?\s*V\s*/\s*Pa)$", re.I)
_DB_PER_UBAR = re.compile(
    rf"^{_NUMBER}\s*(dBV?\s*/\s*[uµμ]bar|dB\s*(re|rel)\.?\s*1?\s*V\s*/\s*[uµμ]bar)$", re.I
)
_PER_PA = re.compile(r"^(?P<volts>.*V)\s*/\s*Pa$", re.I)
_CLOSE = re.compile(r"^(?P<volts>.*V)\s*(at\s+)?close[\s-]*talk$", re.I)


def dbu_at_spl(mv_per_pa: float, spl_db: float) -> float:
    """Open-circuit level in dBu of a microphone in sound of ``spl_db`` re 20 µPa."""
    return dbu_from_volts(mv_per_pa * 1e-3 * 20e-6 * 10 ** (spl_db / 20))


def parse_sensitivity(text: str) -> float:
    """Volts per pascal from any of the usual forms. Raises QuantityError."""
    body = text.strip()
    refusal = QuantityError(f"{quoted(text)} is not a sensitivity; write it like {_FORMS}")
    if len(body) > MOST_CHARACTERS:
        raise refusal
    if match := _DBV_PER_PA.match(body):
        return 10 ** (_decibels(match["number"], refusal) / 20)
    if match := _DB_PER_UBAR.match(body):
        return 10 ** ((_decibels(match["number"], refusal) + 20) / 20)
    for pattern, pressure_pa in ((_PER_PA, 1.0), (_CLOSE, CLOSE_TALK_PA)):
        if match := pattern.match(body):
            try:
                volts = parse_quantity(match["volts"], VOLT)
            except QuantityError:
                raise refusal from None
            if volts <= 0:
                raise refusal
            return volts / pressure_pa
    raise refusal


def _decibels(number: str, refusal: QuantityError) -> float:
    try:
        return DBV_PER_PA.check(float(number.replace(",", ".").replace("−", "-")))
    except QuantityError:
        raise
    except ValueError:
        raise refusal from None


def dbv_per_pa(volts_per_pa: float) -> float:
    """Sensitivity in dB re 1 V/Pa."""
    return 20 * math.log10(volts_per_pa)
