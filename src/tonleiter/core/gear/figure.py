"""A figure of a piece of gear: its value, how sure it is, and where it comes from."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, Literal, get_args

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    PrivateAttr,
    ValidationInfo,
    WithJsonSchema,
    field_validator,
    model_serializer,
)
from pydantic_core import PydanticCustomError

from tonleiter.core.units import quantity as q
from tonleiter.core.units.levels import parse_level
from tonleiter.core.units.quantity import (
    MOST_CHARACTERS,
    QuantityError,
    Unit,
    format_quantity,
    parse_quantity,
)
from tonleiter.core.units.sensitivity import dbv_per_pa, parse_sensitivity
from tonleiter.core.words import quoted

Basis = Literal["typical", "manual", "measured"]


class Figure(BaseModel):
    """One figure in the base unit of its field, with an optional range."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    value: float
    low: float | None = None
    high: float | None = None
    basis: Basis = "typical"
    measured_on: date | None = None

    @property
    def draws(self) -> tuple[float, ...]:
        """What it may be, as far as readings told; empty where nobody drew it."""
        return ()

    @property
    def told(self) -> bool:
        """Whether a reading said something of it."""
        return False

    def drawn(self, draws: Sequence[float], told: bool = True) -> Figure:
        """The same figure, which may be any of these."""
        made = DrawnFigure.model_validate(dict(self))
        made._draws, made._told = tuple(draws), told
        return made

    @field_validator("measured_on", mode="after")
    @classmethod
    def _only_if_measured(cls, day: date | None, info: ValidationInfo) -> date | None:
        """A day says nothing about a figure that nobody measured."""
        return day if info.data.get("basis") == "measured" else None

    @property
    def tolerance_percent(self) -> float | None:
        """Tolerance, if the range lies evenly on both sides of the value."""
        if self.low is None or self.high is None or self.value <= 0 or self.high <= self.low:
            return None
        below, above = self.value - self.low, self.high - self.value
        even = abs(below - above) <= 1e-9 * self.value
        return 100 * below / self.value if even else None

    def typed_over(self, old: Figure, on: date, is_choice: bool = False) -> Figure:
        """The figure as typed in the place of ``old``: where it then comes from.

        What somebody types over a typical figure was looked up; a measured one was measured again.
        A setting that one chooses has no origin.
        """
        basis = old.basis
        if not is_choice and basis == "typical":
            basis = "manual"
        return self.model_copy(
            update={"basis": basis, "measured_on": on if basis == "measured" else None}
        )

    def of_next_origin(self, on: date) -> Figure:
        """The same figure of the next origin in turn; ``on`` is the day if it was measured."""
        bases: tuple[Basis, ...] = get_args(Basis)
        basis = bases[(bases.index(self.basis) + 1) % len(bases)]
        return self.model_copy(
            update={"basis": basis, "measured_on": on if basis == "measured" else None}
        )

    @model_serializer
    def _plain(self) -> float | dict[str, Any]:
        """A bare number says all there is to say about a typical figure without a range."""
        full = {
            "value": self.value,
            "low": self.low,
            "high": self.high,
            "basis": self.basis,
            "measured_on": self.measured_on.isoformat() if self.measured_on else None,
        }
        if full["low"] is None and full["high"] is None and full["basis"] == "typical":
            return self.value
        return {k: v for k, v in full.items() if v is not None}


class DrawnFigure(Figure):
    """A figure with draws: those of figures learned together hang together place by place.

    They are never written down: a file holds what somebody typed.
    """

    _draws: tuple[float, ...] = PrivateAttr(())
    _told: bool = PrivateAttr(True)

    @property
    def draws(self) -> tuple[float, ...]:
        """What it may be."""
        return self._draws

    @property
    def told(self) -> bool:
        """Whether a reading said something of it."""
        return self._told


