import pytest
from hypothesis import given
from hypothesis import strategies as st

from tonleiter.core.units.preferred import at_least, at_most, between, mantissas, nearest, step

# IEC 60063:2015, table 1
E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
E6 = (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)


def test_published_series():
    assert mantissas("E12") == E12
    assert mantissas("E6") == E6
    assert mantissas("E3") == (1.0, 2.2, 4.7)
    assert mantissas("E48")[:5] == (1.00, 1.05, 1.10, 1.15, 1.21)
    assert mantissas("E96")[-3:] == (9.31, 9.53, 9.76)


def test_every_coarser_series_is_in_the_finer():
    assert set(E6) < set(E12) < set(mantissas("E24"))
    assert set(mantissas("E48")) < set(mantissas("E96"))


@given(st.floats(1e-12, 1e9))
def test_nearest_is_within_half_a_place(value):
    # the widest gap of E12 is 8.2 to 10: half of it in ratio is sqrt(10/8.2)
    assert nearest(value, "E12") / value == pytest.approx(1, abs=0.125)


@given(st.floats(1e-9, 1e8), st.integers(-30, 30))
def test_stepping_there_and_back(value, count):
    start = nearest(value, "E24")
    assert step(step(start, count, "E24"), -count, "E24") == pytest.approx(start)


def test_step_from_between_two_places_goes_to_the_neighbour():
    assert step(5000, 1, "E12") == 5600
    assert step(5000, -1, "E12") == 4700


def test_at_least_and_between():
    assert at_least(4701, "E12") == 5600
    assert at_least(4700, "E12") == 4700
    assert between(1000, 2200, "E6") == [1000, 1500, 2200]
    with pytest.raises(ValueError, match="0 < low"):
        between(0, 10)


@pytest.mark.parametrize(
    ("value", "series", "wanted"),
    [(4.7e3, "E12", 4.7e3), (4.8e3, "E12", 4.7e3), (1.0e3, "E6", 1.0e3), (999.0, "E6", 680.0)],
)
def test_the_largest_preferred_value_not_above_one(value, series, wanted):
    assert at_most(value, series) == pytest.approx(wanted)


@given(st.floats(1e-9, 1e9))
def test_at_most_and_at_least_lie_on_either_side_and_meet_on_a_preferred_value(value):
    low, high = at_most(value), at_least(value)
    assert low <= value * (1 + 1e-9)
    assert high >= value * (1 - 1e-9)
    assert high / low < 1.2
    assert at_most(high) == pytest.approx(high)
