"""Sources that bring a level of their own, set on a control against the largest they can give."""

from __future__ import annotations

import math
from typing import ClassVar

from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.base import Gear, Role, Surroundings
from tonleiter.core.gear.grip import Grip
from tonleiter.core.units.levels import signed

NOISE_BAND_HZ = 20_000.0
# what a slider or a volume control takes back before it is shut
CONTROL_DB = 60.0


class OwnLevel(Gear):
    """Voice and room play no part; a kind has fields ``below_full_db``, ``signal``, ``z_out_ohm``.

    They stand in the kinds, each in the order in which one asks for them.
    """

    role: ClassVar[Role] = "microphone"
    choices: ClassVar[tuple[str, ...]] = ("below_full_db", "signal")
    handle: ClassVar[str | None] = "below_full_db"
    grip: ClassVar[Grip | None] = grips.Decibels()
    by_hand: ClassVar[bool] = True
    passes_ground: ClassVar[bool] = False
    acoustic: ClassVar[bool] = False

    def control_at(self) -> float:
        """Its level, on a scale of 60 dB."""
        return min(max(1 + self._held_by() / CONTROL_DB, 0.0), 1.0)

    def _within(self, wanted: float, now: float) -> float:
        """No louder than its largest."""
        return min(super()._within(wanted, now), max(now, 0.0))

    def setting_words(self, value: float) -> str:
        """Against its largest level."""
        return f"{signed(-value, 0)} dB under its largest"

    def largest_dbu(self) -> float:
        """The largest level it gives, unloaded."""
        raise NotImplementedError

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Its largest level, with its load."""
        z_out_ohm = self.figure("z_out_ohm").value
        loaded = around.z_load_ohm / (around.z_load_ohm + z_out_ohm)
        return self.largest_dbu() + 20 * math.log10(loaded)