@dataclass(frozen=True)
class Quantity:
    """What a figure's field accepts: its unit, and limits narrower than the unit's own bounds.

    ``above`` zero means that the size of the unit's smallest value is the least.
    """

    unit: Unit
    above: float | None = None
    at_least: float | None = None
    at_most: float | None = None

    @property
    def low(self) -> float:
        """The least that is accepted."""
        if self.at_least is not None:
            return self.at_least
        return self.unit.low

    @property
    def high(self) -> float:
        """The most that is accepted."""
        return self.unit.high if self.at_most is None else min(self.at_most, self.unit.high)

    def check(self, value: float) -> float:
        """Return ``value`` or raise QuantityError saying what would be accepted."""
        if math.isfinite(value):
            printed = format_quantity(value, self.unit, 4)
            if self.above is not None and value <= self.above:
                limit = format_quantity(self.unit.low, self.unit)
                raise QuantityError(f"{printed} is too little; at least {limit} is wanted")
            if value < self.low:
                limit = format_quantity(self.low, self.unit)
                raise QuantityError(f"{printed} is too little; at least {limit} is wanted")
            if value > self.high:
                limit = format_quantity(self.high, self.unit)
                raise QuantityError(f"{printed} is too much; at most {limit} is wanted")
        return self.unit.check(value)

    def held(self, value: float, now: float) -> float:
        """A pulled or scrolled value, stopped where parts end and where this field ends."""
        reached = self.unit.within_reach(value, now)
        return min(max(reached, self.low), self.high)

    def middle(self, low: float, high: float) -> float:
        """The middle of a range: in ratio where the unit takes prefixes, else half way."""
        if low > 0 and self.unit.prefixed:
            return math.exp((math.log(low) + math.log(high)) / 2)
        return low + (high - low) / 2

    def parse(self, text: str) -> Figure:
        """Read ``4k7``, ``4k7 5%`` or ``600..2000`` as typed. Raises QuantityError."""
        body = text.strip()
        if len(body) > 2 * MOST_CHARACTERS:
            raise QuantityError(
                f"{quoted(body)} is too long for a {self.unit.noun}; {_examples(self)} will do"
            )
        if match := re.match(r"^(.*?)\s*(?:\.\.|…)\s*(.*)$", body):
            low, high = (self.check(self._number(part)) for part in match.groups())
            if low > high:
                raise QuantityError(f"{quoted(text)}: the range must go from low to high")
            middle = min(max(self.check(self.middle(low, high)), low), high)
            return Figure(value=middle, low=low, high=high)
        if match := re.match(r"^(.*?)\s*(?:±|\+/?-)?\s*(\d+(?:[.,]\d+)?)\s*%$", body):
            value = self.check(self._number(match[1]))
            spread = abs(value) * float(match[2].replace(",", ".")) / 100
            low, high = self.check(value - spread), self.check(value + spread)
            return Figure(value=value, low=low, high=high)
        return Figure(value=self.check(self._number(body)))

    def _number(self, text: str) -> float:
        if self.unit is q.DBU:
            # through volts and back: −20 must not come out as −19.999999999999996
            return round(parse_level(text).dbu, 9)
        if self.unit in (q.MV_PER_PA, q.DBV_PER_PA):
            return self._sensitivity(text)
        return parse_quantity(text, self.unit)

    def _sensitivity(self, text: str) -> float:
        """Any of the usual forms; a bare number is in the field's own unit."""
        try:
            return parse_quantity(text, self.unit)
        except QuantityError:
            volts_per_pa = parse_sensitivity(text)
        return volts_per_pa * 1e3 if self.unit is q.MV_PER_PA else dbv_per_pa(volts_per_pa)

    def show(self, figure: Figure, digits: int = 3) -> str:
        """Print a figure with its unit; a range with both ends."""
        if (percent := figure.tolerance_percent) is not None:
            return f"{format_quantity(figure.value, self.unit, digits)} ± {percent:.3g} %"
        if figure.low is not None and figure.high is not None:
            low = format_quantity(figure.low, self.unit, digits)
            return f"{low} … {format_quantity(figure.high, self.unit, digits)}"
        return format_quantity(figure.value, self.unit, digits)


