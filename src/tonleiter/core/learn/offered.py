"""What could be read of a chain: with what, in how many minutes, and how well."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from tonleiter.core.learn.reading import (
    AT_STAGES,
    KNOB_MARKS,
    NOISE_DB,
    SPEECH_DB,
    TONE_DB,
    Kind,
    meter_sd,
)
from tonleiter.core.station.instruments import InstrumentId

# a reading's own error where it does not follow from its value
ERRORS: dict[Kind, float] = {
    "knob": KNOB_MARKS,
    "speech": SPEECH_DB,
    "gain": TONE_DB,
    "noise": NOISE_DB,
}


@dataclass(frozen=True)
class Effort:
    """Minutes, what is used in words, and what is needed: one of each set."""

    minutes: float
    words: str
    needs: tuple[frozenset[InstrumentId], ...] = ()

    def can(self, owned: Collection[InstrumentId]) -> bool:
        """Whether somebody who owns these can read it."""
        return all(any(one in owned for one in need) for need in self.needs)


_VOLTS: frozenset[InstrumentId] = frozenset({"multimeter", "scope"})
EFFORT: dict[Kind, Effort] = {
    "open": Effort(1.0, "a multimeter", (_VOLTS,)),
    "volts": Effort(2.0, "a multimeter", (_VOLTS,)),
    "speech": Effort(2.0, "a multimeter, AC", (_VOLTS,)),
    "gain": Effort(
        4.0, "a tone generator, a multimeter", (frozenset[InstrumentId]({"generator"}), _VOLTS)
    ),
    "knob": Effort(3.0, "the radio's own meter, a dummy load"),
    "noise": Effort(
        3.0, "a second receiver or the monitor", (frozenset[InstrumentId]({"second-receiver"}),)
    ),
}


def offered(
    stages: Collection[str], owned: Collection[InstrumentId]
) -> Iterator[tuple[Kind, str | None]]:
    """Kinds and places of readings of a chain of these stages, the source first."""
    for kind, effort in EFFORT.items():
        if not effort.can(owned):
            continue
        if kind not in AT_STAGES:
            yield kind, None
            continue
        # of the tone's gain the first joint is the one that it is held against
        first = 2 if kind == "gain" else 1
        for stage in list(stages)[first:]:
            yield kind, stage


def error_of(kind: Kind, size: float) -> float:
    """One standard deviation of a reading of about this size."""
    return ERRORS.get(kind) or meter_sd(size)
