"""A finished search as plain data for JSON; keys carry units."""

from __future__ import annotations

import math
from typing import Any

from tonleiter.core.gear.parts import PRICE_TOKENS
from tonleiter.core.match.terms import Terms
from tonleiter.core.plan.candidate import Candidate
from tonleiter.core.plan.explain import explain
from tonleiter.core.plan.search import Progress
from tonleiter.core.plan.styles import STYLES, StyleId
from tonleiter.core.plan.transmit_switch import keying

Row = dict[str, Any]


def plan_report(progress: Progress, terms: Terms, style: StyleId) -> Row:
    """The plans on offer, best first, with why each stands where it does."""
    words = explain(progress.best)
    return {
        "purpose": terms.purpose,
        "style": style,
        "style_says": STYLES[style].says,
        "operator": terms.operator,
        "distance_mm": terms.distance_mm,
        "candidates_solved": progress.solved,
        "plans": [
            _plan(candidate) | {"why": w.why, "costs": w.costs}
            for candidate, w in zip(progress.best, words, strict=True)
        ],
    }


def _plan(candidate: Candidate) -> Row:
    f = candidate.figures
    key = keying(candidate.pieces[0], candidate.pieces[-1], f.isolated)
    parts = [*candidate.parts(), *(key.parts if key else ())]
    window, knob = candidate.assessment.rows[-1].window, candidate.assessment.rows[-1].knob
    return {
        "title": candidate.title(),
        "stages": [
            {
                "id": g.id,
                "name": g.name,
                "kind": g.kind_id,
                "owned": g.id in candidate.owned,
                "values": {k: g.figure(k).value for k in g.choices if k in g.figures()},
                "choices": {k: getattr(g, k) for k in g.choices if k not in g.figures()},
            }
            for g in candidate.pieces
        ],
        "speech_dbu": _number(candidate.assessment.rows[-1].speech_dbu),
        "window_low_dbu": window.low_dbu if window else None,
        "window_high_dbu": window.high_dbu if window else None,
        "off_middle_db": _number(f.off_middle_db),
        "gain_control": None if knob is None else _number(knob.turn),
        "headroom_db": _number(f.headroom_db),
        "snr_db": _number(f.snr_db),
        "hum_under_speech_db": _number(f.hum_under_db),
        "bass_corner_hz": _number(f.bass_hz),
        "treble_corner_hz": _number(f.treble_hz),
        "isolated": f.isolated,
        "reversible": f.reversible,
        "parts": [
            {
                "count": p.count,
                "name": p.name,
                "value": p.value,
                "price": PRICE_TOKENS[p.price_class],
            }
            for p in parts
        ],
        "transmit_switch": key.says if key else None,
        "findings": [
            {"code": x.code, "severity": x.severity, "stage": x.stage, "says": x.says}
            for x in candidate.assessment.findings
        ],
    }


def _number(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None