def _reader(quantity: Quantity) -> Callable[[Any, ValidationInfo], Any]:
    def read(raw: Any, info: ValidationInfo) -> Any:  # noqa: ANN401 - a validator sees anything
        try:
            if isinstance(raw, bool) or raw is None:
                raise QuantityError(f"a {quantity.unit.noun} is wanted, like {_examples(quantity)}")
            if isinstance(raw, int | float):
                return Figure(value=quantity.check(_float(raw, quantity)))
            if isinstance(raw, str):
                return quantity.parse(raw)
            if isinstance(raw, dict):
                return _from_mapping(quantity, raw)
            if isinstance(raw, Figure):
                _in_order(
                    [quantity.check(n) for n in (raw.low, raw.value, raw.high) if n is not None]
                )
        except QuantityError as error:
            raise PydanticCustomError("figure", "{why}", {"why": str(error)}) from None
        return raw

    return read


def _float(number: float, quantity: Quantity) -> float:
    try:
        return float(number)
    except OverflowError:
        raise QuantityError(f"{quoted(number)} is no {quantity.unit.noun} of this world") from None


def _from_mapping(quantity: Quantity, raw: dict[str, Any]) -> dict[str, Any]:
    """Check the numbers of a written-out figure; wrong keys are left to the model to refuse."""
    checked = dict(raw)
    for key in ("value", "low", "high"):
        number = raw.get(key)
        if isinstance(number, bool):
            raise QuantityError(
                f"“{key}” is {str(number).lower()}; a {quantity.unit.noun} is wanted"
            )
        if isinstance(number, str):
            checked[key] = quantity.parse(number).value
        elif isinstance(number, int | float):
            checked[key] = quantity.check(_float(number, quantity))
    numbers = [checked.get(k) for k in ("low", "value", "high")]
    _in_order([n for n in numbers if isinstance(n, float)])
    return checked


def _in_order(numbers: list[float]) -> None:
    if numbers != sorted(numbers):
        raise QuantityError("a range must have low ≤ value ≤ high")


def _examples(quantity: Quantity) -> str:
    return quantity.unit.examples


def _schema(quantity: Quantity) -> WithJsonSchema:
    unit = quantity.unit.symbol or "number"
    number = {"type": "number", "minimum": quantity.low, "maximum": quantity.high}
    written_out = {
        "type": "object",
        "additionalProperties": False,
        "required": ["value"],
        "properties": {
            "value": number,
            "low": number,
            "high": number,
            "basis": {"enum": ["typical", "manual", "measured"]},
            "measured_on": {"type": "string", "format": "date"},
        },
    }
    text = {"type": "string", "description": f"as people write it, in {unit}"}
    return WithJsonSchema({"anyOf": [number, text, written_out], "description": f"in {unit}"})


_OHM = Quantity(q.OHM, above=0.0)
_FARAD = Quantity(q.FARAD, above=0.0)
_HENRY = Quantity(q.HENRY, above=0.0)
_VOLT = Quantity(q.VOLT, at_least=0.0)
_AMPERE = Quantity(q.AMPERE, above=0.0)
_SECOND = Quantity(q.SECOND, above=0.0)
_WATT = Quantity(q.WATT, above=0.0)
_HERTZ = Quantity(q.HERTZ, above=0.0)
_METRE = Quantity(q.METRE, above=0.0)
_MILLIMETRE = Quantity(q.MILLIMETRE, at_least=1.0, at_most=5000.0)
_SMALL_MM = Quantity(q.MILLIMETRE, at_least=0.0, at_most=300.0)
_OPENING_MM = Quantity(q.MILLIMETRE, at_least=0.1, at_most=300.0)
_CM3 = Quantity(q.CUBIC_CM, at_least=0.01, at_most=100e3)
_DECIBEL = Quantity(q.DECIBEL, at_least=-120.0, at_most=120.0)
_UNDER = Quantity(q.DECIBEL, at_least=-120.0, at_most=0.0)
_DBU = Quantity(q.DBU, at_least=-160.0, at_most=60.0)
_DBA = Quantity(q.DBA, at_least=0.0, at_most=130.0)
_SPL = Quantity(q.DB_SPL, at_least=60.0, at_most=180.0)
_MV_PER_PA = Quantity(q.MV_PER_PA, above=0.0)
_DBV_PER_PA = Quantity(q.DBV_PER_PA, at_least=-90.0, at_most=20.0)
_PF_PER_M = Quantity(q.PF_PER_M, at_least=0.0)
_MOHM_PER_M = Quantity(q.MOHM_PER_M, above=0.0)
_RATIO = Quantity(q.RATIO, above=0.0)
_MICROTESLA = Quantity(q.MICROTESLA, at_least=0.0, at_most=1000.0)

