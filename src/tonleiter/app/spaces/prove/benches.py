"""Benches that were set up before, kept for who comes back to them."""

from __future__ import annotations

from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.prove.prove import Proof
from tonleiter.core.station.basis import Basis
from tonleiter.core.station.model import Station

# benches that were set up last: who goes to another part or variant and back finds them ready
MOST_KEPT = 6
_kept: list[tuple[Basis, Station, int, Proof]] = []


def proof_on_bench(basis: Basis, station: Station, found: Verdict, part: int) -> Proof:
    """The part of a build on the bench: one that was there before, names and all, or a new one."""
    for kept in _kept:
        if kept[0] == basis and kept[2] == part and kept[1] == station:
            return kept[3]
    made = Proof(found, part)
    _kept.insert(0, (basis, station, part, made))
    del _kept[MOST_KEPT:]
    return made
