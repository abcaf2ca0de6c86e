"""Every caution, worded once: a step, a finding, a sheet names the hazard, the words are here.

Each says what to do, and defers to local codes and licensed practice where that is due. Who must be
warned follows from traits: of a kind of gear (``Gear.hazards``) or of a box (``Device.hazards``),
never from what something is called.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal, get_args

Hazard = Literal[
    "lethal-volts",
    "opening",
    "mains-earth",
    "charged",
    "rf",
    "rf-burns",
    "keys-itself",
    "licence",
    "fumes",
    "eyes",
    "capsule-out",
    "hearing",
    "loads",
]

CAUTIONS: dict[Hazard, str] = {
    "lethal-volts": (
        "Lethal voltage inside, also after switch-off. Qualified people only: bleed and verify,"
        " one hand, chassis supported, by local codes."
    ),
    "opening": "Opening a set is work for who may do it; unplug it first.",
    "mains-earth": (
        "Never lift a safety earth. Mains wiring is for licensed people and local codes."
    ),
    "charged": "Charged capacitors: short them through a resistor before you touch.",
    "rf": (
        "Dummy load rated for the power, lowest power before the first key-down; identify, stay"
        " within the licence."
    ),
    "rf-burns": "RF burns: no aerial, nobody at the connector; the load must bear the power.",
    "keys-itself": "It may transmit by itself: dummy load on and low power, by your licence.",
    "licence": "Say who you are, and stay within the licence.",
    "fumes": (
        "Fumes: open a window, do not breathe over the joint. Solder may hold lead: wash your"
        " hands."
    ),
    "eyes": "Eye protection while drilling, filing and cutting wire ends.",
    "capsule-out": "Take the capsule out before drilling or filing, and keep chips away from it.",
    "hearing": "Headphones down before anything is switched on; turn up from nothing.",
    "loads": "A loudspeaker output needs a load that stands its power.",
}
assert set(CAUTIONS) == set(get_args(Hazard))
# the gravest first, where several stand together
_ORDER = tuple(CAUTIONS)
AIR = CAUTIONS["rf"]


def caution(*hazards: Hazard) -> str:
    """The words for some hazards, the gravest first; empty for none."""
    return " ".join(CAUTIONS[h] for h in gravest_first(hazards))


def gravest_first(hazards: Iterable[Hazard]) -> tuple[Hazard, ...]:
    """The same hazards, each once, the gravest first."""
    return tuple(sorted(set(hazards), key=_ORDER.index))
