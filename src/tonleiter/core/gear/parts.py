"""What has to be got for a piece: lines of a parts list, as the kind itself knows them."""

from __future__ import annotations

from dataclasses import dataclass

# price classes: what a part costs against a resistor
PENNIES, COINS, NOTE, BOX = 1, 2, 3, 4
PRICE_TOKENS = {PENNIES: "pennies", COINS: "coins", NOTE: "note", BOX: "box"}
PRICE_WORDS = {PENNIES: "pennies", COINS: "small change", NOTE: "a note", BOX: "a box"}


@dataclass(frozen=True)
class Part:
    """A line of a parts list."""

    count: int
    name: str
    value: str
    price_class: int
