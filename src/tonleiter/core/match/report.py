"""The grid as plain data for JSON; keys carry units."""

from __future__ import annotations

from typing import Any

from tonleiter.core.match.grid import Grid, answer, answer_for_source
from tonleiter.core.match.terms import Terms
from tonleiter.core.station.model import Station

Row = dict[str, Any]


def match_report(station: Station, grid: Grid, terms: Terms) -> Row:
    """Each source on each input, and for each input which suits it best."""
    return {
        "station": station.title,
        "purpose": terms.purpose,
        "operator": terms.operator,
        "distance_mm": terms.distance_mm,
        "answers": {g.id: answer(grid, station, g.id, terms) for g in grid.inputs},
        "answers_for_sources": {g.id: answer_for_source(grid, g.id, terms) for g in grid.sources},
        "pairs": [
            {
                "source": pair.source,
                "input": pair.input,
                "verdict": pair.verdict,
                "says": pair.words(),
                "takes": [{"what": t.what, "says": t.words, "db": t.db} for t in pair.takes],
                "speech_dbu": pair.speech_dbu,
                "window_low_dbu": pair.window_low_dbu,
                "window_high_dbu": pair.window_high_dbu,
                "off_middle_db": pair.off_middle_db,
                "snr_db": pair.snr_db,
                "hum_under_speech_db": pair.hum_under_db,
                "bass_corner_hz": pair.bass_corner_hz,
                "gain_control": None if pair.knob is None else round(pair.knob.turn, 3),
                "presence_db": pair.presence_db,
            }
            for pair in grid.pairs.values()
        ],
    }
