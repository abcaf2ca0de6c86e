"""Ranges of figures become bands of levels."""

import math

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.levels_report import levels_report
from tonleiter.core.solve import spread as module
from tonleiter.core.solve.spread import solve_spread

MIC = gear("dynamic-microphone", "mic", coil_ohm=300, coil_h=1e-6)
RADIO = gear("microphone-socket", "radio", z_in_ohm="300..1200")


def spread_of(*pieces, draws=400, **chain):
    assessment = assess(station_of(*pieces, **chain))
    return solve_spread(assessment.solution, assessment.rows, draws)


def test_no_ranges_no_bands():
    assert spread_of(MIC, RADIO | {"z_in_ohm": 600}) is None


def test_band_of_an_unknown_input_impedance_by_hand():
    """Drawn evenly in ratio: 5 % and 95 % lie at 300·4^0.05 and 300·4^0.95 ohm."""
    spread = spread_of(MIC, RADIO)
    low, high = spread.band_dbu(1)

    def loaded_db(z):
        return 20 * math.log10(z / (z + 300))

    wanted = loaded_db(300 * 4**0.95) - loaded_db(300 * 4**0.05)
    # four hundred draws know a 5 % quantile to a few percent of the range
    assert high - low == pytest.approx(wanted, rel=0.06)
    nominal = assess(station_of(MIC, RADIO)).rows[1].speech_dbu
    assert low < nominal < high


def test_the_figure_that_matters_most_is_named():
    pad = gear("l-pad", "pad", series_ohm="10k 1%", shunt_ohm=100)
    spread = spread_of(MIC | {"sensitivity_mv_per_pa": "1..4"}, pad, RADIO)
    assert spread.matters_most(2).label == "Sensitivity of the mic"
    assert {f.field for f in spread.figures} == {"sensitivity_mv_per_pa", "series_ohm", "z_in_ohm"}


def test_the_distance_may_be_a_range_too():
    spread = spread_of(MIC, RADIO | {"z_in_ohm": 600}, distance_mm="20..60")
    assert spread.matters_most(1).label == "distance of the voice"
    low, high = spread.band_dbu(1)
    # 1/r from 10 mm behind the lips, between the 5 % and 95 % draws of 20..60 mm
    assert high - low == pytest.approx(20 * math.log10(68 / 32), rel=0.06)


def test_replacing_values_is_the_same_as_solving_each_draw(monkeypatch):
    pieces = (
        MIC,
        gear("transformer", "coil", primary_h="0.5..3", leakage_h="2m..9m"),
        gear("l-pad", "pad", series_ohm="4k7 10%", shunt_ohm="100 5%"),
        RADIO,
    )
    together = spread_of(*pieces, draws=25)
    monkeypatch.setattr(module, "replaceable", lambda elements: False)
    apart = spread_of(*pieces, draws=25)
    np.testing.assert_allclose(together.speech_dbu, apart.speech_dbu, atol=1e-9)
    np.testing.assert_allclose(together.noise_dbu, apart.noise_dbu, atol=1e-9)


def test_a_transistor_finds_another_operating_point_in_each_draw():
    electret = gear("electret-2-wire", "capsule")
    biased = RADIO | {"bias_v": 5, "bias_ohm": "2k2..10k", "z_in_ohm": 1000}
    spread = spread_of(electret, biased, draws=40)
    assert np.ptp(spread.speech_dbu[:, 0]) > 0.01


def test_the_seed_is_fixed():
    first, second = spread_of(MIC, RADIO), spread_of(MIC, RADIO)
    np.testing.assert_array_equal(first.speech_dbu, second.speech_dbu)


def test_the_report_carries_the_band():
    row = levels_report(verdict_of(station_of(MIC, RADIO)))["stages"][-1]
    assert row["speech_low_dbu"] < row["speech_dbu"] < row["speech_high_dbu"]
    assert row["matters_most"] == "Input impedance of the radio"


@pytest.mark.parametrize("draws", [5, 24, 60])
def test_a_range_that_begins_at_nothing_can_be_drawn(draws):
    """A radio taken as biased, 0 to 9 V: few draws reach both ends, with the same circuit."""
    biased = gear("microphone-socket", "radio", z_in_ohm=600, bias_v="0..9", bias_ohm="2200..10k")
    spread = spread_of(gear("electret-2-wire", "capsule"), biased, draws=draws)
    low, high = spread.dc_band_v(0)
    assert 0 <= low < high
