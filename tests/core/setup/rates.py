"""How often the guide's gain is right after two moves: every workable pair of the library.

Run as a module it tries each microphone of the library on each input that Match calls workable, in
both schools, and prints the rate; the tests try a sample.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import product

from tonleiter.app.demo import shipped_demo
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.library import parts_library
from tonleiter.core.guide.controls import with_knobs
from tonleiter.core.guide.onair import OnAir, on_air
from tonleiter.core.judge.assess import assess
from tonleiter.core.match.pair import match_pair, mended, to_mend
from tonleiter.core.match.terms import Terms, lead_for, pair_station
from tonleiter.core.setup.modes import scene_of
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import PanelState

METERS = {"ssb": "alc", "fm": "limiter", "am": "down", "data": "alc", "packet": "deviation"}
PURPOSES = ("ssb-chat", "fm-voice", "am-voice")


@dataclass
class Rate:
    """What became of the pairs."""

    tried: int = 0
    right: int = 0
    missed: list[str] = field(default_factory=list)


def two_moves(case: OnAir, panel: PanelState) -> bool:
    """Whether the meter stands in its zone after at most two moves of the gain."""
    wanted = METERS[case.mode]
    for move in range(3):
        scene = scene_of(case, panel)
        step = next(s for s in scene.steps if s.meter == wanted)
        if step.move is None:
            return True
        if move == 2 or not step.move.knobs:
            return False
        panel = with_knobs(panel, step.move.knobs)
    return False


def pairs(purpose: str, every: int = 1, first: int = 0) -> Iterator[tuple[str, Station]]:
    """Every microphone and voice on every radio's socket, mended where Match mends it first.

    What Match calls workable: plugged in, or with the small parts that it names, the level within
    what the set's own gain reaches.
    """
    library = parts_library().values()
    sources = [g for g in library if g.role == "microphone" and g.acoustic]
    sockets = [g for g in library if g.kind_id == "microphone-socket"]
    home = read_station(shipped_demo()).station
    trios = list(product(sources, sockets, home.operators))
    for source, socket, operator in trios[first::every]:
        terms = Terms(purpose, operator.id, 30.0)  # type: ignore[arg-type]
        pair = match_pair(home, source, socket, terms)
        reaches = pair.knob is not None and 0.1 < pair.knob.turn < 0.9
        if pair.verdict not in ("plug-in", "small-parts") or not reaches:
            continue
        now = assess(pair_station(home, (source, lead_for(source), socket), terms))
        while (finding := to_mend(now)) is not None:
            after, _ = mended(now, finding)
            if after is None:
                break
            now = after
        yield f"{source.name}, {operator.name} on {socket.name}, {purpose}", now.station


def rate(purpose: str, every: int = 1, first: int = 0) -> Rate:
    """Of every so-manieth workable pair."""
    found = Rate()
    for name, station in pairs(purpose, every, first):
        schools = ("barely", "middle") if purpose.startswith("ssb") else ("middle",)
        try:
            case = on_air(station)
        except CircuitError:
            continue
        for school in schools:
            found.tried += 1
            if two_moves(case, PanelState(alc=school)):
                found.right += 1
            else:
                found.missed.append(f"{name}, {school}")
    return found


def main() -> int:
    """Print the rates."""
    total = Rate()
    for purpose in PURPOSES:
        made = rate(purpose)
        total.tried += made.tried
        total.right += made.right
        print(f"{purpose}: {made.right} of {made.tried}")
        for line in made.missed:
            print(f"    {line}")
    print(f"all: {total.right} of {total.tried}, {total.right / max(total.tried, 1):.1%}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
