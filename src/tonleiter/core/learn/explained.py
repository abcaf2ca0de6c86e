"""Faults of a build that would explain a reading which does not fit: Prove's ranking, asked."""

from __future__ import annotations

from collections.abc import Sequence

from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.learn.reading import Reading
from tonleiter.core.prove.prove import Proof, ReadingError, read_value

# the microphone's contacts with it plugged in are read at the build's own end
PLUGGED = "dc plugged"
LEAST, MOST = 0.04, 3


def part_of(found: Verdict, reading: Reading) -> int | None:
    """The part of the build that a reading belongs to; None where it is of none."""
    if reading.kind == "proved":
        return reading.part
    if reading.kind != "volts" or not found.build.spans:
        return None
    stages = [s.id for s in found.assessment.solution.compiled.stages]
    if reading.stage not in stages:
        return None
    place = stages.index(reading.stage)
    return next((n for n, s in enumerate(found.build.spans) if s.first < place <= s.last), None)


def explained(found: Verdict, odd: Reading, counted: Sequence[Reading]) -> tuple[str, ...]:
    """Names of faults, the likeliest first; empty where none explains it. Raises StoppedError.

    All readings of the same part are put to its ranking with the odd one.
    """
    part = part_of(found, odd)
    if part is None:
        return ()
    proof = Proof(found, part)
    values: dict[str, float] = {}
    for reading in (*counted, odd):
        if reading.kind == "proved" and reading.part == part and reading.token in proof.places:
            known = proof.readings[proof.places[reading.token]]
            values[reading.token] = read_value(reading.typed, known.unit, known.step)
        elif reading is odd and reading.kind == "volts" and PLUGGED in proof.places:
            values[PLUGGED] = odd.value
    if not values:
        return ()
    try:
        ranking = proof.rank(values)
    except ReadingError:
        return ()
    return tuple(e.fault.says for _, e in ranking.groups(LEAST) if e.fault.id)[:MOST]
