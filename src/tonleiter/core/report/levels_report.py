"""Assessments as plain data for JSON; keys carry units, what is unknown is null."""

from __future__ import annotations

from typing import Any

from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.certainty import Doubts, weigh
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.finite import finite
from tonleiter.core.report.grounds import grounds_of, grounds_report
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.solve.spread import Spread, solve_spread

Row = dict[str, Any]


def levels_report(verdict: Verdict) -> Row:
    """Stages, response, findings with tried remedies."""
    assessment = verdict.assessment
    compiled = assessment.solution.compiled
    low, high = assessment.corners_hz
    spread = solve_spread(assessment.solution, assessment.rows)
    doubts = weigh(assessment, spread) if spread else None
    return {
        "station": assessment.station.title,
        "chain": compiled.chain.id,
        "variant": compiled.variant.id,
        "band_hz": list(compiled.chain.band),
        "stages": [
            _voice(assessment),
            *(_stage(row) | _band(spread, k) for k, row in enumerate(assessment.rows)),
        ],
        "response": {
            "f_hz": [float(f) for f in assessment.solution.f_hz],
            "gain_db": [float(g) for g in assessment.solution.gain_db()],
            "gain_re": "1 V/Pa, from the air at the microphone to the radio",
            "corner_low_hz": low,
            "corner_high_hz": high,
        },
        "findings": findings_report(verdict, doubts),
        "grounds": grounds_report(grounds_of(assessment)),
        "possible": [
            {
                "code": finding.code,
                "severity": finding.severity,
                "stage": finding.stage,
                "says": finding.says,
                "share_of_draws": doubt.share,
                "matters_most": doubt.matters_most,
            }
            for finding, doubt in (doubts.possible if doubts else ())
        ],
    }


def findings_report(verdict: Verdict, doubts: Doubts | None = None) -> list[Row]:
    """Findings, gravest first; with ``doubts``, how sure each is over the ranges of figures."""
    known = doubts.of if doubts else {}
    return [
        {
            "code": f.code,
            "severity": f.severity,
            "stage": f.stage,
            "says": f.says,
            "proof": f.proof,
            "caution": f.caution or None,
            "certainty": known[f.key].word if f.key in known else None,
            "depends_on": known[f.key].matters_most if f.key in known else None,
            "evidence": {k: finite(v) for k, v in f.evidence.items()},
            "remedies": [
                {"title": r.title, "effect": r.effect, "leaves": list(r.leaves)}
                for r in verdict.remedies(f)
            ],
        }
        for f in verdict.found("chain")
    ]


def _voice(assessment: Assessment) -> Row:
    voice = assessment.voice
    empty = dict.fromkeys(_KEYS)
    return {
        **empty,
        "id": "voice",
        "name": f"voice at {voice.distance_mm:g} mm",
        "kind": "voice",
        "speech_db_spl": voice.speech_db_spl if voice.acoustic else None,
        "room_dba": voice.room_dba if voice.acoustic else None,
        "snr_db": None,
    }


_KEYS = (
    "id",
    "name",
    "kind",
    "gain_db",
    "speech_dbu",
    "peak_dbu",
    "noise_dbu",
    "hum_dbu",
    "ceiling_dbu",
    "headroom_db",
    "snr_db",
    "z_source_ohm",
    "z_load_ohm",
    "dc_v",
    "dc_ma",
)


def _stage(row: StageLevels) -> Row:
    values: Row = {
        "gain_db": row.gain_db,
        "speech_dbu": row.speech_dbu,
        "peak_dbu": row.peak_dbu,
        "noise_dbu": row.noise_dbu,
        "hum_dbu": row.hum_dbu,
        "ceiling_dbu": row.ceiling_dbu,
        "headroom_db": row.headroom_db,
        "gain_control": None if row.knob is None else row.knob.turn,
        "snr_db": row.snr_db,
        "z_source_ohm": row.z_source_ohm,
        "z_load_ohm": row.z_load_ohm,
        "dc_v": row.dc_v,
        "dc_ma": row.dc_a * 1e3,
    }
    plain = {k: finite(v) for k, v in values.items()}
    window = row.window
    return {
        "id": row.id,
        "name": row.name,
        "kind": row.kind,
        **plain,
        "window_low_dbu": window.low_dbu if window else None,
        "peaks_squeezed_db": row.peaks_squeezed_db,
        "window_high_dbu": window.high_dbu if window else None,
    }


def _band(spread: Spread | None, joint: int) -> Row:
    """Where nine draws in ten of the speech level lie, and the figure that it follows most."""
    keys = (
        "speech_low_dbu",
        "speech_high_dbu",
        "noise_low_dbu",
        "noise_high_dbu",
        "dc_low_v",
        "dc_high_v",
    )
    if spread is None:
        return dict.fromkeys((*keys, "matters_most"))
    most = spread.matters_most(joint)
    # a radio's DC is read at its pins, like its levels: the joint before it
    pins = min(joint, spread.dc_v.shape[1] - 2)
    ends = (*spread.band_dbu(joint), *spread.noise_band_dbu(joint), *spread.dc_band_v(pins))
    named = {key: finite(end) for key, end in zip(keys, ends, strict=True)}
    return named | {"matters_most": most.label if most else None}
