"""One source on one input: plugged in, and what it would take to make the pair work."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal, TypedDict

import numpy as np

from tonleiter.core.circuit.ac import Floats
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.base import Gear, Knob
from tonleiter.core.gear.turning import turned
from tonleiter.core.gear.voice import distance_for_mm, nearer_db
from tonleiter.core.judge.assess import Assessment, assess, presence_db, tried
from tonleiter.core.judge.certainty import as_drawn
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.lips import FAR_MM, nearest_mm
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.match.terms import Terms, lead_for, pair_station
from tonleiter.core.solve.levels import SILENT_DBU, StageLevels
from tonleiter.core.solve.spread import Spread, solve_spread
from tonleiter.core.station.model import Station
from tonleiter.core.units.quantity import HERTZ, format_quantity

Verdict = Literal["plug-in", "small-parts", "active-part", "not-worth-it"]
VERDICTS: tuple[Verdict, ...] = ("plug-in", "small-parts", "active-part", "not-worth-it")

# what nobody has to build
FREE = {"turn", "move"}
ACTIVE = {"bias", "phantom", "current", "gain", "buffer"}
ROUNDS = 3
# enough to see how far a level may lie either way
FEW_DRAWS, FEWEST_DRAWS = 6, 2
# a draw whose level lies so far from the rest may be one in which nothing works
STRANGE_DB = 12.0
# a control that is nearly shut adds more noise than a pad
LEAST_CONTROL = 0.25
# a control that stands beyond these is spoken of
NEAR_BOTTOM, NEAR_TOP = 0.15, 0.85
WORTH_GAIN_DB = 55.0
WORTH_PAD_DB = 75.0
# noise this far above what the purpose asks for makes a pair not worth it
WORTH_SNR_SHORT_DB = 20.0


@dataclass(frozen=True)
class Take:
    """One thing that a pair takes: what, in words, with its decibels where there are any."""

    what: str
    words: str
    db: float | None = None


@dataclass(frozen=True)
class Pair:
    """A solved pair. Levels are at the input's pins, with bias and blocking already in place."""

    source: str
    input: str
    verdict: Verdict
    takes: tuple[Take, ...]
    solves: int
    voice: bool
    why_not: str = ""
    speech_dbu: float | None = None
    window_low_dbu: float | None = None
    window_high_dbu: float | None = None
    aim_dbu: float | None = None
    snr_db: float | None = None
    hum_under_db: float | None = None
    bass_corner_hz: float | None = None
    presence_db: float | None = None
    bass_wanted_hz: float = 20.0
    presence_wanted_db: float = 0.0
    knob: Knob | None = None
    knob_ends: tuple[Knob, Knob] | None = None
    may: tuple[str, ...] = ()

    @property
    def off_middle_db(self) -> float | None:
        """Level over the middle of the window; None where the source stays silent."""
        if self.speech_dbu is None or self.aim_dbu is None:
            return None
        return self.speech_dbu - self.aim_dbu

    def words(self) -> str:
        """What it takes, in a few words."""
        if self.verdict == "not-worth-it":
            return self.why_not or "not worth it"
        words = [t.words for t in self.takes] or ["plug in"]
        by_parts = {"pad", "gain", *FREE} & {t.what for t in self.takes}
        said = "; ".join(words) + ("" if by_parts else self.gain())
        return "; or, by its ranges, ".join([said, *self.may])

    def gain(self) -> str:
        """Where the input's own gain control will stand; empty without one, or out of its reach."""
        if self.knob is None or not self.knob.reaches or self.speech_dbu is None:
            return ""
        if self.knob_ends is not None:
            low, high = (k.mark for k in self.knob_ends)
            if low != high:
                return f", gain at {low} to {high}"
        if self.knob.turn > NEAR_TOP:
            return f", gain near its top, at {self.knob.mark}"
        if self.knob.turn < NEAR_BOTTOM:
            return f", gain near its bottom, at {self.knob.mark}"
        return f", gain at {self.knob.mark}"


def match_pair(station: Station, source: Gear, socket: Gear, terms: Terms) -> Pair:
    """Solve a pair and say how it stands; what must be mended first is mended by its best fix."""
    solves = 0
    takes: list[Take] = []
    try:
        now = assess(pair_station(station, (source, lead_for(source), socket), terms))
        solves += 1
        for _ in range(ROUNDS):
            finding = to_mend(now)
            if finding is None:
                break
            means = meaning(finding.code)
            assert means.first is not None
            words = means.first_words
            takes.append(Take(means.first, words))
            after, spent = mended(now, finding)
            solves += spent
            if after is None:
                return _hopeless(source, socket, tuple(takes), words, solves)
            now = after
    except CircuitError as error:
        return _hopeless(source, socket, (), f"cannot be computed: {error}", solves)
    return _judged(now, source, socket, terms, takes, solves)


