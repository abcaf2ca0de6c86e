"""The whole grid, pair by pair, and the sentence on top of it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.match.pair import VERDICTS, Pair, Take, match_pair
from tonleiter.core.match.terms import Terms
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.words import sentence, the

# what a source or an input is called in the grid, and which of a station's gear it takes
Key = tuple[str, str]


@dataclass(frozen=True)
class Grid:
    """Sources down, inputs across, pairs by (source id, input id) as far as they are solved."""

    sources: tuple[Gear, ...]
    inputs: tuple[Gear, ...]
    pairs: dict[Key, Pair]

    def column(self, input_id: str, spoken: bool = True) -> list[Pair]:
        """Pairs on one input, those that suit it best first; for speech, voices before players."""
        found = [p for (_, i), p in self.pairs.items() if i == input_id]
        return ranked(found, spoken)

    def row(self, source_id: str) -> list[Pair]:
        """Pairs of one source, the inputs that suit it best first."""
        return ranked([p for (s, _), p in self.pairs.items() if s == source_id], spoken=False)


def sources_of(station: Station) -> tuple[Gear, ...]:
    """Microphones and other sources."""
    return _by_box(station, [g for g in station.gear if g.role == "microphone"])


def inputs_of(station: Station) -> tuple[Gear, ...]:
    """Microphone, data and line inputs."""
    return _by_box(station, [g for g in station.gear if g.role == "input"])


def _by_box(station: Station, gear: list[Gear]) -> tuple[Gear, ...]:
    """In the order of the shelf, but sockets of one box side by side."""
    first: dict[str, int] = {}
    for k, piece in enumerate(gear):
        box = station.device_by_port.get(piece.id)
        first.setdefault(piece.id if box is None else box.id, k)

    def place(piece: Gear) -> int:
        box = station.device_by_port.get(piece.id)
        return first[piece.id if box is None else box.id]

    return tuple(sorted(gear, key=place))


def runs_of_boxes(station: Station, gear: tuple[Gear, ...]) -> tuple[tuple[str, int, int], ...]:
    """Boxes with more than one socket in a row: name, index of the first and of the last."""
    found: list[tuple[str, str, int, int]] = []
    for k, piece in enumerate(gear):
        box = station.device_by_port.get(piece.id)
        if box is None:
            continue
        if found and found[-1][0] == box.id and found[-1][3] == k - 1:
            found[-1] = (*found[-1][:3], k)
        else:
            found.append((box.id, box.name, k, k))
    return tuple((name, first, last) for _, name, first, last in found if last > first)


def rests_on(station: Station, source: Gear, socket: Gear, terms: Terms) -> object:
    """Everything that a pair's answer depends on; boxes and leads as a whole, for hum."""
    return (
        source,
        socket,
        terms,
        station.operator(terms.operator),
        station.room_noise_dba,
        station.mains_hz,
        station.devices,
        station.links,
        station.drawer,
    )


def solve_grid(
    station: Station,
    terms: Terms,
    known: dict[Key, Pair] | None = None,
) -> Iterator[Grid]:
    """Yield the grid after each pair that was solved; pairs that are ``known`` are taken over."""
    sources, inputs = sources_of(station), inputs_of(station)
    pairs = dict(known or {})
    yield Grid(sources, inputs, dict(pairs))
    for source in sources:
        for socket in inputs:
            checkpoint()
            if (source.id, socket.id) in pairs:
                continue
            pairs[source.id, socket.id] = match_pair(station, source, socket, terms)
            yield Grid(sources, inputs, dict(pairs))


def ranked(pairs: Iterable[Pair], spoken: bool) -> list[Pair]:
    """Pairs that suit best first; for speech, voices before players."""
    return sorted(pairs, key=lambda p: (spoken and not p.voice, *suits(p)))


def suits(pair: Pair) -> tuple[float, ...]:
    """Sort key: the smaller, the better a source suits an input.

    First what it takes, in steps and then in evenings; among those that take as much, level, noise
    and tone in decibels.
    """
    return (
        VERDICTS.index(pair.verdict),
        sum(_effort(t) for t in pair.takes),
        _level_off_db(pair) + NOISE_SHARE * -(pair.snr_db or 0.0) + _tone_off_db(pair),
    )


