"""The grid as data: the pair's own figures, an answer for each input and each source."""

import json

from tests.conftest import gear, station_of
from tonleiter.core.match.grid import solve_grid
from tonleiter.core.match.report import match_report
from tonleiter.core.match.terms import usual_terms


def test_each_pair_is_there_with_its_figures():
    station = station_of(gear("dynamic-microphone", "mic"), gear("microphone-socket", "rig"))
    terms = usual_terms(station)
    *_, grid = solve_grid(station, terms)
    report = match_report(station, grid, terms)
    json.dumps(report, allow_nan=False)
    assert set(report["answers"]) == {"rig"}
    assert set(report["answers_for_sources"]) == {"mic"}
    (row,) = report["pairs"]
    pair = grid.pairs["mic", "rig"]
    assert (row["source"], row["input"]) == ("mic", "rig")
    assert row["verdict"] == pair.verdict
    assert row["says"] == pair.words()
    assert row["window_low_dbu"] < row["window_high_dbu"]
    assert row["takes"] == [{"what": t.what, "says": t.words, "db": t.db} for t in pair.takes]
    assert row["gain_control"] is None or 0 <= row["gain_control"] <= 1


def test_a_socket_without_a_gain_has_no_control_in_it():
    station = station_of(
        gear("line-source", "player"), gear("data-socket", "data"), purpose="data-weak"
    )
    terms = usual_terms(station)
    *_, grid = solve_grid(station, terms)
    (row,) = match_report(station, grid, terms)["pairs"]
    assert row["gain_control"] is None