Ohms = Annotated[Figure, BeforeValidator(_reader(_OHM)), _OHM, _schema(_OHM)]
Farads = Annotated[Figure, BeforeValidator(_reader(_FARAD)), _FARAD, _schema(_FARAD)]
Henries = Annotated[Figure, BeforeValidator(_reader(_HENRY)), _HENRY, _schema(_HENRY)]
Volts = Annotated[Figure, BeforeValidator(_reader(_VOLT)), _VOLT, _schema(_VOLT)]
Amperes = Annotated[Figure, BeforeValidator(_reader(_AMPERE)), _AMPERE, _schema(_AMPERE)]
Seconds = Annotated[Figure, BeforeValidator(_reader(_SECOND)), _SECOND, _schema(_SECOND)]
Hertz = Annotated[Figure, BeforeValidator(_reader(_HERTZ)), _HERTZ, _schema(_HERTZ)]
Metres = Annotated[Figure, BeforeValidator(_reader(_METRE)), _METRE, _schema(_METRE)]
Millimetres = Annotated[
    Figure, BeforeValidator(_reader(_MILLIMETRE)), _MILLIMETRE, _schema(_MILLIMETRE)
]
SmallMillimetres = Annotated[
    Figure, BeforeValidator(_reader(_SMALL_MM)), _SMALL_MM, _schema(_SMALL_MM)
]
OpeningMillimetres = Annotated[
    Figure, BeforeValidator(_reader(_OPENING_MM)), _OPENING_MM, _schema(_OPENING_MM)
]
CubicCentimetres = Annotated[Figure, BeforeValidator(_reader(_CM3)), _CM3, _schema(_CM3)]
Decibels = Annotated[Figure, BeforeValidator(_reader(_DECIBEL)), _DECIBEL, _schema(_DECIBEL)]
# against a largest that nothing exceeds
DecibelsUnder = Annotated[Figure, BeforeValidator(_reader(_UNDER)), _UNDER, _schema(_UNDER)]
LevelDbu = Annotated[Figure, BeforeValidator(_reader(_DBU)), _DBU, _schema(_DBU)]
NoiseDba = Annotated[Figure, BeforeValidator(_reader(_DBA)), _DBA, _schema(_DBA)]
SoundDbSpl = Annotated[Figure, BeforeValidator(_reader(_SPL)), _SPL, _schema(_SPL)]
MillivoltsPerPascal = Annotated[
    Figure, BeforeValidator(_reader(_MV_PER_PA)), _MV_PER_PA, _schema(_MV_PER_PA)
]
DbvPerPascal = Annotated[
    Figure, BeforeValidator(_reader(_DBV_PER_PA)), _DBV_PER_PA, _schema(_DBV_PER_PA)
]
PicofaradsPerMetre = Annotated[
    Figure, BeforeValidator(_reader(_PF_PER_M)), _PF_PER_M, _schema(_PF_PER_M)
]
MilliohmsPerMetre = Annotated[
    Figure, BeforeValidator(_reader(_MOHM_PER_M)), _MOHM_PER_M, _schema(_MOHM_PER_M)
]
Watts = Annotated[Figure, BeforeValidator(_reader(_WATT)), _WATT, _schema(_WATT)]
Ratio = Annotated[Figure, BeforeValidator(_reader(_RATIO)), _RATIO, _schema(_RATIO)]
Microteslas = Annotated[
    Figure, BeforeValidator(_reader(_MICROTESLA)), _MICROTESLA, _schema(_MICROTESLA)
]
DISTANCE = _MILLIMETRE
OHMS, VOLTS, LEVEL, SENSITIVITY = _OHM, Quantity(q.VOLT, above=0.0), _DBU, _MV_PER_PA
FARADS, DECIBELS = _FARAD, _DECIBEL
NOISE = _DBA
VOLTS, OHMS, METRES = _VOLT, _OHM, _METRE


def typical(value: float) -> Figure:
    """A figure that nobody looked up or measured yet."""
    return Figure(value=value)
