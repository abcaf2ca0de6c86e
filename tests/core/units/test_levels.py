import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tonleiter.core.units.levels import (
    Gain,
    Level,
    dbu_from_volts,
    format_dbu,
    parse_level,
    signed,
    spl_from_pascals,
    volts_from_dbu,
)
from tonleiter.core.units.quantity import QuantityError


def test_references_of_the_field():
    # 0 dBV = +2.218 dBu; home equipment's -10 dBV = -7.8 dBu; 0 dBu = 774.6 mV
    assert Level.from_dbv(0).dbu == pytest.approx(2.218, abs=5e-4)
    assert Level.from_dbv(-10).dbu == pytest.approx(-7.78, abs=5e-3)
    assert Level.from_dbu(0).volts_rms == pytest.approx(0.7746, abs=5e-5)
    assert spl_from_pascals(1.0) == pytest.approx(93.98, abs=5e-3)


def test_a_sine_swings_by_twice_its_peak():
    """0.7746 V RMS is 1.0954 V of peak, as every table of levels has it."""
    assert Level.from_dbu(0).volts_pp == pytest.approx(2 * 1.0954, abs=2e-4)


def test_dbm_equals_dbu_only_across_600_ohm():
    assert Level.from_dbm(-20, 600).dbu == pytest.approx(-20)
    assert Level.from_dbm(-20, 50).dbu == pytest.approx(-20 - 10 * math.log10(12))


def test_a_gain_is_no_level():
    level, gain = Level.from_dbu(-40), Gain(20)
    assert (level + gain).dbu == pytest.approx(-20)
    assert (level - Level.from_dbu(-50)).db == pytest.approx(10)
    assert (gain + gain).db == 40
    assert (-gain).db == -20
    with pytest.raises(TypeError):
        level + level
    with pytest.raises(TypeError):
        level + 20
    with pytest.raises(TypeError):
        gain + level
    with pytest.raises(TypeError):
        level - gain


@pytest.mark.parametrize(
    ("text", "volts"),
    [
        ("-42 dBV", 10 ** (-42 / 20)),
        ("−42 dBV", 10 ** (-42 / 20)),
        ("8.2 mV", 8.2e-3),
        ("8,2mV", 8.2e-3),
        ("30 mVpp", 30e-3 / (2 * math.sqrt(2))),
        ("30 mV p-p", 30e-3 / (2 * math.sqrt(2))),
        ("1 Vrms", 1.0),
        ("-52", math.sqrt(0.6) * 10 ** (-52 / 20)),
        ("0 dBu", math.sqrt(0.6)),
        ("+4 dBu", math.sqrt(0.6) * 10 ** (4 / 20)),
        ("0 dBm", math.sqrt(0.6)),
    ],
)
def test_levels_as_people_write_them(text, volts):
    assert parse_level(text).volts_rms == pytest.approx(volts, rel=1e-12)


@pytest.mark.parametrize("text", ["-20 dB", "-3 dBFS", "loud", "", "0 V", "-5 mV"])
def test_a_level_without_reference_is_refused(text):
    with pytest.raises(QuantityError, match="write it like"):
        parse_level(text)


def test_dbfs_needs_the_converter():
    assert Level.from_dbfs(-6.0206, 2.0).volts_rms == pytest.approx(1.0, rel=1e-5)


@given(st.floats(-150, 60))
def test_dbu_and_volts_are_inverse(dbu):
    assert dbu_from_volts(volts_from_dbu(dbu)) == pytest.approx(dbu, abs=1e-9)


def test_printing():
    assert format_dbu(-52.04) == "−52.0 dBu"
    assert signed(3.0, plus=True) == "+3.0"
    assert signed(-0.04) == "0.0"
    assert signed(float("-inf")) == "—"