# a decibel less noise is worth half a decibel of level; tone, a third: it can be tuned
NOISE_SHARE, TONE_SHARE = 0.5, 1 / 3
# what the gain control does by itself counts little
KNOB_SHARE = 0.1


def _level_off_db(pair: Pair) -> float:
    if pair.off_middle_db is None:
        return 999.0
    share = KNOB_SHARE if pair.knob is not None and pair.knob.reaches else 1.0
    return share * abs(pair.off_middle_db)


def _tone_off_db(pair: Pair) -> float:
    """Bass and presence that the purpose wants and the pair has not."""
    bass = 6.0 * max(math.log2((pair.bass_corner_hz or 20.0) / pair.bass_wanted_hz), 0.0)
    return TONE_SHARE * (bass + abs((pair.presence_db or 0.0) - pair.presence_wanted_db))


# what each thing takes, in evenings at the bench; gain brings more noise the more it is
_EFFORT = {
    "turn": 0.1,
    "move": 0.1,
    "bias": 1.0,
    "phantom": 2.0,
    "current": 1.0,
    "block": 0.5,
    "pad": 0.5,
    "gain": 0.5,
    "buffer": 1.5,
    "load": 0.5,
    "isolate": 1.0,
}
GAIN_PER_EVENING_DB = 12.0


def _effort(take: Take) -> float:
    extra = (take.db or 0.0) / GAIN_PER_EVENING_DB if take.what == "gain" else 0.0
    return _EFFORT[take.what] + extra


def answer(grid: Grid, station: Station, input_id: str, terms: Terms) -> str:
    """Which of mine suits this input best for this purpose, and why."""
    socket = next((g for g in grid.inputs if g.id == input_id), None)
    pairs = grid.column(input_id, terms.facts.spoken)
    if socket is None or not pairs:
        return "Nothing to match yet: a source and an input are wanted."
    names = {g.id: g.name for g in grid.sources}
    purpose = terms.facts.title
    best = pairs[0]
    mine = [p for p in pairs if not _guest(grid.sources, p.source)]
    if best.verdict == "not-worth-it":
        return f"Nothing here suits {the(socket.name)} for {purpose}: {best.words()}."
    if mine and _guest(grid.sources, best.source):
        own = names[mine[0].source]
        return (
            f"For {purpose} {the(names[best.source])}, a guest, would suit"
            f" {the(socket.name)} better"
            f" than {the(own)}: {_because(best)}."
        )
    return (
        f"For {purpose} {the(names[best.source])} suits {the(socket.name)} best: {_because(best)}."
    )


def answer_for_source(grid: Grid, source_id: str, terms: Terms, told: Key | None = None) -> str:
    """Which input this source suits best for this purpose, and why; guests are called so.

    ``told`` is a pair whose reasons stand beside it already.
    """
    source = next((g for g in grid.sources if g.id == source_id), None)
    pairs = grid.row(source_id)
    if source is None or not pairs:
        return ""
    names = {g.id: g.name for g in grid.inputs}
    best = pairs[0]
    if best.verdict == "not-worth-it":
        return f"No input here suits {the(source.name)}: {best.words()}."
    second = next((p for p in pairs[1:] if p.verdict == best.verdict), None)
    if told == (best.source, best.input):
        then = f"; next comes {the(names[second.input])}" if second is not None else ""
        return f"Nothing here suits {the(source.name)} better{then}."
    then = f"; then with {the(names[second.input])}" if second is not None else ""
    guest = " (a guest)" if _guest(grid.inputs, best.input) else ""
    said = (
        f"{sentence(the(source.name))} goes best with"
        f" {the(names[best.input])}{guest}: {_because(best)}"
    )
    return f"{said}{then}."


def _guest(pieces: tuple[Gear, ...], gear_id: str) -> bool:
    return next(g.guest for g in pieces if g.id == gear_id)


def _because(pair: Pair) -> str:
    parts = [pair.words()]
    off = pair.off_middle_db
    if (
        off is not None
        and pair.knob is None
        and not {"pad", "gain", "turn", "move"} & {t.what for t in pair.takes}
    ):
        side = "above" if off > 0 else "below"
        parts.append(
            "in the middle of its window"
            if abs(off) < 1
            else f"{abs(off):.0f} dB {side} the middle of its window"
        )
    if pair.snr_db is not None:
        parts.append(f"{pair.snr_db:.0f} dB over the noise")
    return ", ".join(parts)
