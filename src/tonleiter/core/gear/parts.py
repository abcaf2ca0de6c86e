"""What has to be got for a piece: lines of a parts list, as the kind itself knows them."""

from __future__ import annotations

from dataclasses import dataclass

# price classes: what a part costs against a resistor
PENNIES, COINS, NOTE, BOX = 1, 2, 3, 4
PRICE_TOKENS = {PENNIES: "pennies", COINS: "coins", NOTE: "note", BOX: "box"}
PRICE_WORDS = {PENNIES: "pennies", COINS: "small change", NOTE: "a note", BOX: "a box"}


# letters of parts' names in a drawing (IEC 60617, IEEE 315)
RESISTOR, CAPACITOR, TRANSISTOR, DIODE, TRANSFORMER, BATTERY = "R", "C", "Q", "D", "T", "B"
OPTO_COUPLER = CHIP = "U"
RELAY = "K"
CHIP_NAME = "operational amplifier"
_BATTERY, LEAD = "battery, holder", "screened lead"


@dataclass(frozen=True)
class Part:
    """A line of a parts list; ``note`` says what else it must be, ``refs`` where it goes."""

    count: int
    name: str
    value: str
    price_class: int
    note: str = ""
    refs: tuple[str, ...] = ()

    @property
    def is_battery(self) -> bool:
        """Whether it is one that empties."""
        return self.name == _BATTERY

    @property
    def has_socket(self) -> bool:
        """Whether it is a chip with eight pins that is put into a socket."""
        return self.name.startswith(CHIP_NAME)

    @property
    def is_lead(self) -> bool:
        """Whether it is sold by the metre."""
        return self.name == LEAD

    def words(self) -> str:
        """As read aloud: how many of what, and what it must be."""
        said = f"{self.count} × {self.name} {self.value}".rstrip()
        said = f"{said}, {self.note}" if self.note else said
        return f"{', '.join(self.refs)}: {said}" if self.refs else said


def battery(volts: float) -> Part:
    """A battery in its holder."""
    return Part(1, _BATTERY, f"{volts:g} V", COINS)


@dataclass(frozen=True)
class Whole:
    """Elements of a circuit that are got as one part: ``place`` names it, ``letter`` its kind."""

    place: str
    letter: str
    part: Part
    elements: frozenset[str]