def as_judged(station: Station, source: Gear, socket: Gear, terms: Terms) -> Assessment | None:
    """The pair as its levels are meant: with what must be mended first mended; None without one."""
    try:
        now = assess(pair_station(station, (source, lead_for(source), socket), terms))
        for _ in range(ROUNDS):
            finding = to_mend(now)
            if finding is None:
                break
            after, _spent = mended(now, finding)
            if after is None:
                return None
            now = after
    except CircuitError:
        return None
    return now


def to_mend(now: Assessment) -> Finding | None:
    """The first finding that must be mended before a level means anything."""
    stops = (f for f in now.findings if f.severity == "stop" and meaning(f.code).first is not None)
    return next(stops, None)


def mended(now: Assessment, finding: Finding) -> tuple[Assessment | None, int]:
    """The chain after the first fix that works, and how many solves finding it took."""
    for count, fix in enumerate(finding.fixes, start=1):
        after = tried(now, finding, fix)
        if after is not None:
            return after, count
    return None, len(finding.fixes)


def _hopeless(source: Gear, socket: Gear, takes: tuple[Take, ...], why: str, solves: int) -> Pair:
    return Pair(source.id, socket.id, "not-worth-it", takes, solves, source.acoustic, why)


def _judged(
    now: Assessment, source: Gear, socket: Gear, terms: Terms, takes: list[Take], solves: int
) -> Pair:
    row = now.rows[-1]
    window = row.window
    silent = row.speech_dbu < SILENT_DBU
    # a clipped first stage is brought down to the middle like any level above its window
    low, high = (window.low_dbu, window.high_dbu) if window else (None, None)
    hum = None if row.hum_dbu is None or silent else row.speech_dbu - row.hum_dbu
    corner = now.corners_hz[0]
    level = _level(row, source, terms.facts.aim_db, now.solution.around(0))
    if any(t.what == "gain" for t in level):
        level = _closer(now, terms) or level
    takes = [*takes, *level, *_other(now)]
    why = _why_not(now, source, terms, takes)
    verdict: Verdict = "plug-in"
    if why:
        verdict = "not-worth-it"
    elif any(t.what in ACTIVE for t in takes):
        verdict = "active-part"
    elif any(t.what not in FREE for t in takes):
        verdict = "small-parts"
    return Pair(
        source=source.id,
        input=socket.id,
        verdict=verdict,
        takes=tuple(takes),
        speech_dbu=None if silent else row.speech_dbu,
        window_low_dbu=low,
        window_high_dbu=high,
        aim_dbu=window.middle_dbu if window else None,
        snr_db=None if silent else row.snr_db,
        hum_under_db=hum,
        bass_corner_hz=corner,
        presence_db=None if silent else presence_db(now),
        knob=None if silent else row.knob,
        bass_wanted_hz=terms.facts.bass_corner_at_most_hz,
        presence_wanted_db=terms.facts.presence_db,
        **_ranges(now, source, terms.facts.aim_db, silent or bool(why)),
        why_not=why,
        solves=solves,
        voice=source.acoustic,
    )


def _closer(now: Assessment, terms: Terms) -> list[Take]:
    """From far away one comes closer before anything is built, if that is enough."""
    row, knob = now.rows[-1], now.rows[-1].knob
    if not now.voice.acoustic or terms.distance_mm < FAR_MM or row.window is None:
        return []
    # a directional capsule booms from nearer, here as on the ladder
    nearest = nearest_mm(now.rows[0].gear)
    most_db = nearer_db(terms.distance_mm, nearest)
    reach = row.gear.beyond_window_db() if knob is not None else 0.0
    missing = row.window.low_dbu - row.speech_dbu
    if missing - reach > most_db:
        return []
    wanted = min(missing + row.window.inside_db, most_db)
    near = round(distance_for_mm(terms.distance_mm, wanted) / 5) * 5
    return [Take("move", f"speak closer, at {max(near, nearest) / 10:g} cm", wanted)]


def _turn(source: Gear, by_db: float, around: tuple[float, float]) -> Take | None:
    """The source's own control, where that gets there without being nearly shut."""
    to = turned(source, by_db, *around)
    if to is None or abs(to.moved_db - by_db) > 1.5 or nearly_shut(to.gear):
        return None
    way = "up" if by_db > 0 else "down"
    return Take("turn", f"turn it {way} by {abs(to.moved_db):.0f} dB", by_db)


def nearly_shut(source: Gear) -> bool:
    """Whether its control stands so low that a pad behind it would add less noise."""
    return (source.control_at() or 0.0) < LEAST_CONTROL


class _Ranges(TypedDict, total=False):
    knob_ends: tuple[Knob, Knob] | None
    may: tuple[str, ...]


