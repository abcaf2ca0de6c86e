"""A solved candidate: its path, what it costs, and figures to compare it by."""

from __future__ import annotations

from dataclasses import dataclass, replace

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.grip import Turned
from tonleiter.core.gear.parts import Part
from tonleiter.core.gear.shopping import items_of, listed, numbered, parts_of
from tonleiter.core.judge.assess import Assessment, presence_db
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.plan.styles import Style
from tonleiter.core.plan.weights import Figures, cost
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.station.purpose import Purpose

# a wiper this near its end is set by luck
LEAST_TURN = 0.05


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
        return tuple("pad" if g.is_pad else g.kind_id for g in self.pieces if not g.lead)

    @property
    def between(self) -> tuple[Gear, ...]:
        """What stands between the source with its lead and the input."""
        return _between(self.pieces)

    @property
    def stops(self) -> bool:
        """Whether a stop finding stands."""
        return bool(self.assessment.stops())

    def parts(self) -> tuple[Part, ...]:
        """Everything to get for it, alike parts together, with their names in the drawing."""
        stages = self.assessment.solution.compiled.stages
        made = [s for s in stages[1:-1] if s.id not in self.owned and not s.gear.lead]
        volts = self.assessment.solution.node_v
        items = [item for s in made for item in items_of(s.gear, s.net(), volts)]
        return listed(items, numbered(items))

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
    short = _short_of(pieces, owned, figures, style)
    figures = replace(figures, short_of_style=bool(short))
    return Candidate(pieces, owned, assessment, figures, cost(figures, purpose, style), short)


def _between(pieces: tuple[Gear, ...]) -> tuple[Gear, ...]:
    return tuple(g for g in pieces[1:-1] if not g.lead)


def _boards(pieces: tuple[Gear, ...], owned: frozenset[str]) -> list[tuple[Part, ...]]:
    """Parts to get, piece by piece."""
    return [parts_of(g) for g in _between(pieces) if g.id not in owned]


# a board of more parts than this is one job all the same
MOST_OF_A_BOARD = 8


def _weighed(boards: list[tuple[Part, ...]]) -> int:
    """Parts as they weigh: of one board no more than so many."""
    return sum(min(sum(p.count for p in parts), MOST_OF_A_BOARD) for parts in boards)


def _figures(pieces: tuple[Gear, ...], owned: frozenset[str], assessment: Assessment) -> Figures:
    row = assessment.rows[-1]
    boards = _boards(pieces, owned)
    between = pieces[1:-1]
    headrooms = [r.headroom_db for r in assessment.rows if r.headroom_db is not None]
    silent = row.speech_dbu < SILENT_DBU
    window = row.window
    outside = 0.0 if window is None else window.outside_db(row.speech_dbu)
    reach = row.gear.beyond_window_db() if row.knob is not None else 0.0
    low, high = assessment.corners_hz
    active = [g for g in between if g.drives]
    return Figures(
        off_middle_db=row.speech_dbu - (window.middle_dbu if window else row.speech_dbu),
        outside_db=min(outside, reach),
        beyond_db=max(outside - reach, 0.0),
        has_knob=row.knob is not None,
        headroom_db=min(headrooms, default=99.0),
        snr_db=-60.0 if silent else row.snr_db,
        hum_under_db=None if row.hum_dbu is None or silent else row.speech_dbu - row.hum_dbu,
        bass_hz=low,
        treble_hz=high,
        presence_db=presence_db(assessment),
        parts=_weighed(boards),
        price_class=max((p.price_class for parts in boards for p in parts), default=0),
        isolated=any(g.isolates for g in pieces),
        active=sum(g.id not in owned for g in active),
        supplies=sum(g.wants_supply() for g in between),
        borrowed=sum(g.id in owned and g.is_box for g in between),
        near_ends=sum(
            isinstance(g.grip, Turned) and not LEAST_TURN < (g.control_at() or 0) < 1 - LEAST_TURN
            for g in pieces
        ),
        reversible=not any(g.cut_into_radio and g.id not in owned for g in pieces),
        troubles=sum(_is_trouble(f, row.id) for f in assessment.findings),
        stops=len(assessment.stops()),
    )


def _is_trouble(finding: Finding, radio: str) -> bool:
    """Whether no figure of a plan measures what is minded: of levels only the radio's is."""
    means = meaning(finding.code)
    elsewhere = means.level and finding.stage != radio
    return finding.severity == "mind" and (elsewhere or not means.measured)


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
