"""How far from the microphone: each distance solved and judged, for one of both schools.

Who wants to sound as he is stands as far off as the room lets him; who must be understood as near
as breath, boom and ceilings let him. Compression lifts what lies between words, and more of it for
the second: so much more must speech stand over the noise.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.findings.close_talk import BOOM, BREATH_POPS
from tonleiter.core.judge.findings.level import OVER_CEILING, OVER_WINDOW, UNDER_WINDOW
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import ToneSchool
from tonleiter.core.stop import checkpoint

TRIED_MM = (15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0, 150.0)
# nobody holds a hand's breadth for an evening
FARTHEST_MM: dict[ToneSchool, float] = {"natural": 80.0, "communicator": 50.0}
# noise is heard from 25 dB under speech on; compression lifts it by 3 dB or by 9, and 3 are kept
WANTED_DB: dict[ToneSchool, float] = {"natural": 31.0, "communicator": 37.0}
NEVER = (BOOM, BREATH_POPS, OVER_CEILING, OVER_WINDOW)
# nobody is sent a few millimetres
ALIKE = 1.3
Judge = Callable[[Station], Verdict]


@dataclass(frozen=True)
class Stand:
    """A distance, and what comes of it. ``bad`` are findings that speak against it."""

    distance_mm: float
    over_noise_db: float
    bad: tuple[str, ...]


@dataclass(frozen=True)
class DistanceAdvice:
    """Where to stand, beside where one stands now."""

    school: ToneSchool
    now: Stand
    best: Stand
    enough: bool

    @property
    def moves(self) -> bool:
        """Whether it is worth a step."""
        a, b = sorted((self.now.distance_mm, self.best.distance_mm))
        return b > ALIKE * a

    def says(self) -> str:
        """What to do, in a sentence."""
        now, best = self.now, self.best
        room = f"speech then stands {best.over_noise_db:.0f} dB over the noise"
        if not self.enough:
            room += ": the room is loud, and quieter is the only other remedy"
        if not self.moves:
            stays = f"The distance is right: speech stands {now.over_noise_db:.0f} dB over the"
            return f"{stays} noise." if self.enough else f"{stays} noise; the room is loud."
        way = "Nearer" if best.distance_mm < now.distance_mm else "Further off"
        return f"{way}: {best.distance_mm / 10:g} cm instead of {now.distance_mm / 10:g}; {room}."


def advise_distance(
    station: Station, school: ToneSchool, judge: Judge = verdict_of
) -> DistanceAdvice | None:
    """Where to stand for one school, of the open chain; None where no voice is before it.

    Raises StoppedError.
    """
    chain = station.chain()
    if not station.placed(chain.variant().stages[0]).acoustic:
        return None
    now = _stand(station, chain.distance_mm.value, judge)
    if now is None:
        return None
    stands = [s for mm in TRIED_MM if (s := _stand(station, mm, judge)) is not None]
    right = [s for s in stands if not s.bad and s.distance_mm <= FARTHEST_MM[school]]
    if not right:
        # too weak everywhere is the gain's affair, and no reason to stay away
        right = [s for s in stands if set(s.bad) <= {UNDER_WINDOW}] or stands
    quiet = [s for s in right if s.over_noise_db >= WANTED_DB[school]]
    nearest = min(right, key=lambda s: s.distance_mm)
    if not quiet:
        best = nearest
    elif school == "natural":
        best = max(quiet, key=lambda s: s.distance_mm)
    else:
        best = min(quiet, key=lambda s: s.distance_mm)
    if not now.bad and now.over_noise_db >= WANTED_DB[school]:
        # what is right is left alone
        best = now if now.distance_mm <= FARTHEST_MM[school] else best
    return DistanceAdvice(school, now, best, bool(quiet) or best is now)


def _stand(station: Station, distance_mm: float, judge: Judge) -> Stand | None:
    checkpoint()
    moved = edits.change_chain(station, station.chain().id, distance_mm=distance_mm)
    try:
        found = judge(moved)
    except CircuitError:
        return None
    row = found.assessment.rows[-1]
    wrong = (*NEVER, UNDER_WINDOW)
    bad = {f.code for f in found.findings if f.severity != "fine" and f.code in wrong}
    return Stand(distance_mm, row.speech_in_band_dbu - row.noise_dbu, tuple(sorted(bad)))
