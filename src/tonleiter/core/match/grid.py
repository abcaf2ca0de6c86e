"""The whole grid, pair by pair, and the sentence on top of it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from tonleiter.core.gear.base import Gear
from tonleiter.core.match.pair import VERDICTS, Pair, Take, match_pair
from tonleiter.core.match.terms import Terms
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint

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


def sources_of(station: Station) -> tuple[Gear, ...]:
    """Microphones and other sources."""
    return tuple(g for g in station.gear if g.role == "microphone")


def inputs_of(station: Station) -> tuple[Gear, ...]:
    """Microphone, data and line inputs."""
    return tuple(g for g in station.gear if g.role == "input")


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
    """Sort key: the smaller, the better a source suits an input."""
    off = abs(pair.off_middle_db) if pair.off_middle_db is not None else 999.0
    noise = -(pair.snr_db or 0.0)
    rank = VERDICTS.index(pair.verdict)
    return rank, sum(_effort(t) for t in pair.takes), off / 6 + noise / 3, off


# what each thing takes, in evenings at the bench; gain brings more noise the more it is
_EFFORT = {"bias": 1.0, "phantom": 2.0, "current": 1.0, "block": 0.5, "pad": 0.5, "gain": 0.5,
           "buffer": 1.5, "load": 0.5, "isolate": 1.0}  # fmt: skip


def _effort(take: Take) -> float:
    extra = (take.db or 0.0) / 12 if take.what == "gain" else 0.0
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
    mine = [p for p in pairs if not _guest(grid, p.source)]
    if mine and _guest(grid, best.source) and best.verdict != "not-worth-it":
        own = names[mine[0].source]
        return (
            f"For {purpose} the {names[best.source]}, a guest, would suit the {socket.name} better"
            f" than the {own}: {_because(best)}."
        )
    if best.verdict == "not-worth-it":
        return f"Nothing here suits the {socket.name} for {purpose}: {best.words()}."
    return f"For {purpose} the {names[best.source]} suits the {socket.name} best: {_because(best)}."


def _guest(grid: Grid, source_id: str) -> bool:
    return next(g.guest for g in grid.sources if g.id == source_id)


def _because(pair: Pair) -> str:
    parts = [pair.words()]
    if pair.off_middle_db is not None and not any(t.what in ("pad", "gain") for t in pair.takes):
        off = pair.off_middle_db
        side = "above" if off > 0 else "below"
        parts.append(
            "in the middle of its window"
            if abs(off) < 1
            else f"{abs(off):.0f} dB {side} the middle of its window"
        )
    if pair.snr_db is not None:
        parts.append(f"{pair.snr_db:.0f} dB over the noise")
    return ", ".join(parts)
