"""A solved candidate: its path, what it costs, and figures to compare it by."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.pad_shapes import PAD_KINDS
from tonleiter.core.gear.parts import Part
from tonleiter.core.judge.assess import Assessment, presence_db
from tonleiter.core.plan.styles import Style
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.station.purpose import Purpose

# how much each thing weighs, in decibels of a level that is off: a plan is judged as a whole
MIND_COSTS, STOP_COSTS = 25.0, 1000.0
WRONG_STYLE_COSTS = 60.0
LEVEL_FREE_DB, LEVEL_WEIGHT = 1.0, 1.0
FAR_DB, FAR_WEIGHT = 2.5, 6.0
# a wiper this near its end is set by luck
LEAST_TURN, NEAR_END_COSTS = 0.05, 6.0
HEADROOM_WANTED_DB, HEADROOM_WEIGHT = 6.0, 1.0
NOISE_WEIGHT = 0.35
HUM_WANTED_DB, HUM_WEIGHT = 60.0, 0.3
OCTAVE_WEIGHT = 8.0
# an octave in hand below what the purpose asks for
THIN_WEIGHT = 1.0
PART_WEIGHT, PRICE_WEIGHT = 0.35, 0.8
PRESENCE_WEIGHT = 0.2
SUPPLY_COSTS = 1.5


@dataclass(frozen=True)
class Figures:
    """What a candidate is compared by. Decibels, hertz, counts."""

    off_middle_db: float
    headroom_db: float
    snr_db: float
    hum_under_db: float | None
    bass_hz: float | None
    treble_hz: float | None
    parts: int
    price_class: int
    isolated: bool
    supplies: int
    reversible: bool


@dataclass(frozen=True)
class Candidate:
    """Pieces from source to input, solved and judged; ``owned`` names those at hand already."""

    pieces: tuple[Gear, ...]
    owned: frozenset[str]
    assessment: Assessment
    figures: Figures
    cost: float
    short_of_style: str = ""

    @property
    def topology(self) -> tuple[str, ...]:
        """Kinds in order, leads left out, pads of all shapes one: what makes two alike."""
        kinds = (g.kind_id for g in self.pieces if not g.lead)
        return tuple("pad" if kind in PAD_KINDS else kind for kind in kinds)

    @property
    def between(self) -> tuple[Gear, ...]:
        """What stands between the source with its lead and the input."""
        return _between(self.pieces)

    @property
    def stops(self) -> bool:
        """Whether a stop finding stands."""
        return bool(self.assessment.stops())

    def parts(self) -> tuple[Part, ...]:
        """Everything to get for it, alike parts counted together."""
        counts: dict[Part, int] = {}
        for part in _parts(self.pieces, self.owned):
            one = replace(part, count=1)
            counts[one] = counts.get(one, 0) + part.count
        return tuple(replace(part, count=count) for part, count in counts.items())

    def title(self) -> str:
        """What it is, by what stands between."""
        names = [g.noun for g in self.between]
        return " + ".join(names) if names else "straight in"


def judge_candidate(
    pieces: tuple[Gear, ...],
    owned: frozenset[str],
    assessment: Assessment,
    purpose: Purpose,
    style: Style,
) -> Candidate:
    """Figures and cost of a solved path."""
    figures = _figures(pieces, owned, assessment)
    minds = sum(f.severity == "mind" for f in assessment.findings)
    cost = STOP_COSTS * len(assessment.stops()) + MIND_COSTS * minds
    off = abs(figures.off_middle_db - purpose.aim_db)
    cost += LEVEL_WEIGHT * max(off - LEVEL_FREE_DB, 0.0) + FAR_WEIGHT * max(off - FAR_DB, 0.0)
    cost += 0.1 * off
    cost += PRESENCE_WEIGHT * abs(presence_db(assessment) - purpose.presence_db)
    cost += HEADROOM_WEIGHT * max(HEADROOM_WANTED_DB - figures.headroom_db, 0.0)
    cost -= NOISE_WEIGHT * min(figures.snr_db, purpose.snr_at_least_db + 25.0)
    if figures.hum_under_db is not None:
        cost += HUM_WEIGHT * max(HUM_WANTED_DB - figures.hum_under_db, 0.0)
    bass, treble = figures.bass_hz or 20.0, figures.treble_hz or 20e3
    cost += OCTAVE_WEIGHT * max(math.log2(bass / purpose.bass_corner_at_most_hz), 0.0)
    cost += THIN_WEIGHT * max(math.log2(2 * bass / purpose.bass_corner_at_most_hz), 0.0)
    cost += OCTAVE_WEIGHT * max(math.log2(purpose.treble_corner_at_least_hz / treble), 0.0)
    cost += style.part_weight * (PART_WEIGHT * figures.parts + PRICE_WEIGHT * figures.price_class)
    cost += SUPPLY_COSTS * figures.supplies
    cost += NEAR_END_COSTS * sum(
        at is not None and not LEAST_TURN < at < 1 - LEAST_TURN
        for at in (g.control_at() for g in pieces)
    )
    short = _short_of(pieces, owned, figures, style)
    if short:
        cost += WRONG_STYLE_COSTS
    if not figures.reversible:
        cost += 4.0
    return Candidate(pieces, owned, assessment, figures, cost, short)


def _between(pieces: tuple[Gear, ...]) -> tuple[Gear, ...]:
    return tuple(g for g in pieces[1:-1] if not g.lead)


def _parts(pieces: tuple[Gear, ...], owned: frozenset[str]) -> list[Part]:
    """Parts to get, piece by piece."""
    return [p for g in _between(pieces) if g.id not in owned for p in g.parts()]


def _figures(pieces: tuple[Gear, ...], owned: frozenset[str], assessment: Assessment) -> Figures:
    row = assessment.rows[-1]
    parts = _parts(pieces, owned)
    headrooms = [r.headroom_db for r in assessment.rows if r.headroom_db is not None]
    silent = row.speech_dbu < SILENT_DBU
    middle = row.window.middle_dbu if row.window else row.speech_dbu
    low, high = assessment.corners_hz
    return Figures(
        off_middle_db=row.speech_dbu - middle,
        headroom_db=min(headrooms, default=99.0),
        snr_db=-60.0 if silent else row.snr_db,
        hum_under_db=None if row.hum_dbu is None or silent else row.speech_dbu - row.hum_dbu,
        bass_hz=low,
        treble_hz=high,
        parts=sum(p.count for p in parts),
        price_class=max((p.price_class for p in parts), default=0),
        isolated=any(g.isolates for g in pieces),
        supplies=sum("supply" in type(g).model_fields or "supply_v" in type(g).model_fields
                     for g in pieces[1:-1]),
        reversible=not any(g.cut_into_radio and g.id not in owned for g in pieces),
    )  # fmt: skip


def _short_of(
    pieces: tuple[Gear, ...], owned: frozenset[str], figures: Figures, style: Style
) -> str:
    """What the style asks for and the candidate lacks."""
    if style.wants_isolation and not figures.isolated:
        return "nothing isolates it"
    if style.wants_outboard and not any(g.is_box for g in pieces[1:-1]):
        return "no box to process it"
    if style.no_mains and any(g.on_mains() for g in pieces[1:-1]):
        return "a part of it hangs on the mains"
    if style.nothing_cut and not figures.reversible:
        return "the radio is changed"
    return ""
