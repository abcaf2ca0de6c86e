"""Readings from everywhere a station keeps them: typed for this, of a bring-up, of an own radio.

Nothing is typed twice. Each comes with why it does not count, if it does not; nothing is lost.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import cast

import numpy as np

from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.guide.controls import at
from tonleiter.core.guide.meters import MeterError, Scale, read_meter
from tonleiter.core.guide.onair import MODES
from tonleiter.core.guide.schools import ALC
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.learn.on_bench import on_bench
from tonleiter.core.learn.predict import Model
from tonleiter.core.learn.reading import (
    KNOB_MARKS,
    Kind,
    Reading,
    ReadingError,
    Source,
    taken,
    words_of,
)
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.proved import Proved
from tonleiter.core.station.records import Records
from tonleiter.core.station.transmitter import Transmitter

CHANGED = "the chain was changed since"
TWICE = "the same was read before: it counts once"
# a level meter read by eye, and what schools differ in, decibels
ALC_DB = 2.5
SOURCE_WORDS: dict[Source, str] = {
    "typed": "",
    "prove": "from Prove (5)",
    "own-radio": "from your own radio, Set (6)",
    "recording": "from a recording, Listen (7)",
}


@dataclass(frozen=True)
class Gathered:
    """A reading of a chain, wherever it is kept.

    ``key`` names it; ``why_not`` says why it does not count, ``struck`` whether somebody wanted
    that. ``reading`` is there where it can be told what it is.
    """

    key: str
    source: Source
    typed: str
    day: str
    why_not: str = ""
    struck: bool = False
    reading: Reading | None = None
    kind: str = ""
    stage: str | None = None
    words: str = ""


@dataclass(frozen=True)
class Lesson:
    """A chain's model and all that was read of it, in the order in which it came."""

    model: Model
    lines: tuple[Gathered, ...]

    @property
    def counted(self) -> tuple[Reading, ...]:
        """Readings that teach."""
        return tuple(g.reading for g in self.lines if g.reading is not None and not g.why_not)

    def with_read(self, readings: Sequence[Reading]) -> Lesson:
        """The same with readings that are kept nowhere."""
        more = [
            Gathered(f"said:{n}", "typed", r.typed, "", "", False, r, r.kind, r.stage)
            for n, r in enumerate(readings)
        ]
        return replace(self, lines=tuple(_once([*self.lines, *more])))

    def name(self, stage: str | None) -> str | None:
        """What a stage is called."""
        stages = self.model.assessment.solution.compiled.stages
        return next((s.gear.name for s in stages if s.id == stage), stage)


def words_at_line(line: Gathered, stage_name: str | None) -> str:
    """What a kept reading is of, in words."""
    return line.words or words_of(cast(Kind, line.kind), stage_name)


def typed_lines(station: Station, records: Records, basis: Basis) -> tuple[Gathered, ...]:
    """What is kept beside the bench: known at once, without solving anything."""
    stages = tuple(g.id for g in basis.stages)
    return tuple(
        _once([*_typed(records, basis, stages), *_own_radio(station, records, basis, stages)])
    )


def marked_to(basis: Basis) -> float:
    """What is printed at the end of the gain's scale."""
    socket = basis.stages[-1]
    return socket.marked_to.value if isinstance(socket, MicrophoneSocket) else 100.0


def has_any(station: Station, records: Records) -> bool:
    """Whether anything was read of any chain: if not there is nothing to work out."""
    chains = {c.id for c in station.chains}
    return (
        any(r.chain_id in chains and r.struck is None for r in records.readings)
        or any(p.chain in chains and p.readings for p in records.proved)
        or any(c.panel.readings for c in station.chains)
    )


def lesson_of(station: Station, records: Records, found: Verdict) -> Lesson:
    """Everything that was read of a solved chain. Raises StoppedError."""
    compiled = found.assessment.solution.compiled
    basis = basis_of(station, compiled.chain.id, compiled.variant.id)
    stages = tuple(s.id for s in compiled.stages)
    model = Model.of(found.assessment)
    lines = [*_typed(records, basis, stages), *_own_radio(station, records, basis, stages)]
    benches = {}
    for proved in records.proved:
        if (proved.chain, proved.variant) != (basis.chain, basis.variant) or not proved.readings:
            continue
        if proved.basis and proved.basis != basis.build:
            lines += _of_before(proved)
            continue
        try:
            bench, readings = on_bench(found, proved.part, proved, model)
        except (RefusedError, IndexError):
            continue
        benches[proved.part] = bench
        lines += _of_bench(proved, readings, records)
    return Lesson(replace(model, benches=benches), tuple(_once(lines)))


