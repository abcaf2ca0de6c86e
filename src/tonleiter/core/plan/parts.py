"""What a plan is made of: parts to buy, their price class, and what has to be cut."""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.gear.active import AmplifierStage, BiasFeed, Compressor
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Quantity
from tonleiter.core.gear.more_pads import InputDivider
from tonleiter.core.gear.passives import SeriesCapacitor, Transformer
from tonleiter.core.gear.phantom import PhantomFeed
from tonleiter.core.gear.preamps import BipolarPreamp, JfetPreamp, OpAmpPreamp
from tonleiter.core.gear.tone import ToneStage
from tonleiter.core.units.quantity import FARAD, OHM, format_quantity

# price classes: what a part costs against a resistor
PENNIES, COINS, NOTE, BOX = 1, 2, 3, 4
PRICE_WORDS = {PENNIES: "pennies", COINS: "small change", NOTE: "a note", BOX: "a box"}


@dataclass(frozen=True)
class Part:
    """A line of a parts list."""

    count: int
    name: str
    value: str
    price_class: int


def parts_of(gear: Gear, owned: bool) -> tuple[Part, ...]:
    """Parts to get for a piece other than a lead; none for one that is owned already."""
    if owned:
        return ()
    if isinstance(gear, Transformer):
        return (Part(1, "audio transformer", f"1:{gear.ratio.value:g}", NOTE),)
    if isinstance(gear, SeriesCapacitor):
        return (Part(1, "capacitor", format_quantity(gear.capacitance_f.value, FARAD), PENNIES),)
    if isinstance(gear, PhantomFeed):
        return (Part(1, "phantom feed box", "48 V", BOX),)
    if isinstance(gear, AmplifierStage | Compressor | ToneStage):
        return (Part(1, gear.noun, gear.name, BOX),)
    lines = list(_passives(gear))
    for kind, name in ((BipolarPreamp, "transistor"), (JfetPreamp, "FET"),
                       (OpAmpPreamp, "operational amplifier")):  # fmt: skip
        if isinstance(gear, kind):
            lines += [Part(1, name, "small signal", COINS), Part(1, "battery, holder", "", COINS)]
    if isinstance(gear, BiasFeed):
        lines.append(Part(1, "battery, holder", f"{gear.supply_v.value:g} V", COINS))
    return tuple(lines)


def _passives(gear: Gear) -> list[Part]:
    """Resistors and capacitors by the fields that hold them."""
    lines: list[Part] = []
    for field, (quantity, _) in gear.figures().items():
        if field in gear.idle_fields() or not _is_part(field, quantity, gear):
            continue
        value = gear.figure(field).value
        name = "resistor" if quantity.unit is OHM else "capacitor"
        if gear.kind_id == "trim-pot":
            name = "trim pot"
        count = 2 if field == "leg_ohm" else 1
        lines.append(Part(count, name, format_quantity(value, quantity.unit), PENNIES))
    return lines


def _is_part(field: str, quantity: Quantity, gear: Gear) -> bool:
    known = field in gear.choices or field == "bias_ohm"
    return known and quantity.unit in (OHM, FARAD) and not field.startswith("was_")


def cuts(gear: Gear) -> bool:
    """Whether the piece is a change inside a radio."""
    return isinstance(gear, InputDivider)


def on_mains(gear: Gear) -> bool:
    """Whether a piece hangs on the mains."""
    supply = getattr(gear, "supply", "")
    return supply in ("safety earth", "double insulated", "computer on USB")
