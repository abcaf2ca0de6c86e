"""Why a plan stands where it does, in the words of the figures that differ, and what it costs."""

from dataclasses import replace
from types import SimpleNamespace

import pytest

from tests.core.plan.test_weights import FINE
from tonleiter.core.plan.explain import explain

USUAL = replace(
    FINE,
    off_middle_db=0.2,
    has_knob=False,
    snr_db=50.0,
    hum_under_db=None,
    bass_hz=30.0,
    treble_hz=None,
    parts=4,
    price_class=1,
)


def plan(knob=None, **figures):
    """A plan that differs from the usual one in what is said of it here."""
    rows = (SimpleNamespace(knob=knob),)
    return SimpleNamespace(figures=replace(USUAL, **figures), assessment=SimpleNamespace(rows=rows))


def words(*plans):
    return explain(plans)


@pytest.mark.parametrize(
    ("figures", "why"),
    [
        ({"parts": 3}, "First: fewest parts, 3, "),
        ({"parts": 0}, "First: nothing to build, "),
        ({"isolated": True}, "First: the only one that parts the grounds, "),
        ({"snr_db": 50.6}, "First: least noise, 51 dB under speech, "),
        ({"bass_hz": None}, "First: deepest bass, "),
    ],
)
def test_it_stands_first_for_what_only_it_has(figures, why):
    assert words(plan(**figures), plan(), plan())[0].why.startswith(why)


@pytest.mark.parametrize("figures", [{"parts": 4}, {"snr_db": 50.5}, {"off_middle_db": 0.2}])
def test_what_others_have_as_well_is_no_reason(figures):
    why = words(plan(**figures), plan())[0].why
    assert why == "First: in the middle of the window, 50 dB over the noise"


def test_two_that_part_the_grounds_are_not_the_only_one():
    why = words(plan(isolated=True), plan(isolated=True))[0].why
    assert "only one" not in why


def test_no_supply_is_a_reason_where_another_wants_one():
    first, second = words(plan(), plan(supplies=1))
    assert "wants no supply" in first.why
    assert "wants no supply" not in second.why
    assert second.costs == "wants a supply"
    assert "supply" not in words(plan(supplies=1), plan(supplies=1))[0].costs


def test_nearest_the_middle_only_where_no_knob_is_turned():
    assert "nearest the middle, +0.2 dB" in words(plan(), plan(off_middle_db=2.0))[0].why
    gain = SimpleNamespace(mark="40", reaches=True)
    turned = words(plan(gain, has_knob=True), plan(gain, has_knob=True, off_middle_db=2.0))[0]
    assert "nearest" not in turned.why
    assert "microphone gain at 40" in turned.why
    short = SimpleNamespace(mark="100", reaches=False)
    assert "out of the gain's reach" in words(plan(short, has_knob=True))[0].why


def test_a_reason_too_many_is_left_out():
    why = words(plan(parts=0, isolated=True, snr_db=70.0, bass_hz=None), plan())[0].why
    assert why == "First: nothing to build, the only one that parts the grounds"


def test_each_place_has_its_word():
    said = [w.why.partition(":")[0] for w in words(*(plan() for _ in range(5)))]
    assert said == ["First", "Second", "Third", "Fourth", "Fifth"]


@pytest.mark.parametrize(
    ("figures", "costs"),
    [
        ({"snr_db": 48.5}, "2 dB more noise than the quietest"),
        ({"snr_db": 48.6}, "nothing worth a word"),
        ({"parts": 6}, "2 parts more"),
        ({"parts": 5}, "nothing worth a word"),
        ({"hum_under_db": 60.0}, "hum 60 dB under speech"),
        ({"hum_under_db": 70.0}, "nothing worth a word"),
        ({"bass_hz": 61.0}, "bass from 61 Hz"),
        ({"bass_hz": 60.0}, "nothing worth a word"),
        ({"off_middle_db": -1.5}, "−1.5 dB off the middle"),
        ({"off_middle_db": 1.4}, "nothing worth a word"),
        ({"outside_db": 2.0, "off_middle_db": 1.2}, "1 dB from the middle"),
        ({"reversible": False}, "changes the radio: keep the old resistors"),
    ],
)
def test_what_is_given_up_for_it(figures, costs):
    assert words(plan(), plan(**figures))[1].costs.startswith(costs)


def test_grounds_that_stay_joined_cost_where_another_parts_them():
    assert words(plan(isolated=True), plan())[1].costs == "grounds stay joined"
    assert words(plan(), plan())[1].costs == "nothing worth a word"


def test_three_costs_are_enough():
    much = plan(snr_db=40.0, supplies=1, parts=9, hum_under_db=50.0, reversible=False)
    assert len(words(plan(), much)[1].costs.split("; ")) == 3