def _once(lines: list[Gathered]) -> Iterator[Gathered]:
    """What was read twice counts once."""
    seen: set[tuple[object, ...]] = set()
    for line in lines:
        if line.reading is None or line.why_not:
            yield line
        elif line.reading.same in seen:
            yield replace(line, why_not=TWICE)
        else:
            seen.add(line.reading.same)
            yield line


def _typed(records: Records, basis: Basis, stages: tuple[str, ...]) -> Iterator[Gathered]:
    for kept in records.readings:
        if (kept.chain_id, kept.variant_id) != (basis.chain, basis.variant):
            continue
        key = f"read:{kept.id}"
        line = Gathered(key, "typed", kept.typed, kept.day, kind=kept.kind, stage=kept.stage)
        try:
            line = replace(line, reading=replace(taken(kept, stages, marked_to(basis)), key=key))
        except ReadingError as error:
            line = replace(line, why_not=str(error))
        if kept.basis and kept.basis != basis.sound:
            line = replace(line, why_not=CHANGED)
        if kept.struck is not None:
            line = replace(line, why_not=f"struck out: {kept.struck}", struck=True)
        yield line


def _struck(line: Gathered, records: Records) -> Gathered:
    why = records.struck.get(line.key)
    return line if why is None else replace(line, why_not=f"struck out: {why}", struck=True)


def _own_radio(
    station: Station, records: Records, basis: Basis, stages: tuple[str, ...]
) -> Iterator[Gathered]:
    """Where a level meter of the own radio stood on speech tells where its knob would be right."""
    chain = station.chain(basis.chain)
    panel, socket = chain.panel, basis.stages[-1]
    typed = panel.readings.get("alc")
    if typed is None or not isinstance(socket, MicrophoneSocket) or MODES[basis.purpose] != "ssb":
        return
    stands = at(panel, "gain")
    words = f"your level meter with the gain at {stands * socket.marked_to.value / 100:.0f}"
    line = Gathered(f"own:{basis.chain}:alc", "own-radio", typed, "", kind="knob", words=words)
    box = station.device_by_port.get(socket.id)
    sends = box.transmitter if box is not None else Transmitter()
    full = sends.alc_full_db.value
    try:
        read = read_meter(typed, Scale("alc", full))
    except MeterError as error:
        yield replace(line, why_not=str(error))
        return
    if not 0 < read < full:
        end = "at rest" if read <= 0 else "pinned"
        yield replace(line, why_not=f"a meter that is {end} tells only which way to turn")
        return
    per_db = 100.0 / socket.gain_range_db.value
    low, high = ALC[panel.alc]
    right = stands + ((low + high) / 2 * full - read) * per_db
    marks = socket.marked_to.value / 100.0
    reading = Reading(
        "knob", None, right * marks, float(np.hypot(KNOB_MARKS, ALC_DB * per_db)) * marks, typed,
        words=words, key=line.key, source="own-radio",
    )  # fmt: skip
    line = replace(line, reading=reading)
    if panel.read_of != basis.sound:
        line = replace(line, why_not=CHANGED if panel.read_of else "nobody knows of which chain")
    yield _struck(line, records)


def _of_before(proved: Proved) -> list[Gathered]:
    return [
        Gathered(_key(proved, token), "prove", typed, proved.day, CHANGED, words=token)
        for token, typed in proved.readings.items()
    ]


def _key(proved: Proved, token: str) -> str:
    return f"prove:{proved.chain}:{proved.variant}:{proved.part}:{token}"


def _of_bench(
    proved: Proved, readings: tuple[Reading, ...], records: Records
) -> Iterator[Gathered]:
    for reading in readings:
        key = _key(proved, reading.token)
        line = Gathered(
            key, "prove", reading.typed, proved.day, reading=replace(reading, key=key),
            kind="proved", words=reading.words,
        )  # fmt: skip
        yield _struck(line, records)
