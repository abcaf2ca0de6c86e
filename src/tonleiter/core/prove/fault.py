"""A fault that hands make: what it is called, what it does to the circuit, how often it is made.

Priors say how often each kind is made, against each other, in one table with its reasons; they
decide only between faults that the readings do not tell apart.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from tonleiter.core.circuit.elements import Element
from tonleiter.core.units.quantity import OHM, format_quantity

Elements = tuple[Element, ...]
Change = Callable[[Elements], Elements]

# how often hands make each kind of fault, against each other
PRIORS = {
    "dry": 10.0,  # the commonest: a joint that looks soldered
    "open": 6.0,  # a lead not soldered, a part left out, a track cut
    "bridge": 6.0,  # solder between neighbours, a strand of the screen
    "broken": 3.0,  # a core that broke where the lead leaves its plug
    "decade": 5.0,  # a value read ten times too large or small
    "band": 2.0,  # a colour taken for its neighbour: red for orange, blue for violet
    "drawer": 0.3,  # another value of the drawer, each
    "turned": 5.0,  # a transistor or chip whose legs were taken in another order
    "sort": 1.5,  # PNP for NPN
    "reversed": 4.0,  # a capacitor or diode the wrong way round
    "swapped": 4.0,  # two wires on each other's contacts
    "moved": 1.0,  # a wire on the contact beside its own
    "mirrored": 3.0,  # a plug wired from the wrong side
    "ground": 5.0,  # a ground that was forgotten
    "supply": 3.0,  # a battery that is flat, or turned round
    "short": 2.0,  # a part shorted by a strand or by its own death
    "winding": 2.0,  # windings on each other's places, or broken
    "coil": 3.0,  # a microphone that was dropped: its coil is open
    "dead": 1.0,  # a transistor that was too hot, a capsule or a chip that is no more
    "aged": 1.5,  # an electrolytic that leaks or dried out
    "wet": 0.5,  # flux, water, fingers on a board of high resistances
    "switch": 3.0,  # a contact that never closes, or never opens
}


@dataclass(frozen=True)
class Fault:
    """One fault: its name in words, how it changes the circuit, how often it is made.

    ``of`` names the family that it is one degree of: a joint is dry by any ohms, a value wrong by
    any factor. ``share`` is its part of the kind's weight.
    """

    id: str
    says: str
    kind: str
    part: str
    change: Change
    of: str = ""
    share: float = 1.0

    @property
    def family(self) -> str:
        """What it is one degree of; itself where it stands alone."""
        return self.of or self.id

    @property
    def prior(self) -> float:
        """Weight against other faults."""
        return self.share * PRIORS[self.kind]


@dataclass(frozen=True)
class Weighed(Fault):
    """What has a weight of its own in place of its kind's: two faults at once, or none."""

    likely: float = 0.0

    @property
    def prior(self) -> float:
        """Weight against single faults."""
        return self.likely


def degrees(
    of: str,
    says: str,
    kind: str,
    part: str,
    ohms: Sequence[float],
    change: Callable[[float], Change],
) -> Iterator[Fault]:
    """A fault of any ohms, at some of them: one family, whose weight they share.

    ``says`` is followed by the ohms.
    """
    for ohm in ohms:
        words = f"{says} {format_quantity(ohm, OHM)}"
        yield Fault(f"{of}-{ohm:g}", words, kind, part, change(ohm), of, 1 / len(ohms))


# of builds with one fault, so many have a second one
SECOND_SHARE = 0.1


def both(one: Fault, other: Fault, total: float) -> Weighed:
    """Two faults at once; ``total`` is the weight of all single ones."""
    return Weighed(
        id=f"{one.id}+{other.id}",
        says=f"{one.says}; and {other.says}",
        kind=one.kind,
        part=one.part,
        change=lambda elements: other.change(one.change(elements)),
        likely=SECOND_SHARE * one.prior * other.prior / total,
    )
