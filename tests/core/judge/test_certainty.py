"""How sure a finding is, over the ranges of figures."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.certainty import weigh
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.levels_report import levels_report
from tonleiter.core.solve.spread import solve_spread
from tonleiter.core.stop import StoppedError, stopping

MIC = gear("dynamic-microphone", "mic", coil_ohm=300, coil_h=1e-6)
RADIO = gear("microphone-socket", "radio", z_in_ohm=10e3)


def doubts_of(*pieces):
    assessment = assess(station_of(*pieces))
    spread = solve_spread(assessment.solution, assessment.rows)
    return assessment, weigh(assessment, spread)


def key(assessment, code):
    return next(f.key for f in assessment.findings if f.code == code)


@pytest.mark.long
def test_a_window_far_off_is_certain():
    assessment, doubts = doubts_of(MIC | {"sensitivity_mv_per_pa": "0.1..0.2"}, RADIO)
    doubt = doubts.of[key(assessment, "under-window")]
    assert doubt.word == "certain"
    assert doubt.matters_most is None


def test_share_of_draws_in_which_a_level_leaves_its_window():
    """Sensitivity even from 1 to 4 mV/Pa: the upper limit is reached at 2.25 mV/Pa if set there."""
    level = assess(station_of(MIC | {"sensitivity_mv_per_pa": 2.25}, RADIO)).rows[-1].speech_dbu
    radio = RADIO | {"wants_dbu": level - 14, "clip_dbu": level + 40}
    assessment, doubts = doubts_of(MIC | {"sensitivity_mv_per_pa": "1..4"}, radio)
    doubt = doubts.of[key(assessment, "over-window")]
    # 1.75 of 3 mV/Pa lie above; forty draws know that to a standard error of 8 %
    assert doubt.share == pytest.approx(1.75 / 3, abs=0.2)
    assert doubt.word == "depends"
    assert doubt.matters_most == "Sensitivity of the mic"
    assert doubt.sentence() == "depends on the sensitivity of the mic"


@pytest.mark.long
def test_what_only_some_draws_have_is_possible():
    level = assess(station_of(MIC | {"sensitivity_mv_per_pa": 2.25}, RADIO)).rows[-1].speech_dbu
    radio = RADIO | {"wants_dbu": level + 1.5 - 14, "clip_dbu": level + 40}
    assessment, doubts = doubts_of(MIC | {"sensitivity_mv_per_pa": "1..4"}, radio)
    assert not any(f.code == "over-window" for f in assessment.findings)
    finding, doubt = next(p for p in doubts.possible if p[0].code == "over-window")
    assert finding.severity == "mind"
    assert 0 < doubt.share < 2 / 3


@pytest.mark.long
def test_a_starved_capsule_depends_on_its_feed():
    capsule = gear("electret-2-wire", "capsule", current_a="0.2m..0.6m")
    biased = RADIO | {"z_in_ohm": 2000, "bias_v": 1.85, "bias_ohm": 2700}
    assessment, doubts = doubts_of(capsule, biased)
    doubt = doubts.of[key(assessment, "electret-starved")]
    assert doubt.matters_most == "Current of the capsule"
    assert 0.4 < doubt.share < 1.0


def test_weighing_stops_when_nobody_waits_any_more():
    assessment = assess(station_of(MIC | {"sensitivity_mv_per_pa": "0.1..0.2"}, RADIO))
    spread = solve_spread(assessment.solution, assessment.rows)
    asked = []

    def after_three():
        asked.append(1)
        return len(asked) > 3

    with stopping(after_three), pytest.raises(StoppedError):
        weigh(assessment, spread)
    assert len(asked) == 4


@pytest.mark.long
def test_report_says_how_sure():
    report = levels_report(
        verdict_of(station_of(MIC | {"sensitivity_mv_per_pa": "0.1..0.2"}, RADIO))
    )
    finding = next(f for f in report["findings"] if f["code"] == "under-window")
    assert finding["certainty"] == "certain"
    plain = levels_report(verdict_of(station_of(MIC, RADIO)))
    assert all(f["certainty"] is None for f in plain["findings"])
    assert plain["possible"] == []


@pytest.mark.long
def test_dc_has_a_band_by_hand():
    """A rail of 8 V through 2k2 into 1k..1k5: a divider between its ends."""
    pad = gear("t-pad", "pad", first_ohm=100, shunt_ohm="1k..1k5", second_ohm=1)
    radio = RADIO | {"z_in_ohm": 2000, "bias_v": 8, "bias_ohm": 2200}
    report = levels_report(verdict_of(station_of(gear("piezo-microphone", "m"), pad, radio)))
    row = report["stages"][2]
    # 5 % and 95 % of draws even in ratio
    low, high = (8 * r / (r + 2201) for r in (1000 * 1.5**0.05, 1000 * 1.5**0.95))
    assert row["dc_low_v"] == pytest.approx(low, rel=0.02)
    assert row["dc_high_v"] == pytest.approx(high, rel=0.02)
