"""Engineering values as people write them: ``4k7``, ``4.7k``, ``100n``, ``0,1u``, ``2R2``."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

_PREFIX_EXPONENT = {
    "f": -15, "p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3,
    "": 0, "r": 0, "R": 0, "k": 3, "K": 3, "M": 6, "G": 9, "T": 12,
}  # fmt: skip
_PRINTED_PREFIX = {-15: "f", -12: "p", -9: "n", -6: "µ", -3: "m", 0: "", 3: "k", 6: "M", 9: "G"}

_NUMBER = r"[+\-−]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+\-−]?\d+)?"
_LETTER_AS_POINT = re.compile(r"^([+\-−]?\d+)([fpnuµμmkKMGTrR])(\d+)\s*(.*)$")


class QuantityError(ValueError):
    """The text is not a quantity of the wanted unit. The message says what would be accepted."""


@dataclass(frozen=True)
class Unit:
    """A unit that a field takes: its printed symbol, the spellings accepted, and examples."""

    symbol: str
    noun: str
    spellings: tuple[str, ...]
    examples: str
    prefixed: bool = True


# U+2126 is the ohm sign that some keyboards and files give for the Greek letter
OHM = Unit("Ω", "resistance", ("Ω", "\u2126", "ohm", "ohms"), "4k7, 4.7k or 4700")
FARAD = Unit("F", "capacitance", ("F", "farad"), "100n, 0.1u or 1µF")
HENRY = Unit("H", "inductance", ("H", "henry"), "2.2 or 250m")
VOLT = Unit("V", "voltage", ("V", "volt", "volts"), "8, 1.5 or 820m")
AMPERE = Unit("A", "current", ("A", "amp", "amps"), "500u or 0.5m")
HERTZ = Unit("Hz", "frequency", ("Hz", "hertz"), "300 or 2.7k")
SECOND = Unit("s", "time", ("s",), "3m or 0.25")
METRE = Unit("m", "length", ("m", "metre", "metres", "meter"), "5 or 0.5", prefixed=False)
CUBIC_CM = Unit("cm³", "volume", ("cm³", "cm3", "ml"), "0.5 or 40", prefixed=False)
MILLIMETRE = Unit("mm", "distance", ("mm",), "30 or 30 mm", prefixed=False)
DECIBEL = Unit("dB", "gain", ("dB",), "20 or -6.5", prefixed=False)
DBU = Unit("dBu", "level", ("dBu",), "-52 or -52 dBu", prefixed=False)
DBA = Unit("dBA", "noise level", ("dBA", "dB(A)"), "35 or 50", prefixed=False)
DB_SPL = Unit("dB SPL", "sound level", ("dB SPL", "dBSPL"), "130", prefixed=False)
MV_PER_PA = Unit("mV/Pa", "sensitivity", ("mV/Pa",), "1.8", prefixed=False)
DBV_PER_PA = Unit("dBV/Pa", "sensitivity", ("dBV/Pa",), "-42", prefixed=False)
PF_PER_M = Unit("pF/m", "capacitance per metre", ("pF/m",), "120", prefixed=False)
MOHM_PER_M = Unit("mΩ/m", "resistance per metre", ("mΩ/m", "mohm/m"), "60", prefixed=False)
MICROTESLA = Unit("µT", "mains field", ("µT", "uT"), "0.1 or 5", prefixed=False)
RATIO = Unit("", "number", (), "1 or 0.5", prefixed=False)


def _to_float(number: str) -> float:
    return float(number.replace(",", ".").replace("−", "-"))


def _scaled(number: str, exponent: int) -> float:
    """Scale by shifting the decimal exponent in text: 4.7k is exactly float('4.7e3')."""
    number = number.replace(",", ".").replace("−", "-")
    mantissa, _, given = number.lower().partition("e")
    return float(f"{mantissa}e{int(given or 0) + exponent}")


def parse_quantity(text: str, unit: Unit) -> float:
    """Return the value of ``text`` in base units of ``unit`` (ohm, farad, volt, ...).

    Raises QuantityError with one line that says what would be accepted. Comma decimals, a letter
    standing for the decimal point (BS 1852 / IEC 60062 style ``4k7``) and a trailing unit all pass.
    """
    raw = text.strip()
    refusal = QuantityError(f"“{text}” is not a {unit.noun}; write it like {unit.examples}")
    if not raw:
        raise QuantityError(f"nothing typed; a {unit.noun} is wanted, like {unit.examples}")
    if unit.prefixed and (match := _LETTER_AS_POINT.match(raw)):
        whole, letter, fraction, tail = match.groups()
        if tail.strip() not in ("", *unit.spellings):
            raise refusal
        return _finite(_scaled(f"{whole}.{fraction}", _PREFIX_EXPONENT[letter]), refusal)
    match = re.match(rf"^({_NUMBER})\s*(.*)$", raw)
    if not match:
        raise refusal
    number, tail = match.groups()
    lowered = {s.lower() for s in unit.spellings}
    if not tail or tail.lower() in lowered:
        return _finite(_to_float(number), refusal)
    prefix, rest = tail[0], tail[1:].strip()
    if unit.prefixed and prefix in _PREFIX_EXPONENT and (not rest or rest.lower() in lowered):
        return _finite(_scaled(number, _PREFIX_EXPONENT[prefix]), refusal)
    raise refusal


def _finite(value: float, refusal: QuantityError) -> float:
    if not math.isfinite(value):
        raise refusal
    return value


def format_quantity(value: float, unit: Unit, digits: int = 3) -> str:
    """Print ``value`` (base units) with an engineering prefix: ``4.70 kΩ`` style, without padding.

    ``digits`` are significant digits. Values of units that take no prefix print plainly.
    """
    if not math.isfinite(value):
        return "∞" if value > 0 else "−∞" if value < 0 else "?"
    if value == 0:
        return f"0 {unit.symbol}".rstrip()
    if not unit.prefixed:
        return f"{_significant(value, digits)} {unit.symbol}".rstrip()
    exponent = 3 * math.floor(math.log10(abs(value)) / 3)
    # 999.6 rounds up to 1000: it then belongs to the next prefix
    if float(f"{abs(value) / 10.0**exponent:.{digits}g}") >= 1000:
        exponent += 3
    exponent = min(9, max(-15, exponent))
    mantissa = _significant(value / 10.0**exponent, digits)
    return f"{mantissa} {_PRINTED_PREFIX[exponent]}{unit.symbol}".rstrip()


def format_short(value: float, digits: int = 3) -> str:
    """Print a part value the way it is written on a schematic: ``4k7``, ``100n``, ``2R2``."""
    if value == 0:
        return "0"
    text = format_quantity(value, Unit("", "", (), ""), digits)
    mantissa, _, prefix = text.partition(" ")
    if "." in mantissa:
        return mantissa.replace(".", prefix or "R")
    return mantissa + prefix


def _significant(value: float, digits: int) -> str:
    text = f"{value:.{digits}g}"
    if "e" in text:
        text = f"{float(text):.0f}" if abs(float(text)) >= 1 else f"{float(text):.12f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace("-", "−")
