"""A station as reckoned with what its readings taught: what was typed stays what is written.

Every figure of a chain that something was read of takes the middle of what it may be, and carries
its draws: place by place they hang together with those of the other figures, so that the level that
two doubtful figures make together is no more doubtful than the reading of it was.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.figure import Figure
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.learn.gathered import lesson_of, typed_lines
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.reading import ReadingError
from tonleiter.core.learn.result import Learned
from tonleiter.core.refused import RefusedError
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.solve.spread import HIGH_SHARE, LOW_SHARE
from tonleiter.core.station import edits
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.records import Records

# the verdict on a chain of a station
Judge = Callable[[Station, str], Verdict]
MOST_KNOWN = 12


class Known:
    """What was learned of chains before: another edit of the station does not learn it anew."""

    def __init__(self) -> None:
        self._made: dict[object, Learned | None] = {}

    def of(self, key: object, make: Callable[[], Learned | None]) -> Learned | None:
        """What is known under a key, made where nothing is."""
        if key not in self._made:
            made = make()
            while len(self._made) >= MOST_KNOWN:
                del self._made[next(iter(self._made))]
            self._made[key] = made
        return self._made[key]


def reckoned(
    station: Station, records: Records, judge: Judge, known_before: Known | None = None
) -> Station:
    """The station with what was learned of each chain; the open chain's word counts first.

    Raises StoppedError.
    """
    before = known_before or Known()
    made, known = station, set[str]()
    chains = sorted(station.chains, key=lambda c: c.id != station.open_chain)
    for chain in chains:
        basis = basis_of(station, chain.id)
        lines = tuple(g for g in typed_lines(station, records, basis) if not g.why_not)
        proved = tuple(
            p for p in records.proved
            if (p.chain, p.variant) == (basis.chain, basis.variant)
            and p.readings and p.basis in ("", basis.build)
        )  # fmt: skip
        if not lines and not proved:
            continue
        struck = tuple(sorted(k for k in records.struck if k.startswith("prove:")))
        key = (basis, lines, tuple(p.model_dump_json() for p in proved), struck)
        learned = before.of(key, partial(_learned, station, records, judge, chain.id))
        if learned is None:
            continue
        made = with_learned(made, learned, known)
        # figures that were learned together hang together: another chain's word would part them
        known |= {piece for piece, _ in learned.draws}
    return made


def _learned(station: Station, records: Records, judge: Judge, chain_id: str) -> Learned | None:
    try:
        lesson = lesson_of(station, records, judge(station, chain_id))
        return learn(lesson.model, lesson.counted) if lesson.counted else None
    except (CircuitError, ReadingError):
        return None  # its own page says why


def with_learned(station: Station, learned: Learned, but: set[str] | frozenset[str]) -> Station:
    """The station with the figures of one chain as learned; pieces of ``but`` are left alone."""
    by_piece: dict[str, dict[str, Figure]] = {}
    told = {(f.stage, f.parameter.field) for f in learned.figures if f.told}
    for (piece, field), draws in learned.draws.items():
        if piece in but or piece not in station.gear_by_id:
            continue
        figure = station.gear_by_id[piece].figure(field)
        by_piece.setdefault(piece, {})[field] = _figure(
            figure, learned.middle[piece, field], draws, (piece, field) in told
        )
    for piece, figures in by_piece.items():
        try:
            station = edits.change_gear(station, piece, **figures)
        except (RefusedError, ValueError):
            continue  # figures that no piece could have together stay as they were typed
    return station


def _figure(figure: Figure, middle: float, draws: Floats, told: bool) -> Figure:
    low, high = (float(v) for v in np.quantile(draws, (LOW_SHARE, HIGH_SHARE)))
    value = min(max(middle, low), high)
    made = Figure(
        value=value, low=low, high=high, basis=figure.basis, measured_on=figure.measured_on
    )
    return made.drawn(draws.tolist(), told)
