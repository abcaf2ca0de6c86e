"""One thing to read on the bench, and the names of those that stand by themselves."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from tonleiter.core.bench.unit import Junction

Step = Literal["ring", "dc", "tone"]
# speech's middle and its edges; where a coupling capacitor too small shows, and a bypass too large
TONES_HZ = (1000.0, 100.0, 300.0, 2700.0, 6000.0)
# readings that stand by themselves: where the battery goes, and all that must not beep
RAIL, REST, SUPPLY = "rail", "rest", "supply"


@dataclass(frozen=True)
class Reading:
    """One thing to read: its step, what it says, its unit, minutes that it takes.

    ``first`` is what must be read before there is power; ``of`` the readings that it stands for,
    of which it shows the least: they are taken one by one where it is not open.
    """

    id: str
    step: Step
    says: str
    unit: str
    minutes: float
    first: bool = False
    of: tuple[str, ...] = ()

    @property
    def order(self) -> int:
        """When it is due: ohms without power, then volts, then current, then a tone."""
        return {"ring": 0, "dc": 2 if self.unit == "A" else 1, "tone": 3}[self.step]


def nth(reading: str, k: int) -> str:
    """The same reading of the k-th battery: “supply”, “supply 2”."""
    return reading if k == 0 else f"{reading} {k + 1}"


def diode_id(junction: Junction) -> str:
    """The id of a junction's reading on the diode range."""
    return f"diode {junction.ref}.{junction.red} {junction.ref}.{junction.black}"
