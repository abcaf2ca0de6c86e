"""Engineering values as people write them: ``4k7``, ``4.7k``, ``100n``, ``0,1u``, ``2R2``."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from tonleiter.core.refused import RefusedError
from tonleiter.core.words import quoted

_PREFIX_EXPONENT = {
    "f": -15,
    "p": -12,
    "n": -9,
    "u": -6,
    "µ": -6,
    "μ": -6,
    "m": -3,
    "": 0,
    "r": 0,
    "R": 0,
    "k": 3,
    "K": 3,
    "M": 6,
    "G": 9,
    "T": 12,
}
_PRINTED_PREFIX = {
    -15: "f",
    -12: "p",
    -9: "n",
    -6: "µ",
    -3: "m",
    0: "",
    3: "k",
    6: "M",
    9: "G",
    12: "T",
}

_NUMBER = r"[+\-−]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+\-−]?\d+)?"
_LETTER_AS_POINT = re.compile(r"^([+\-−]?\d+)([fpnuµμmkKMGTrR])(\d+)\s*(.*)$")


# nobody writes a quantity longer than this; patterns need not be tried on more
MOST_CHARACTERS = 60
# what is smaller than this in its base unit is a rest of rounding, and printed as nothing
NOTHING = 1e-18


class QuantityError(RefusedError, ValueError):
    """The text is not a quantity of the wanted unit. The message says what would be accepted."""


@dataclass(frozen=True)
class Unit:
    """A unit that a field takes: its printed symbol, the spellings accepted, and examples.

    ``low`` and ``high`` bound every quantity of the unit, in base units: what lies outside them is
    no part, lead or level of this world. Where ``low`` is above zero it bounds the size of a value
    that is not zero; whether zero or less is allowed is the field's affair.
    ``reach`` is where a pulled or scrolled value of such a part stops.
    """

    symbol: str
    noun: str
    spellings: tuple[str, ...]
    examples: str
    prefixed: bool = True
    low: float = -1e30
    high: float = 1e30
    reach: tuple[float, float] = (-math.inf, math.inf)

    def check(self, value: float) -> float:
        """``value``, or QuantityError saying what is accepted."""
        if not math.isfinite(value):
            raise QuantityError(f"that is not a finite {self.noun}; write it like {self.examples}")
        size = abs(value) if self.low > 0 else value
        if (size < self.low and not (self.low > 0 and value == 0)) or size > self.high:
            span = f"{format_quantity(self.low, self)} to {format_quantity(self.high, self)}"
            printed = f"{value:.4g} {self.symbol}".rstrip().replace("-", "−")
            raise QuantityError(f"{printed} is no {self.noun} of this world; {span} is accepted")
        return value

    def within_reach(self, value: float, now: float) -> float:
        """A pulled value, stopped where parts end, and never moved back from where it is now."""
        return min(max(value, min(self.reach[0], now)), max(self.reach[1], now))


# U+2126 is the ohm sign that some keyboards and files give for the Greek letter
OHM = Unit(
    "Ω",
    "resistance",
    ("Ω", "\u2126", "ohm", "ohms"),
    "4k7, 4.7k or 4700",
    True,
    1e-3,
    1e12,
    (0.1, 100e6),
)
FARAD = Unit(
    "F", "capacitance", ("F", "farad"), "100n, 0.1u or 1µF", True, 1e-15, 10.0, (1e-12, 10e-3)
)
HENRY = Unit("H", "inductance", ("H", "henry"), "2.2 or 250m", True, 1e-9, 1e4, (1e-6, 1e3))
VOLT = Unit("V", "voltage", ("V", "volt", "volts"), "8, 1.5 or 820m", True, 1e-12, 1e5, (1e-9, 1e3))
AMPERE = Unit("A", "current", ("A", "amp", "amps"), "500u or 0.5m", True, 1e-15, 1e3, (1e-9, 10.0))
WATT = Unit("W", "power", ("W", "watt", "watts"), "0.25 or 20", True, 1e-15, 1e6)
HERTZ = Unit("Hz", "frequency", ("Hz", "hertz"), "300 or 2.7k", True, 1e-3, 1e9, (0.1, 1e6))
SECOND = Unit("s", "time", ("s",), "3m or 0.25", True, 1e-9, 1e4, (1e-6, 100.0))
METRE = Unit(
    "m", "length", ("m", "metre", "metres", "meter"), "5 or 0.5", False, 1e-3, 1000.0, (0.1, 100.0)
)
CUBIC_CM = Unit("cm³", "volume", ("cm³", "cm3", "ml"), "0.5 or 40", False, 1e-3, 1e5)
MILLIMETRE = Unit("mm", "distance", ("mm",), "30 or 30 mm", False, 1e-4, 1e4)
DECIBEL = Unit("dB", "gain", ("dB",), "20 or -6.5", False, -300.0, 300.0)
DBU = Unit("dBu", "level", ("dBu",), "-52 or -52 dBu", False, -300.0, 100.0)
DBA = Unit("dBA", "noise level", ("dBA", "dB(A)"), "35 or 50", False, -50.0, 200.0)
DB_SPL = Unit("dB SPL", "sound level", ("dB SPL", "dBSPL"), "130", False, -50.0, 200.0)
MV_PER_PA = Unit("mV/Pa", "sensitivity", ("mV/Pa",), "1.8", False, 1e-6, 1e4)
DBV_PER_PA = Unit("dBV/Pa", "sensitivity", ("dBV/Pa",), "-42", False, -180.0, 40.0)
PF_PER_M = Unit("pF/m", "capacitance per metre", ("pF/m",), "120", False, 1e-3, 1e5)
MOHM_PER_M = Unit("mΩ/m", "resistance per metre", ("mΩ/m", "mohm/m"), "60", False, 1e-3, 1e6)
MICROTESLA = Unit("µT", "mains field", ("µT", "uT"), "0.1 or 5", False, 1e-6, 1e5)
RATIO = Unit("", "number", (), "1 or 0.5", False, 1e-6, 1e6)


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
    refusal = QuantityError(f"{quoted(text)} is not a {unit.noun}; write it like {unit.examples}")
    if not raw:
        raise QuantityError(f"nothing typed; a {unit.noun} is wanted, like {unit.examples}")
    if len(raw) > MOST_CHARACTERS:
        raise refusal
    if unit.prefixed and (match := _LETTER_AS_POINT.match(raw)):
        whole, letter, fraction, tail = match.groups()
        if tail.strip() not in ("", *unit.spellings):
            raise refusal
        return unit.check(_scaled(f"{whole}.{fraction}", _PREFIX_EXPONENT[letter]))
    match = re.match(rf"^({_NUMBER})\s*(.*)$", raw)
    if not match:
        raise refusal
    number, tail = match.groups()
    lowered = {s.lower() for s in unit.spellings}
    if not tail or tail.lower() in lowered:
        return unit.check(_to_float(number))
    prefix, rest = tail[0], tail[1:].strip()
    if unit.prefixed and prefix in _PREFIX_EXPONENT and (not rest or rest.lower() in lowered):
        return unit.check(_scaled(number, _PREFIX_EXPONENT[prefix]))
    raise refusal


def format_quantity(value: float, unit: Unit, digits: int = 3) -> str:
    """Print ``value`` (base units) with an engineering prefix: ``4.70 kΩ`` style, without padding.

    ``digits`` are significant digits. Values of units that take no prefix print plainly.
    """
    if not math.isfinite(value):
        return "∞" if value > 0 else "−∞" if value < 0 else "?"
    if abs(value) < NOTHING:
        return f"0 {unit.symbol}".rstrip()
    if not unit.prefixed:
        return f"{_significant(value, digits)} {unit.symbol}".rstrip()
    exponent = min(12, max(-15, 3 * math.floor(math.log10(abs(value)) / 3)))
    # 999.6 rounds up to 1000: it then belongs to the next prefix
    if float(f"{abs(value) / 10.0**exponent:.{digits}g}") >= 1000:
        exponent += 3
    exponent = min(12, max(-15, exponent))
    if not 1e-6 < abs(value) / 10.0**exponent < 1e6:
        return f"{value:.{digits}g} {unit.symbol}".replace("-", "−").rstrip()
    mantissa = _significant(value / 10.0**exponent, digits)
    return f"{mantissa} {_PRINTED_PREFIX[exponent]}{unit.symbol}".rstrip()


_BARE = Unit("", "number", (), "")


def format_short(value: float, digits: int = 3) -> str:
    """Print a part value the way it is written on a schematic: ``4k7``, ``100n``, ``2R2``."""
    if value == 0:
        return "0"
    text = format_quantity(value, _BARE, digits)
    mantissa, _, prefix = text.partition(" ")
    if "." in mantissa:
        return mantissa.replace(".", prefix or "R")
    return mantissa + prefix


def _significant(value: float, digits: int) -> str:
    text = f"{value:.{digits}g}"
    if "e" in text and 1e-12 < abs(value) < 1e15:
        text = f"{float(text):.0f}" if abs(float(text)) >= 1 else f"{float(text):.12f}"
    if "." in text and "e" not in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace("-", "−")


def hundredths(volts: float) -> str:
    """DC as a cheap meter shows it, to a hundredth of a volt; there is no minus nothing."""
    shown = round(volts, 2) or 0.0
    return f"{shown:.2f} V".replace("-", "−")