def _ranges(now: Assessment, source: Gear, aim_db: float, silent: bool) -> _Ranges:
    """What the ranges of figures make of the gain control, and of the verdict on the level."""
    row = now.rows[-1]
    # with transistors each draw is a solve of its own
    draws = FEWEST_DRAWS if now.solution.linear.system.devices else FEW_DRAWS
    spread = None if silent else solve_spread(now.solution, now.rows, draws)
    if spread is None:
        return {}
    around = now.solution.around(0)
    usual = {t.what for t in _level(row, source, aim_db, around)}
    drawn, may = _working(now, spread)
    knobs = []
    for level in (float(drawn.max()), float(drawn.min())):
        moved = replace(
            row,
            speech_dbu=level,
            peak_dbu=row.peak_dbu + level - row.speech_dbu,
            knob=row.gear.knob(level, now.voice.signal),
        )
        knobs.append(moved.knob)
        takes = _level(moved, source, aim_db, around)
        may += [t.words for t in takes if t.what not in usual]
        if usual and not takes:
            may.append("nothing for its level")
    low, high = (_on_its_scale(k) for k in knobs)
    ends = (low, high) if low is not None and high is not None else None
    return {"knob_ends": ends, "may": tuple(dict.fromkeys(may))}


def _working(now: Assessment, spread: Spread) -> tuple[Floats, list[str]]:
    """Levels of the draws in which the pair works at all, and what else it would take.

    A pin of 0 to 9 V feeds a capsule or does not: the draws in which it is dead say what it takes
    then, and nothing of where the gain will stand.
    """
    levels: Floats = spread.speech_dbu[:, -1]
    works, may = np.ones(levels.size, dtype=bool), []
    for draw in np.flatnonzero(np.abs(levels - now.rows[-1].speech_dbu) > STRANGE_DB):
        drawn = as_drawn(now, spread, int(draw))
        stop = to_mend(drawn) if drawn is not None else None
        if stop is not None:
            works[draw] = False
            may.append(meaning(stop.code).first_words)
    return (levels[works] if works.any() else levels), may


def _on_its_scale(knob: Knob | None) -> Knob | None:
    """The control itself, at the end of its scale where it does not reach."""
    return None if knob is None else replace(knob, turn=min(max(knob.turn, 0.0), 1.0))


def _level(
    row: StageLevels, source: Gear, aim_db: float, around: tuple[float, float]
) -> list[Take]:
    """Nothing inside the window, and nothing to build where the gain control still reaches.

    ``around`` are the ohms before the source's own control and behind it.
    """
    if row.window is None or row.speech_dbu < SILENT_DBU:
        return []
    off = row.speech_dbu - row.window.middle_dbu - aim_db
    clips = row.headroom_db is not None and row.headroom_db < 0
    knob = row.knob
    if not clips and knob is not None and knob.reaches:
        return []
    outside = clips or not row.window.holds(row.speech_dbu)
    if outside and (turn := _turn(source, -off, around)):
        return [turn]
    if row.speech_dbu > row.window.high_dbu or clips:
        return [Take("pad", f"needs a pad of {max(off, 1.0):.0f} dB", -off)]
    if row.speech_dbu < row.window.low_dbu:
        return [Take("gain", f"needs +{-off:.0f} dB", -off)]
    return []


def _other(now: Assessment) -> list[Take]:
    """Bass, loading and hum, by the findings that stand."""
    takes = []
    for finding in (f for f in now.findings if f.severity != "fine"):
        means, evidence = meaning(finding.code), finding.evidence
        if means.bass:
            corner = format_quantity(evidence["corner_hz"], HERTZ, 2)
            takes.append(Take("buffer", f"loses bass below {corner}"))
        elif means.loaded and not any(t.what == "load" for t in takes):
            takes.append(Take("load", f"loses {evidence['loss_db']:.0f} dB by loading"))
        elif means.hum:
            takes.append(Take("isolate", f"hums, {evidence['under_speech_db']:.0f} dB under"))
    order = ("buffer", "load", "isolate")
    return sorted(takes, key=lambda t: order.index(t.what))


def _why_not(now: Assessment, source: Gear, terms: Terms, takes: list[Take]) -> str:
    """Why a pair is not worth its parts; empty if it is."""
    row = now.rows[-1]
    if source.acoustic and not terms.facts.spoken:
        return "a microphone carries no data"
    if row.speech_dbu < SILENT_DBU:
        return "stays silent"
    gain = next((t.db for t in takes if t.what == "gain" and t.db), 0.0)
    pad = next((-t.db for t in takes if t.what == "pad" and t.db), 0.0)
    if gain > WORTH_GAIN_DB:
        return f"{gain:.0f} dB short"
    if pad > WORTH_PAD_DB:
        return f"{pad:.0f} dB too much"
    least_db = terms.facts.snr_at_least_db - WORTH_SNR_SHORT_DB
    if row.snr_db >= least_db:
        return ""
    # gain before the input lifts speech over the input's own noise, but not over what comes with it
    shares = now.solution.noise_shares_at(len(now.rows) - 1)
    own = max(1e-6, 1.0 - shares.get(row.id, 0.0))
    best_snr_db = row.snr_db - 10 * math.log10(own)
    if best_snr_db < least_db:
        return f"only {best_snr_db:.0f} dB over its noise"
    return ""
