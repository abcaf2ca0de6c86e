import pytest
from hypothesis import given
from hypothesis import strategies as st

from tonleiter.core.units.quantity import (
    DBU,
    DECIBEL,
    FARAD,
    HENRY,
    MILLIMETRE,
    OHM,
    VOLT,
    QuantityError,
    format_quantity,
    format_short,
    parse_quantity,
)


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("4k7", OHM, 4700.0),
        ("4.7k", OHM, 4700.0),
        ("4,7k", OHM, 4700.0),
        ("4700", OHM, 4700.0),
        ("4.7 kΩ", OHM, 4700.0),
        ("4.7 k\u2126", OHM, 4700.0),
        ("10kohm", OHM, 10e3),
        ("2R2", OHM, 2.2),
        ("2r2", OHM, 2.2),
        ("1M", OHM, 1e6),
        ("600", OHM, 600.0),
        ("600 Ω", OHM, 600.0),
        ("100n", FARAD, 100e-9),
        ("0.1u", FARAD, 0.1e-6),
        ("0,1 µF", FARAD, 0.1e-6),
        ("4n7", FARAD, 4.7e-9),
        ("1µ", FARAD, 1e-6),
        ("250m", HENRY, 0.25),
        ("8.2 mV", VOLT, 8.2e-3),
        ("1e-3", VOLT, 1e-3),
        ("−6.5 dB", DECIBEL, -6.5),
        ("-52 dBu", DBU, -52.0),
        ("30 mm", MILLIMETRE, 30.0),
    ],
)
def test_reads_what_people_write(text, unit, value):
    assert parse_quantity(text, unit) == value


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("4kk7", OHM),
        ("k", OHM),
        ("", OHM),
        ("4k7F", OHM),
        ("10 V", OHM),
        ("1..2", OHM),
        ("ten", OHM),
        ("4k7k", OHM),
        ("1e999", OHM),
        ("nan", OHM),
        ("inf", VOLT),
        ("3k", MILLIMETRE),
        ("10 dBV", DECIBEL),
    ],
)
def test_refuses_and_says_what_would_be_accepted(text, unit):
    with pytest.raises(QuantityError) as refusal:
        parse_quantity(text, unit)
    assert unit.examples in str(refusal.value)
    assert "\n" not in str(refusal.value)


@given(st.floats(1e-3, 9e9, allow_nan=False, allow_infinity=False))
def test_printed_value_reads_back_within_its_digits(value):
    assert parse_quantity(format_quantity(value, OHM, 6), OHM) == pytest.approx(value, rel=1e-5)


@given(st.floats(1e-3, 9e9, allow_nan=False, allow_infinity=False))
def test_short_form_reads_back(value):
    assert parse_quantity(format_short(value, 5), OHM) == pytest.approx(value, rel=1e-4)


@pytest.mark.parametrize(
    ("value", "printed"),
    [(4700, "4.7 kΩ"), (999.6, "1 kΩ"), (0.47, "470 mΩ"), (1e6, "1 MΩ"), (0, "0 Ω")],
)
def test_prints_with_engineering_prefix(value, printed):
    assert format_quantity(value, OHM) == printed


@pytest.mark.parametrize(
    ("value", "printed"), [(4700, "4k7"), (100, "100"), (2.2, "2R2"), (1e-7, "100n"), (1e6, "1M")]
)
def test_prints_part_values_as_on_a_schematic(value, printed):
    assert format_short(value) == printed


def test_negative_numbers_carry_a_real_minus():
    assert format_quantity(-6.5, DECIBEL) == "−6.5 dB"
